package longthread.service.leaks;

import java.lang.ref.WeakReference;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import longthread.core.asset.Kind;
import longthread.core.graph.LineageGraph;
import longthread.core.json.CanonicalJson;
import longthread.core.label.Holder;
import longthread.core.label.LabelPolicy;
import longthread.core.label.LabelSpread;
import longthread.core.label.LeakSearch;
import longthread.service.lineage.Hops;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.LabelBoard;
import longthread.service.live.LabelScheme;
import longthread.service.live.LabelSettings;
import longthread.service.live.Sight;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/** All leaks, as of the newest graph, labels and policies. */
@Component
public class LeakBoard {
  private static final int ID_LENGTH = 16;

  /**
   * A leak as it was found; its way is followed when somebody looks at it.
   *
   * @param id of the label at this asset, whatever its columns
   */
  public record Found(
      String id,
      LabelScheme.Label label,
      String ref,
      LeakSearch.Leak leak,
      WeakReference<LabelBoard.State> board) {}

  /** All leaks in one graph, of the highest level first, then those for certain. */
  record State(LabelBoard.State labels, List<Found> found) {}

  private final LabelBoard labels;
  private final LabelScheme scheme;
  private final Catalog catalog;
  private final Clock clock;
  private volatile @Nullable State state;

  LeakBoard(LabelBoard labels, LabelScheme scheme, Catalog catalog, Clock clock) {
    this.labels = labels;
    this.scheme = scheme;
    this.catalog = catalog;
    this.clock = clock;
  }

  /** The leaks there are: of the highest level first, then those for certain. */
  public List<Found> all() {
    return now().found();
  }

  /** The leaks that nobody accepts at this moment. */
  public List<Found> open() {
    Map<String, LabelSettings.Accepted> accepted = accepted();
    return all().stream().filter(one -> !accepted.containsKey(one.id())).toList();
  }

  /** Lets no old graph stay in memory because nobody asks for leaks. */
  @Scheduled(fixedDelay = 10_000)
  void forgetOutdated() {
    State known = state;
    if (known != null && !labels.isHeld(known.labels())) {
      state = null;
    }
  }

  private State now() {
    LabelBoard.State board = labels.now();
    State known = state;
    if (known == null || known.labels() != board) {
      known = find(board);
      state = known;
    }
    return known;
  }

  private State find(LabelBoard.State board) {
    LineageGraph graph = board.graph();
    var holders = new HashMap<Integer, Holder>();
    var found = new ArrayList<Found>();
    var weak = new WeakReference<>(board); // a page of leaks that is kept must not keep a graph
    for (LabelScheme.Label label : scheme.all()) {
      LabelSpread spread = board.spreads().get(label.id());
      if (spread == null) {
        continue;
      }
      LeakSearch.of(
              graph,
              spread,
              policies(board, label.id()),
              at -> holders.computeIfAbsent(at, asset -> holder(graph.assetReference(asset))))
          .forEach(
              leak -> {
                String ref = graph.assetReference(leak.asset());
                found.add(new Found(id(label.id(), ref), label, ref, leak, weak));
              });
    }
    found.sort(
        Comparator.comparing((Found one) -> -one.label().level())
            .thenComparing(one -> !one.leak().isCertain()));
    return new State(board, found);
  }

  private static List<LabelPolicy> policies(LabelBoard.State board, String label) {
    return board.settings().policies().stream()
        .map(LabelSettings.Policy::rule)
        .filter(policy -> policy.label().equals(label))
        .toList();
  }

  private Holder holder(String ref) {
    Asset asset = catalog.known(ref).orElse(null);
    if (asset == null) {
      return new Holder("dataset", catalog.systemOf(ref), "", List.of(), List.of());
    }
    var locations = new ArrayList<>(List.of(asset.card().namespace()));
    asset.card().tags().stream()
        .filter(tag -> tag.key().equalsIgnoreCase("location"))
        .forEach(tag -> locations.add(tag.value()));
    return new Holder(
        asset.kind().word(),
        asset.system(),
        workspace(asset).orElse(""),
        asset.card().readers(),
        locations);
  }

  private static Optional<String> workspace(Asset asset) {
    boolean mayBe =
        switch (asset.kind()) {
          case DATASET, MODEL, CHART, REPORT, DASHBOARD -> true;
          default -> false;
        };
    return mayBe && !asset.card().container().isEmpty()
        ? Optional.of(asset.card().container().get(0))
        : Optional.empty();
  }

