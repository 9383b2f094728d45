package longthread.core.cause;

import static longthread.core.graph.Graphs.graph;
import static longthread.core.graph.Graphs.node;
import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.stream.Collectors;
import longthread.core.graph.LineageGraph;
import longthread.core.history.RunState;
import org.junit.jupiter.api.Test;

class CauseSearchTest {
  private static final Instant MIDNIGHT = Instant.parse("2031-05-10T00:00:00Z");
  private final LineageGraph graph =
      graph(
          "file ROWS raw by @n/land",
          "raw ROWS core by @n/build",
          "core ROWS mart by @n/sum",
          "mart ROWS report by report",
          "other ROWS mart by @n/sum",
          "src ROWS other by @n/other",
          "core ROWS aside by @n/aside");
  private final Map<String, List<Health.Run>> runs = new HashMap<>();
  private final Map<String, List<List<Health.CheckResult>>> checks = new HashMap<>();
  private final Health health =
      new Health() {
        @Override
        public List<Run> runs(String job) {
          return runs.getOrDefault(job, List.of());
        }

        @Override
        public Collection<List<CheckResult>> checks(String dataset) {
          return checks.getOrDefault(dataset, List.of());
        }
      };

  /**
   * Nightly runs at an hour, newest first: c completed, f failed, 0 completed without rows, . none.
   */
  private void nights(String job, int hour, String newestFirst) {
    var list = new ArrayList<Health.Run>();
    for (int back = 0; back < newestFirst.length(); back++) {
      char c = newestFirst.charAt(back);
      if (c != '.') {
        Instant start = MIDNIGHT.minus(Duration.ofDays(back)).plus(Duration.ofHours(hour));
        boolean failed = c == 'f';
        list.add(
            new Health.Run(
                UUID.randomUUID(),
                start,
                start.plusSeconds(60),
                failed ? RunState.FAILED : RunState.COMPLETED,
                failed ? "boom" : null,
                failed ? null : c == '0' ? 0L : 100L));
      }
    }
    runs.put(job, list);
  }

  private Causes search(String symptom, int hour) {
    return CauseSearch.of(
        graph, node(graph, symptom), health, MIDNIGHT.plus(Duration.ofHours(hour)));
  }

  private static String asText(Causes causes) {
    return causes.suspects().stream()
        .map(
            s ->
                s.incident().ref()
                    + " "
                    + s.incident().what().word()
                    + " explains "
                    + s.explains().stream()
                        .map(Causes.Incident::ref)
                        .collect(Collectors.joining(",")))
        .collect(Collectors.joining("; "));
  }

  private void allWell() {
    nights("@n/land", 1, "ccccc");
    nights("@n/build", 2, "ccccc");
    nights("@n/sum", 3, "ccccc");
    nights("@n/other", 2, "ccccc");
    nights("@n/aside", 2, "ccccc");
  }

  @Test
  void where_all_is_well_nobody_is_suspected() {
    allWell();
    assertThat(search("report", 8).suspects()).isEmpty();
  }

  @Test
  void a_failed_task_is_led_past_to_the_load_that_never_came() {
    allWell();
    nights("@n/land", 1, ".cccc");
    nights("@n/build", 2, ".cccc");
    nights("@n/sum", 3, "fcccc");
    Causes causes = search("report", 8);
    assertThat(asText(causes)).isEqualTo("@n/land missing explains @n/build,@n/sum");
    assertThat(causes.suspects().get(0).score()).isEqualTo(1.0);
    assertThat(causes.effects()).extracting(Causes.Effect::by).containsOnly("@n/land");
    assertThat(causes.suspects().get(0).thread()).hasSize(3);
  }

  @Test
  void a_failure_beside_the_thread_is_not_guilty() {
    allWell();
    nights("@n/aside", 2, "fcccc");
    assertThat(search("report", 8).suspects()).isEmpty();
  }

  @Test
  void a_later_trouble_upstream_does_not_explain_an_earlier_one_downstream() {
    allWell();
    nights("@n/land", 5, "fcccc");
    nights("@n/sum", 3, "fcccc");
    assertThat(asText(search("report", 8)))
        .isEqualTo("@n/sum failed explains ; @n/land failed explains ");
  }

