package longthread.core.trust;

import static longthread.core.graph.Graphs.graph;
import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import longthread.core.graph.LineageGraph;
import org.junit.jupiter.api.Test;

class SupplyTest {
  private static final Instant NOON = Instant.parse("2031-05-05T12:00:00Z");
  private final Map<String, List<Supply.Load>> loads = new HashMap<>();

  /** Completed runs of a minute each, that began so many hours before noon, newest first. */
  private void ran(String job, int... hoursBefore) {
    loads.put(
        job,
        Arrays.stream(hoursBefore)
            .mapToObj(h -> NOON.minusSeconds(h * 3_600L))
            .map(start -> new Supply.Load(start, start.plusSeconds(60)))
            .toList());
  }

  private Supply supply(LineageGraph graph, String asset) {
    return Supply.of(
        graph,
        graph.asset(reference(graph, asset)).orElseThrow(),
        job -> loads.getOrDefault(job, List.of()),
        NOON);
  }

  private static String reference(LineageGraph graph, String asset) {
    for (int i = 0; i < graph.assetCount(); i++) {
      if (graph.assetReference(i).endsWith(asset)) {
        return graph.assetReference(i);
      }
    }
    throw new IllegalArgumentException(asset);
  }

  private static Optional<Instant> takenAt(Supply supply, LineageGraph graph, String asset) {
    return supply.takenAt(graph.asset(reference(graph, asset)).orElseThrow());
  }

  private static Instant hoursBefore(int hours) {
    return NOON.minusSeconds(hours * 3_600L);
  }

  private final LineageGraph chain =
      graph("file ROWS raw by @n/land", "raw ROWS mart by @n/build", "mart ROWS page by page");

  @Test
  void data_passes_a_job_when_its_run_began() {
    ran("@n/build", 2, 26);
    ran("@n/land", 3, 27);
    Supply supply = supply(chain, "page");
    assertThat(takenAt(supply, chain, "mart")).contains(NOON);
    assertThat(takenAt(supply, chain, "raw")).contains(hoursBefore(2));
    assertThat(takenAt(supply, chain, "file")).contains(hoursBefore(3));
    assertThat(supply.usedUpTo("@n/land")).contains(hoursBefore(2));
  }

  @Test
  void a_load_that_came_after_the_next_job_began_is_not_in_it() {
    ran("@n/build", 4);
    ran("@n/land", 3, 27);
    assertThat(takenAt(supply(chain, "page"), chain, "file")).contains(hoursBefore(27));
  }

  @Test
  void over_two_ways_the_later_one_counts() {
    LineageGraph two =
        graph("file ROWS slow by @n/slow", "slow ROWS mart by @n/a", "file ROWS mart by @n/b");
    ran("@n/slow", 30);
    ran("@n/a", 2);
    ran("@n/b", 1);
    assertThat(takenAt(supply(two, "mart"), two, "file")).contains(hoursBefore(1));
  }

  @Test
  void the_oldest_source_is_named() {
    LineageGraph join =
        graph(
            "new ROWS mart by @n/build", "aged ROWS part by @n/part", "part ROWS mart by @n/build");
    ran("@n/build", 1);
    ran("@n/part", 72);
    Supply.Source oldest = supply(join, "mart").oldest().orElseThrow();
    assertThat(join.assetReference(oldest.asset())).endsWith("aged");
    assertThat(oldest.takenAt()).isEqualTo(hoursBefore(72));
  }

  @Test
  void a_cycle_ends() {
    LineageGraph cycle = graph("a ROWS b by @n/x", "b ROWS a by @n/y");
    ran("@n/x", 1);
    ran("@n/y", 2);
    assertThat(takenAt(supply(cycle, "b"), cycle, "a")).contains(hoursBefore(1));
  }
}
