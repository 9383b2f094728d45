package longthread.core.cause;

import static longthread.core.graph.Graphs.graph;
import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import longthread.core.graph.LineageGraph;
import longthread.core.history.RunState;
import longthread.core.trust.HealthState;
import org.junit.jupiter.api.Test;

class EstateHealthTest {
  private static final Instant MIDNIGHT = Instant.parse("2031-05-10T00:00:00Z");
  private final LineageGraph graph =
      graph(
          "file ROWS raw by @n/land",
          "raw ROWS core by @n/build",
          "core ROWS mart by @n/sum",
          "mart ROWS report by report",
          "src ROWS other by @n/other");

  /** Nightly runs at an hour, newest first: c completed, f failed, . none. */
  private static List<Health.Run> nights(int hour, String newestFirst) {
    var list = new ArrayList<Health.Run>();
    for (int back = 0; back < newestFirst.length(); back++) {
      char c = newestFirst.charAt(back);
      if (c != '.') {
        Instant start = MIDNIGHT.minus(Duration.ofDays(back)).plus(Duration.ofHours(hour));
        RunState state = c == 'f' ? RunState.FAILED : RunState.COMPLETED;
        list.add(
            new Health.Run(UUID.randomUUID(), start, start.plusSeconds(60), state, null, null));
      }
    }
    return list;
  }

  private static OwnHealth own(int hour, String newestFirst, int now) {
    return OwnHealth.ofJob(
        "@n/job", nights(hour, newestFirst), MIDNIGHT.plus(Duration.ofHours(now)));
  }

  @Test
  void a_job_that_runs_in_its_rhythm_is_healthy_until_it_is_late() {
    OwnHealth healthy = own(2, "ccccccc", 20);
    assertThat(healthy.state()).isEqualTo(HealthState.HEALTHY);
    assertThat(healthy.successAt()).isEqualTo(MIDNIGHT.plus(Duration.ofHours(2)).plusSeconds(60));
    assertThat(healthy.expectedAt()).isEqualTo(MIDNIGHT.plus(Duration.ofHours(26)).plusSeconds(60));
    assertThat(healthy.recheckAt()).isAfter(MIDNIGHT.plus(Duration.ofHours(26)));
    assertThat(own(2, ".cccccc", 8).state()).isEqualTo(HealthState.LATE);
    assertThat(own(2, "..ccccc", 20).state()).isEqualTo(HealthState.OVERDUE);
  }

  @Test
  void a_job_without_runs_is_unknown_and_one_whose_last_run_failed_has_failed() {
    assertThat(own(2, "", 8).state()).isEqualTo(HealthState.UNKNOWN);
    assertThat(own(2, "fcccc", 8).state()).isEqualTo(HealthState.FAILED);
    assertThat(own(2, "cfccc", 8).state()).isEqualTo(HealthState.HEALTHY);
  }

  private EstateHealth estate(String... jobsAndNights) {
    var bad = new LinkedHashMap<String, OwnHealth>();
    for (int i = 0; i < jobsAndNights.length; i += 3) {
      String job = jobsAndNights[i];
      List<Health.Run> runs = nights(Integer.parseInt(jobsAndNights[i + 1]), jobsAndNights[i + 2]);
      OwnHealth own = OwnHealth.ofJob(job, runs, MIDNIGHT.plus(Duration.ofHours(12)));
      if (own.state().isBad()) {
        bad.put(job, own);
      }
    }
    return EstateHealth.of(graph, bad, Map.of("@n/sum", "@n/nightly"));
  }

  private int asset(String ending) {
    for (int i = 0; i < graph.assetCount(); i++) {
      if (graph.assetReference(i).endsWith(ending)) {
        return i;
      }
    }
    throw new IllegalArgumentException(ending);
  }

  @Test
  void effects_are_folded_under_their_cause_and_assets_below_inherit_from_it() {
    EstateHealth estate =
        estate(
            "@n/land",
            "1",
            ".ccccc",
            "@n/build",
            "2",
            ".ccccc",
            "@n/sum",
            "3",
            "fccccc",
            "@n/other",
            "3",
            "fccccc");
    assertThat(estate.causes())
        .extracting(cause -> cause.incident().ref() + " " + cause.state().word())
        .containsExactly("@n/other failed", "@n/land late");
    EstateHealth.Cause land = estate.causes().get(1);
    assertThat(land.effects()).extracting(Causes.Incident::ref).contains("@n/build", "@n/sum");
    assertThat(land.affects()).isEqualTo(4); // raw, core, mart, report
    assertThat(estate.upstreamOf(asset("report"))).containsExactly(land);
    assertThat(estate.upstreamOf(asset("file"))).isEmpty();
    assertThat(estate.causeOf(land.effects().get(0))).contains(land);
    assertThat(estate.affected(land, at -> at == asset("report"))).containsExactly(asset("report"));
  }

  @Test
  void of_two_causes_the_worse_comes_first_and_then_the_one_on_which_more_rests() {
    EstateHealth estate = estate("@n/land", "1", "fccccc", "@n/other", "3", "fccccc");
    assertThat(estate.causes())
        .extracting(cause -> cause.incident().ref())
        .containsExactly("@n/land", "@n/other");
    assertThat(EstateHealth.of(graph, Map.of(), Map.of()).causes()).isEmpty();
  }

  @Test
  void what_is_wrong_with_a_pipeline_follows_from_its_task() {
    EstateHealth estate = estate("@n/sum", "3", "fccccc", "@n/nightly", "4", "fccccc");
    assertThat(estate.causes())
        .extracting(cause -> cause.incident().ref())
        .containsExactly("@n/sum");
    assertThat(estate.causes().get(0).effects())
        .extracting(Causes.Incident::ref)
        .containsExactly("@n/nightly");
  }
}
