package longthread.demo;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.HashSet;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class TaskTest {
  @Test
  void a_task_is_read_from_its_file_with_its_header_taken_off() {
    Task task =
        Task.parse(
            "flow.task",
            "-- does: sql\n-- at: 01:05\n-- about: Why.\n-- reads: core.a, core.b\n-- writes: core.c\n"
                + "-- map: x = core.a#x IDENTITY, core.b#y TRANSFORMATION masked\n-- map: day =\n-- rows: core.a#k JOIN\nselect 1\n");
    assertThat(task.text()).isEqualTo("select 1");
    assertThat(task.pipeline()).isEqualTo("flow");
    assertThat(task.reads()).containsExactly("core.a", "core.b");
    assertThat(task.map().get("x"))
        .containsExactly(
            new Task.Source("core.a", "x", "IDENTITY", false),
            new Task.Source("core.b", "y", "TRANSFORMATION", true));
    assertThat(task.map().get("day")).isEmpty();
    assertThat(task.rows()).hasSize(1);
  }

  @Test
  void every_task_maps_only_from_what_it_reads_and_runs_after_what_feeds_it() {
    var written = new HashSet<String>();
    for (Task task : Task.all()) {
      for (List<Task.Source> sources : task.map().values()) {
        assertThat(task.reads())
            .as(task.name())
            .containsAll(sources.stream().map(Task.Source::dataset).toList());
      }
      assertThat(task.reads()).containsAll(task.rows().stream().map(Task.Source::dataset).toList());
      task.reads().stream()
          .filter(name -> name.startsWith("raw.") || name.startsWith("lake/"))
          .forEach(name -> assertThat(written).as(task.name()).contains(name));
      written.addAll(task.writes());
    }
    assertThat(written).hasSizeGreaterThan(9);
  }

  @Test
  void a_day_is_filled_in_with_its_period() {
    LocalDate day = LocalDate.of(2031, 5, 31);
    assertThat(Nightshift.fill("{day} {day8} {period}", day))
        .isEqualTo("2031-05-31 20310531 2031-05-21");
    assertThat(Nightshift.fill("{period}", LocalDate.of(2031, 5, 10))).isEqualTo("2031-05-01");
  }

  @ParameterizedTest
  @ValueSource(strings = {"00:10", "02:59", "03:00", "05:59", "06:00", "12:00", "23:59"})
  void the_last_night_is_long_enough_over_and_no_later_one_is_due(String time) {
    Instant now = Instant.parse("2031-05-10T" + time + ":00Z");
    LocalDateTime start = Play.lastNight(now);
    Duration since = Duration.between(start.toInstant(ZoneOffset.UTC), now);
    // The file is due 70 minutes into the night and counts as missing 144 minutes later; the first
    // task is due again a day after minute 5, and would count as missing 144 minutes after that.
    assertThat(since).isGreaterThan(Duration.ofMinutes(70 + 144));
    assertThat(since).isLessThan(Duration.ofHours(24).plusMinutes(5 + 144));
  }
}