  /** The id of a label at an asset. */
  private static String id(String label, String ref) {
    return label + "-" + CanonicalJson.digest(label + " " + ref).substring(0, ID_LENGTH);
  }

  /** What is accepted at this moment, by the id of the leak. */
  Map<String, LabelSettings.Accepted> accepted() {
    Instant moment = clock.instant();
    var accepted = new HashMap<String, LabelSettings.Accepted>();
    for (LabelSettings.Accepted one : now().labels().settings().accepted()) {
      if (one.until().isAfter(moment)) {
        int hash = one.at().indexOf('#');
        String lead = catalog.leadOf(hash < 0 ? one.at() : one.at().substring(0, hash));
        accepted.put(id(one.label(), lead), one);
      }
    }
    return accepted;
  }

  /** A leak with its way and all that people want to see of it. */
  public Leak leak(Found found, Map<String, LabelSettings.Accepted> accepted) {
    LeakSearch.Leak leak = found.leak();
    LabelBoard.State board = found.board().get();
    if (board == null) {
      throw Pages.gone("the leaks have changed since");
    }
    LineageGraph graph = board.graph();
    String ref = found.ref();
    Asset asset = catalog.asset(ref).orElse(null);
    String label = found.label().id();
    LeakSearch.Way way =
        LeakSearch.way(
            graph,
            board.spreads().get(label),
            policies(board, label),
            at -> holder(graph.assetReference(at)),
            leak);
    List<Hops.Hop> thread = Hops.of(graph, way.thread(), catalog);
    int origin = way.thread().isEmpty() ? leak.columns().get(0) : way.thread().get(0).from();
    String id = found.id();
    LabelSettings.Accepted acceptance = accepted.get(id);
    return new Leak(
        id,
        found.label().id(),
        found.label().title(),
        found.label().level(),
        ref,
        asset == null ? ref : asset.shown(),
        asset == null ? Kind.DATASET.word() : asset.kind().word(),
        catalog.systemOf(ref),
        asset == null ? null : workspace(asset).orElse(null),
        asset == null ? List.of() : asset.card().readers(),
        asset == null ? List.of() : asset.card().owners(),
        leak.isCertain() ? "certain" : "possible",
        leak.columns().stream()
            .map(
                node ->
                    new Leak.LabelledColumn(graph.reference(node), Hops.name(graph, node, catalog)))
            .toList(),
        graph.reference(origin),
        Hops.name(graph, origin, catalog),
        new Leak.PolicyWords(
            leak.forbiddenBy().id(),
            Sight.now().isWhole()
                ? words(board, leak.forbiddenBy().id())
                : label + " may not be here"),
        thread,
        way.unmaskedAt() == null ? null : thread.get(way.unmaskedAt()),
        acceptance == null ? "open" : "accepted",
        acceptance == null
            ? null
            : new Leak.Acceptance(
                acceptance.origin().by(),
                acceptance.origin().at(),
                acceptance.reason(),
                acceptance.until()));
  }

  private static String words(LabelBoard.State board, String policy) {
    return board.settings().policies().stream()
        .filter(one -> one.rule().id().equals(policy))
        .findFirst()
        .map(one -> words(one.value()))
        .orElse(policy);
  }

  /** A policy in words, such as {@code personal may not be in report, dashboard read by Board}. */
  public static String words(JsonNode value) {
    var words = new StringBuilder(value.path("label").stringValue(""));
    words.append(value.path("allowed").booleanValue(false) ? " may be in" : " may not be in");
    List<String> kinds = texts(value, "kinds");
    words.append(kinds.isEmpty() ? " anything" : " " + either(kinds));
    append(words, value, "systems", "of");
    append(words, value, "workspaces", "of workspace");
    boolean allowed = value.path("allowed").booleanValue(false);
    append(words, value, "audience", allowed ? "read only by" : "read by");
    append(words, value, "locations", "located at");
    return words.toString();
  }

  private static void append(StringBuilder words, JsonNode value, String member, String before) {
    List<String> texts = texts(value, member);
    if (!texts.isEmpty()) {
      words.append(' ').append(before).append(' ').append(either(texts));
    }
  }

  private static String either(List<String> words) {
    return words.size() == 1
        ? words.get(0)
        : String.join(", ", words.subList(0, words.size() - 1))
            + " or "
            + words.get(words.size() - 1);
  }

  private static List<String> texts(JsonNode value, String member) {
    return value.path(member).valueStream().map(text -> text.stringValue("")).toList();
  }
}