  @Test
  void a_streak_of_failures_counts_from_its_first() {
    allWell();
    nights("@n/other", 2, "ffccc");
    Causes causes = search("report", 8);
    assertThat(causes.suspects().get(0).incident().at())
        .isEqualTo(MIDNIGHT.minus(Duration.ofDays(1)).plus(Duration.ofHours(2)).plusSeconds(60));
    assertThat(causes.suspects().get(0).incident().evidence()).isEqualTo("its last 2 runs failed");
    assertThat(causes.suspects().get(0).incident().error()).isEqualTo("boom");
  }

  @Test
  void a_green_run_that_wrote_nothing_is_suspected() {
    allWell();
    nights("@n/build", 2, "0cccc");
    assertThat(asText(search("report", 8))).isEqualTo("@n/build empty explains ");
  }

  @Test
  void a_run_is_missing_only_once_it_is_well_past_its_time() {
    allWell();
    nights("@n/land", 1, ".cccc");
    assertThat(search("report", 2).suspects()).isEmpty();
    assertThat(asText(search("report", 6))).isEqualTo("@n/land missing explains ");
  }

  @Test
  void a_run_that_goes_on_far_too_long_is_late() {
    allWell();
    Instant start = MIDNIGHT.plus(Duration.ofHours(1));
    var list = new ArrayList<>(runs.get("@n/land"));
    list.set(0, new Health.Run(UUID.randomUUID(), start, null, RunState.RUNNING, null, null));
    runs.put("@n/land", list);
    assertThat(asText(search("report", 6))).isEqualTo("@n/land late explains ");
  }

  @Test
  void a_failed_check_follows_from_what_went_wrong_before_it() {
    allWell();
    nights("@n/land", 1, "fcccc");
    Instant at = MIDNIGHT.plus(Duration.ofHours(4));
    checks.put(
        "core",
        List.of(
            List.of(
                new Health.CheckResult("rows", at, false, null, "found 0"),
                new Health.CheckResult("rows", at.minus(Duration.ofDays(1)), true, null, null))));
    assertThat(asText(search("report", 8))).isEqualTo("@n/land failed explains core");
  }

  @Test
  void recovery_is_expected_after_the_next_run_of_the_cause_and_the_usual_way_down() {
    allWell();
    nights("@n/land", 1, ".cccc");
    assertThat(search("report", 8).expectedRecovery())
        .isEqualTo(MIDNIGHT.plus(Duration.ofDays(1)).plus(Duration.ofHours(3)).plusSeconds(60));
  }

  @Test
  void trouble_on_a_cycle_ends() {
    LineageGraph cycle = graph("a ROWS b by @n/1", "b ROWS a by @n/2");
    nights("@n/1", 1, "fcc");
    nights("@n/2", 2, "fcc");
    Causes causes =
        CauseSearch.of(cycle, node(cycle, "a"), health, MIDNIGHT.plus(Duration.ofHours(8)));
    assertThat(asText(causes)).isEqualTo("@n/1 failed explains @n/2");
  }

  // ------------------------------------------------------------------ figures and changes

  /** Health with one more sort of knowledge beside the runs. */
  private Health with(
      Map<String, List<Health.Series>> series,
      Map<String, List<Health.Change>> schemas,
      Map<String, List<Health.Change>> code) {
    return new Health() {
      @Override
      public List<Run> runs(String job) {
        return runs.getOrDefault(job, List.of());
      }

      @Override
      public Collection<List<CheckResult>> checks(String dataset) {
        return List.of();
      }

      @Override
      public Collection<Series> series(String dataset) {
        return series.getOrDefault(dataset.substring(dataset.indexOf('/') + 1), List.of());
      }

      @Override
      public List<Change> schemaChanges(String dataset) {
        return schemas.getOrDefault(dataset.substring(dataset.indexOf('/') + 1), List.of());
      }

      @Override
      public List<Change> codeChanges(String job) {
        return code.getOrDefault(job, List.of());
      }
    };
  }

