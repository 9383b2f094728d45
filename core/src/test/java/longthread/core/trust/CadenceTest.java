package longthread.core.trust;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import net.jqwik.api.constraints.LongRange;
import org.junit.jupiter.api.Test;

class CadenceTest {
  private static final Instant MONDAY = Instant.parse("2031-05-05T04:00:00Z");

  private static List<Instant> nights(int days, boolean weekends) {
    var times = new ArrayList<Instant>();
    for (int day = 0; day < days; day++) {
      if (weekends || day % 7 < 5) {
        times.add(MONDAY.plus(Duration.ofDays(day)));
      }
    }
    return times;
  }

  @Test
  void a_nightly_report_is_overdue_after_half_a_day_more() {
    List<Instant> nights = nights(10, true);
    Cadence rhythm = Cadence.of(nights).orElseThrow();
    assertThat(rhythm.usual()).isEqualTo(Duration.ofDays(1));
    Instant last = nights.get(9);
    assertThat(rhythm.overdueAfter(last)).isEqualTo(last.plus(Duration.ofHours(37)));
  }

  @Test
  void who_rests_at_weekends_is_not_missed_on_a_sunday() {
    List<Instant> nights = nights(26, false);
    Cadence rhythm = Cadence.of(nights).orElseThrow();
    Instant friday = MONDAY.plus(Duration.ofDays(25));
    assertThat(rhythm.usual()).isEqualTo(Duration.ofDays(1));
    assertThat(rhythm.overdueAfter(friday)).isAfter(friday.plus(Duration.ofDays(3)));
  }

  @Test
  void a_few_reports_show_no_rhythm_and_repeated_times_count_once() {
    assertThat(Cadence.of(nights(4, true))).isEmpty();
    var doubled = new ArrayList<>(nights(4, true));
    doubled.addAll(nights(4, true));
    assertThat(Cadence.of(doubled)).isEmpty();
  }

  @Property
  void the_order_of_the_times_plays_no_part(
      @ForAll("times") List<Instant> times, @ForAll Random by) {
    var shuffled = new ArrayList<>(times);
    Collections.shuffle(shuffled, by);
    assertThat(Cadence.of(shuffled)).isEqualTo(Cadence.of(times));
  }

  @Property
  void what_came_in_its_usual_time_is_neither_missing_nor_overdue(
      @ForAll("times") List<Instant> times) {
    Cadence cadence = Cadence.of(times, 1).orElseThrow();
    Instant last = Collections.max(times);
    Instant due = cadence.nextAfter(last);
    assertThat(cadence.usual()).isLessThanOrEqualTo(cadence.longest());
    assertThat(cadence.isMissing(last, due)).isFalse();
    assertThat(cadence.isMissing(last, due.plus(cadence.tolerance()).plusMillis(1))).isTrue();
    assertThat(cadence.overdueAfter(last)).isAfter(due);
  }

  @Property
  void the_next_expected_time_lies_ahead_by_no_more_than_a_gap(
      @ForAll("times") List<Instant> times, @ForAll @LongRange(min = 0, max = 900_000) long later) {
    Cadence cadence = Cadence.of(times, 1).orElseThrow();
    Instant last = Collections.max(times);
    Instant now = last.plusSeconds(later);
    Instant next = cadence.nextExpected(last, now);
    assertThat(next).isAfter(now).isBeforeOrEqualTo(now.plus(cadence.usual()));
    assertThat(Duration.between(last, next).toMillis() % cadence.usual().toMillis()).isZero();
  }

  @Provide
  Arbitrary<List<Instant>> times() {
    return Arbitraries.longs()
        .between(1, 86_400)
        .set()
        .ofMinSize(6)
        .ofMaxSize(20)
        .map(seconds -> seconds.stream().map(MONDAY::plusSeconds).toList());
  }
}
