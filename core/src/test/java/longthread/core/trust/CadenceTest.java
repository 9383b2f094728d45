package longthread.core.trust;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
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
}