  /** The mean of a column on the last nights at an hour, newest first. */
  private static Health.Series mean(String column, int hour, double... newestFirst) {
    var samples = new ArrayList<longthread.core.trust.Usual.Sample>();
    for (int back = 0; back < newestFirst.length; back++) {
      samples.add(
          new longthread.core.trust.Usual.Sample(
              MIDNIGHT.minus(Duration.ofDays(back)).plus(Duration.ofHours(hour)),
              newestFirst[back]));
    }
    return new Health.Series(column, "mean", samples);
  }

  private Causes ask(Health with, Symptom symptom, int hour) {
    return CauseSearch.of(
        new CauseSearch.Question(
            graph,
            node(graph, "report"),
            symptom,
            with,
            MIDNIGHT.plus(Duration.ofHours(hour)),
            null));
  }

  @Test
  void a_unit_slip_is_found_where_it_begins_and_its_echo_is_an_effect() {
    allWell();
    var series =
        Map.of(
            "raw", List.of(mean("fat", 2, 41, 4.1, 4.2, 4.0, 4.1, 4.1, 4.0, 4.2, 4.1)),
            "core", List.of(mean("fat", 3, 41, 4.1, 4.2, 4.0, 4.1, 4.1, 4.0, 4.2, 4.1)));
    Causes causes = ask(with(series, Map.of(), Map.of()), Symptom.WRONG_VALUES, 8);
    assertThat(causes.suspects()).hasSize(1);
    Causes.Incident first = causes.suspects().get(0).incident();
    assertThat(first.ref()).endsWith("raw");
    assertThat(first.column()).isEqualTo("fat");
    assertThat(first.evidence()).contains("mean of fat is 41").contains("10 times as much");
    assertThat(causes.suspects().get(0).explains())
        .extracting(Causes.Incident::ref)
        .singleElement()
        .asString()
        .endsWith("core");
    assertThat(ask(with(series, Map.of(), Map.of()), Symptom.LATE, 8).suspects()).isEmpty();
  }

  @Test
  void figures_of_a_load_that_was_not_taken_yet_are_not_in_the_symptom() {
    allWell();
    nights("@n/sum", 1, "ccccc"); // it took core before this night's load
    var series =
        Map.of("core", List.of(mean("fat", 3, 41, 4.1, 4.2, 4.0, 4.1, 4.1, 4.0, 4.2, 4.1)));
    assertThat(ask(with(series, Map.of(), Map.of()), Symptom.WRONG_VALUES, 8).suspects()).isEmpty();
  }

  @Test
  void a_schema_change_explains_the_failure_that_follows_though_its_data_was_never_taken() {
    allWell();
    nights("@n/land", 1, "fcccc");
    var change = new Health.Change(MIDNIGHT.plus(Duration.ofMinutes(30)), "column litres is gone");
    var schemas = Map.of("file", List.of(change));
    Causes causes = ask(with(Map.of(), schemas, Map.of()), Symptom.ANY, 8);
    assertThat(causes.suspects().get(0).incident().what()).isEqualTo(Causes.What.SCHEMA_CHANGED);
    assertThat(causes.suspects().get(0).explains())
        .extracting(Causes.Incident::ref)
        .contains("@n/land");
    nights("@n/land", 1, "ccccc");
    nights("@n/land", 0, "ccccc"); // it ran before the change, so nothing was stopped
    Causes calm = ask(with(Map.of(), schemas, Map.of()), Symptom.ANY, 8);
    assertThat(calm.suspects()).isEmpty();
    assertThat(calm.changes()).isEmpty();
  }

  @Test
  void a_change_that_moved_no_figure_is_listed_apart() {
    allWell();
    var change = new Health.Change(MIDNIGHT.minus(Duration.ofDays(2)), "version 2");
    Causes causes =
        ask(with(Map.of(), Map.of(), Map.of("@n/build", List.of(change))), Symptom.ANY, 8);
    assertThat(causes.suspects()).isEmpty();
    assertThat(causes.changes()).extracting(Causes.Incident::ref).containsExactly("@n/build");
  }
}
