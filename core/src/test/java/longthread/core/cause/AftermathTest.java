package longthread.core.cause;

import static longthread.core.cause.Aftermath.State.MOVED;
import static longthread.core.cause.Aftermath.State.STAYED;
import static longthread.core.cause.Aftermath.State.UNMEASURED;
import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import longthread.core.history.RunState;
import longthread.core.trust.Usual;
import org.junit.jupiter.api.Test;

class AftermathTest {
  private static final Instant DONE = Instant.parse("2026-05-20T12:00:00Z");

  /** A figure each night up to some nights after the change, newest first. */
  private static Health.Series series(String figure, double before, double after, int since) {
    var samples = new ArrayList<Usual.Sample>();
    for (int night = since; night > -20; night--) {
      Instant at = DONE.plus(Duration.ofHours(24L * night - 10));
      double wobble = 1 + 0.01 * Math.floorMod(night, 3);
      samples.add(new Usual.Sample(at, (night > 0 ? after : before) * wobble));
    }
    return new Health.Series("litres", figure, samples);
  }

  private static List<Health.Run> runs(long before, Long after) {
    var runs = new ArrayList<Health.Run>();
    for (int night = 2; night > -20; night--) {
      Instant at = DONE.plus(Duration.ofHours(24L * night - 10));
      Long rows = night > 0 ? after : Long.valueOf(before + Math.floorMod(night, 3));
      RunState state = night == 1 ? RunState.FAILED : RunState.COMPLETED;
      runs.add(new Health.Run(UUID.randomUUID(), at, at, state, null, rows));
    }
    return runs;
  }

  @Test
  void figures_of_columns_move_or_stay() {
    Aftermath.Seen moved =
        Aftermath.values(
            List.of(series("null share", 0.1, 0.1, 3), series("mean", 20, 4.4, 3)), DONE);
    assertThat(moved.state()).isEqualTo(MOVED);
    assertThat(moved.words()).contains("the mean of litres is 4.4").contains("times less");
    assertThat(moved.at()).as("when it began").isBetween(DONE, DONE.plus(Duration.ofDays(1)));
    Aftermath.Seen stayed = Aftermath.values(List.of(series("mean", 20, 20.5, 3)), DONE);
    assertThat(stayed.state()).isEqualTo(STAYED);
    assertThat(stayed.words()).isEqualTo("the mean of litres stayed usual");
    assertThat(
            Aftermath.values(List.of(series("mean", 20, 20.5, 3), series("max", 9, 9, 3)), DONE)
                .words())
        .isEqualTo("all 2 figures of its columns stayed usual");
  }

  @Test
  void what_cannot_be_said_is_not() {
    assertThat(Aftermath.values(List.of(), DONE).state()).isEqualTo(UNMEASURED);
    Aftermath.Seen quiet = Aftermath.values(List.of(series("mean", 20, 4, 0)), DONE);
    assertThat(quiet.state()).isEqualTo(UNMEASURED);
    assertThat(quiet.words()).isEqualTo("no figures since the change");
    Health.Series whole = series("mean", 20, 4, 3);
    var young =
        new Health.Series("litres", "mean", whole.newestFirst().subList(0, 3 + 6)); // 6 from before
    assertThat(Aftermath.values(List.of(young), DONE).words())
        .isEqualTo("fewer than 7 figures from before the change");
    assertThat(Aftermath.rows(List.of(), DONE).state()).isEqualTo(UNMEASURED);
    assertThat(Aftermath.rows(runs(1000, null), DONE).words())
        .isEqualTo("no figures since the change");
  }

  @Test
  void counts_of_rows_move_or_stay() {
    Aftermath.Seen moved = Aftermath.rows(runs(1000, 300L), DONE);
    assertThat(moved.state()).isEqualTo(MOVED);
    assertThat(moved.words()).isEqualTo("a run wrote 300 rows; usual were 1,001");
    assertThat(Aftermath.rows(runs(1000, 1010L), DONE).state()).isEqualTo(STAYED);
  }
}
