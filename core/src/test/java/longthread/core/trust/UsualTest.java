package longthread.core.trust;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.function.IntToDoubleFunction;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;

class UsualTest {
  private static final Instant MONDAY = Instant.parse("2031-05-05T04:00:00Z");

  private static List<Usual.Sample> days(int count, IntToDoubleFunction value) {
    var samples = new ArrayList<Usual.Sample>();
    for (int day = 0; day < count; day++) {
      samples.add(new Usual.Sample(MONDAY.plus(Duration.ofDays(day)), value.applyAsDouble(day)));
    }
    return samples;
  }

  private static Usual at(List<Usual.Sample> samples, int day) {
    return Usual.of(samples, MONDAY.plus(Duration.ofDays(day))).orElseThrow();
  }

  @Test
  void it_says_nothing_from_too_few_samples() {
    assertThat(Usual.of(days(Usual.MIN_SAMPLES - 1, day -> 10), MONDAY)).isEmpty();
    assertThat(Usual.of(days(Usual.MIN_SAMPLES, day -> 10), MONDAY)).isPresent();
  }

  @Test
  void single_outliers_do_not_move_it() {
    Usual usual = at(days(20, day -> day == 7 ? 10_000 : 100 + day % 3), 20);
    assertThat(usual.expected()).isCloseTo(101, within(2.0));
    assertThat(usual.distance(10_000)).isGreaterThan(50);
  }

  @Test
  void growth_is_followed() {
    assertThat(at(days(30, day -> 1_000 + 20 * day), 32).expected()).isCloseTo(1_640, within(10.0));
  }

  @Test
  void a_weekday_with_a_level_of_its_own_is_judged_by_itself() {
    List<Usual.Sample> samples = days(35, day -> day % 7 == 6 ? 10 : 1_000 + day % 4);
    assertThat(at(samples, 41).expected()).isCloseTo(10, within(1.0)); // a Sunday
    assertThat(at(samples, 42).expected()).isCloseTo(1_001, within(10.0));
  }

  @Test
  void what_never_moved_may_still_move_a_little() {
    Usual usual = at(days(20, day -> 200), 20);
    assertThat(usual.distance(204)).isLessThan(1);
    assertThat(usual.distance(300)).isGreaterThan(8);
  }

  @Property(tries = 60)
  void another_unit_changes_nothing_but_the_unit(
      @ForAll @IntRange(min = 1, max = 1_000_000) int seed,
      @ForAll @IntRange(min = 1, max = 1_000) int factor) {
    var random = new Random(seed);
    double[] noise = random.doubles(50).toArray();
    Usual one = at(days(40, day -> 50 + 5 * noise[day]), 41);
    Usual other = at(days(40, day -> factor * (50 + 5 * noise[day])), 41);
    assertThat(other.expected()).isCloseTo(factor * one.expected(), within(factor * 1e-6));
    assertThat(other.distance(factor * 70.0)).isCloseTo(one.distance(70), within(1e-6));
  }
}
