package longthread.core.graph;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.lineage.Flow;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.Combinators;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.api.Test;

/** The store against a plain map from owners to their links. */
class GraphStoreTest {
  /** One change: all links that an owner states from now on. */
  record Replacement(String owner, Set<NamedLink> links) {}

  private static NamedLink link(String from, String to) {
    return new NamedLink("n/" + from, "*", "n/" + to, "*", Flow.ROWS, false);
  }

  /** All links of a snapshot, read in one direction, as {@code owner: from → to flow masking}. */
  private static List<String> texts(LineageGraph graph, Direction direction) {
    return IntStream.range(0, graph.nodeCount())
        .boxed()
        .flatMap(node -> graph.links(node, direction).stream())
        .map(
            link ->
                text(
                    graph.owner(link.owner()),
                    graph.reference(link.from()),
                    graph.reference(link.to()),
                    link.flow(),
                    link.masking()))
        .sorted()
        .toList();
  }

  private static String text(String owner, String from, String to, Flow flow, boolean masking) {
    return owner + ": " + from + " → " + to + " " + flow + " " + masking;
  }

  private static String reference(String asset, String column) {
    return column.equals("*") ? asset : asset + "#" + column;
  }

  private static List<String> texts(Map<String, ? extends Collection<NamedLink>> model) {
    return model.entrySet().stream()
        .flatMap(
            entry ->
                entry.getValue().stream()
                    .map(
                        link ->
                            text(
                                entry.getKey(),
                                reference(link.fromAsset(), link.fromColumn()),
                                reference(link.toAsset(), link.toColumn()),
                                link.flow(),
                                link.masking())))
        .sorted()
        .toList();
  }

  @Property(tries = 300)
  void after_any_changes_it_holds_what_each_owner_stated_last(
      @ForAll("changes") List<Replacement> changes) {
    var store = new GraphStore();
    var model = new HashMap<String, Set<NamedLink>>();
    for (Replacement change : changes) {
      store.replace(change.owner(), change.links());
      model.put(change.owner(), change.links());
    }
    assertThat(texts(store.current(), Direction.DOWNSTREAM)).isEqualTo(texts(model));
    assertThat(texts(store.current(), Direction.UPSTREAM)).isEqualTo(texts(model));
    assertThat(store.current().linkCount()).isEqualTo(texts(model).size());
  }

  @Property(tries = 100)
  void several_owners_at_once_are_as_one_after_the_other(
      @ForAll("changes") List<Replacement> changes) {
    Map<String, Set<NamedLink>> last =
        changes.stream()
            .collect(Collectors.toMap(Replacement::owner, Replacement::links, (a, b) -> b));
    var together = new GraphStore();
    together.replaceAll(last);
    var apart = new GraphStore();
    changes.forEach(change -> apart.replace(change.owner(), change.links()));
    assertThat(texts(together.current(), Direction.DOWNSTREAM))
        .isEqualTo(texts(apart.current(), Direction.DOWNSTREAM));
  }

  @Property(tries = 100)
  void a_snapshot_stays_as_it_was(@ForAll("changes") List<Replacement> changes) {
    var store = new GraphStore();
    store.replace("@n/first", Set.of(link("a", "b")));
    LineageGraph before = store.current();
    List<String> then = texts(before, Direction.UPSTREAM);
    changes.forEach(change -> store.replace(change.owner(), change.links()));
    store.replace("@n/first", Set.of());
    assertThat(texts(before, Direction.UPSTREAM)).isEqualTo(then);
  }

  @Property(tries = 200)
  void a_fork_goes_its_own_way(
      @ForAll("changes") List<Replacement> first,
      @ForAll("changes") List<Replacement> here,
      @ForAll("changes") List<Replacement> there) {
    var store = new GraphStore();
    var model = new HashMap<String, Set<NamedLink>>();
    replay(first, store, model);
    store.describe("n/listed", List.of("c"));
    var forkModel = new HashMap<>(model);
    GraphStore fork = store.fork();
    replay(here, store, model);
    replay(there, fork, forkModel);
    for (Direction direction : Direction.values()) {
      assertThat(texts(store.current(), direction)).isEqualTo(texts(model));
      assertThat(texts(fork.current(), direction)).isEqualTo(texts(forkModel));
    }
    LineageGraph linked = fork.current().linkedOnly();
    Set<String> ends =
        forkModel.values().stream()
            .flatMap(Set::stream)
            .flatMap(link -> Stream.of(link.fromAsset(), link.toAsset()))
            .collect(Collectors.toSet());
    assertThat(linked.assets().stream().mapToObj(linked::assetReference))
        .containsExactlyInAnyOrderElementsOf(ends);
    assertThat(linked.asset("n/listed")).isEmpty();
    assertThat(store.current().asset("n/listed")).isPresent();
    assertThat(texts(linked, Direction.UPSTREAM)).isEqualTo(texts(forkModel));
  }

  private static void replay(
      List<Replacement> changes, GraphStore store, Map<String, Set<NamedLink>> model) {
    for (Replacement change : changes) {
      store.replace(change.owner(), change.links());
      model.put(change.owner(), change.links());
    }
  }

  @Test
  void many_patches_are_merged_and_nothing_is_lost() {
    var store = new GraphStore();
    var model = new HashMap<String, Set<NamedLink>>();
    for (int i = 0; i < 2_000; i++) {
      Set<NamedLink> links = Set.of(link("t" + i, "t" + (i + 1)), link("hub", "t" + i));
      store.replace("@n/j" + i, links);
      model.put("@n/j" + i, links);
    }
    assertThat(store.current().patches()).as("merged on the way").isLessThan(2_000);
    assertThat(texts(store.current(), Direction.DOWNSTREAM)).isEqualTo(texts(model));
    assertThat(texts(store.current(), Direction.UPSTREAM)).isEqualTo(texts(model));
  }

  @Test
  void an_asset_without_links_has_nodes_for_its_columns() {
    var store = new GraphStore();
    store.describe("n/alone", List.of("a", "b"));
    LineageGraph graph = store.current();
    int asset = graph.asset("n/alone").orElseThrow();
    var columns = new HashSet<String>();
    graph.forEachColumn(asset, node -> columns.add(graph.columnOf(node)));
    assertThat(columns).containsExactlyInAnyOrder("a", "b");
    assertThat(graph.isLinked(graph.rowsOf(asset))).isFalse();
    assertThat(graph.node(asset, "c")).isEmpty();
    assertThat(graph.node(asset, "*")).hasValue(graph.rowsOf(asset));
  }

  @Provide
  Arbitrary<List<Replacement>> changes() {
    Arbitrary<String> assets = Arbitraries.of("n/a", "n/b", "n/c", "m/d");
    Arbitrary<String> columns = Arbitraries.of("*", "x", "y");
    Arbitrary<NamedLink> links =
        Combinators.combine(
                assets,
                columns,
                assets,
                columns,
                Arbitraries.of(Flow.ROWS, Flow.IDENTITY, Flow.FILTER),
                Arbitraries.of(true, false))
            .as(NamedLink::new);
    return Combinators.combine(
            Arbitraries.of("@n/one", "@n/two", "@n/three", "n/view"), links.set().ofMaxSize(6))
        .as(Replacement::new)
        .list()
        .ofMaxSize(12);
  }
}
