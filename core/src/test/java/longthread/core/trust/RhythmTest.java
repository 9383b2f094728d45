package longthread.core.trust;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;

class RhythmTest {
  private static final Instant MONDAY = Instant.parse("2031-05-05T04:00:00Z");

  private static List<Instant> workdays(int weeks) {
    var times = new ArrayList<Instant>();
    for (int day = 0; day < weeks * 7; day++) {
      if (day % 7 < 5) {
        times.add(MONDAY.plus(Duration.ofDays(day)));
      }
    }
    return times;
  }

  @Test
  void it_needs_a_few_gaps_to_speak() {
    assertThat(Rhythm.of(workdays(1).subList(0, 4))).isEmpty();
    assertThat(Rhythm.of(workdays(1))).isPresent();
  }

  @Test
  void a_job_that_rests_at_the_weekend_is_due_on_monday() {
    Rhythm rhythm = Rhythm.of(workdays(4)).orElseThrow();
    Instant friday = rhythm.last();
    Rhythm.Due due = rhythm.after(friday);
    assertThat(due.expected()).isEqualTo(friday.plus(Duration.ofDays(3)));
    assertThat(due.at(friday.plus(Duration.ofDays(2)))).isEqualTo(Timeliness.ON_TIME);
    assertThat(due.at(friday.plus(Duration.ofHours(75)))).isEqualTo(Timeliness.ON_TIME);
    assertThat(due.at(friday.plus(Duration.ofHours(84)))).isEqualTo(Timeliness.LATE);
    assertThat(due.at(friday.plus(Duration.ofHours(120)))).isEqualTo(Timeliness.OVERDUE);
  }

  @Test
  void an_hourly_job_that_rests_at_night_is_not_due_at_night() {
    var times = new ArrayList<Instant>();
    for (int day = 0; day < 28; day++) {
      for (int hour = 0; hour < 12; hour++) {
        times.add(MONDAY.plus(Duration.ofDays(day)).plus(Duration.ofHours(hour)));
      }
    }
    Rhythm rhythm = Rhythm.of(times).orElseThrow();
    assertThat(rhythm.after(rhythm.last()).expected())
        .isAfter(rhythm.last().plus(Duration.ofHours(11)));
    Instant noon = MONDAY.plus(Duration.ofDays(27)).plus(Duration.ofHours(5));
    assertThat(rhythm.after(noon).expected()).isEqualTo(noon.plus(Duration.ofHours(1)));
  }

  @Test
  void what_varies_is_given_more_time() {
    var random = new Random(4);
    var steady = new ArrayList<Instant>();
    var unsteady = new ArrayList<Instant>();
    for (int day = 0; day < 40; day++) {
      steady.add(MONDAY.plus(Duration.ofDays(day)));
      unsteady.add(MONDAY.plus(Duration.ofDays(day)).plus(Duration.ofMinutes(random.nextInt(400))));
    }
    Rhythm a = Rhythm.of(steady).orElseThrow();
    Rhythm b = Rhythm.of(unsteady).orElseThrow();
    Duration grantedA = Duration.between(a.last(), a.after(a.last()).lateAfter());
    Duration grantedB = Duration.between(b.last(), b.after(b.last()).lateAfter());
    assertThat(grantedB).isGreaterThan(grantedA);
  }

  @Property(tries = 60)
  void the_order_of_the_times_does_not_matter_and_the_next_is_after_now(
      @ForAll @IntRange(min = 1, max = 1_000_000) int seed,
      @ForAll @IntRange(min = 0, max = 2_000) int hoursLater) {
    var random = new Random(seed);
    var times = new ArrayList<Instant>();
    Instant at = MONDAY;
    for (int i = 0; i < 5 + random.nextInt(40); i++) {
      at = at.plusSeconds(600 + random.nextInt(90_000));
      times.add(at);
    }
    Rhythm rhythm = Rhythm.of(times).orElseThrow();
    Collections.shuffle(times, random);
    assertThat(Rhythm.of(times).orElseThrow().after(rhythm.last()))
        .isEqualTo(rhythm.after(rhythm.last()));
    Instant now = rhythm.last().plus(Duration.ofHours(hoursLater));
    assertThat(rhythm.nextExpected(rhythm.last(), now)).isAfter(now);
    Rhythm.Due due = rhythm.after(rhythm.last());
    assertThat(due.expected()).isBefore(due.lateAfter());
    assertThat(due.lateAfter()).isBefore(due.overdueAfter());
  }
}
