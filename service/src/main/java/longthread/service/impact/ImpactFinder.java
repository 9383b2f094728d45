package longthread.service.impact;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Supplier;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import longthread.core.asset.Kind;
import longthread.core.asset.Reference;
import longthread.core.change.ChangeDocument;
import longthread.core.graph.LineageGraph;
import longthread.core.impact.Impact;
import longthread.core.impact.ImpactAnalysis;
import longthread.core.impact.Verdict;
import longthread.service.lineage.Hops;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.ColumnMaps;
import longthread.service.live.Dependents;
import longthread.service.live.Glossary;
import longthread.service.live.LabelBoard;
import longthread.service.live.PastGraphs;
import longthread.service.live.Sight;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;

/** What changes do downstream, dressed for answers; the verdicts are decided in {@code core}. */
@Service
class ImpactFinder {
  /** One verdict on an item. */
  record Judged(String verdict, String certainty) {}

  record TouchedColumn(String name, String verdict) {}

  record Item(
      String ref,
      String kind,
      String name,
      String system,
      String verdict,
      List<Judged> verdicts,
      String certainty,
      int hops,
      List<Hops.Hop> thread,
      List<TouchedColumn> columns,
      List<String> owners,
      List<String> ownerAddresses,
      List<String> labels,
      List<String> terms,
      @Nullable FirstFailure failsFirst,
      int dependents,
      String url,
      @Nullable String toolUrl) {}

  /** The job, view or chart that fails first on the way to an item. */
  record FirstFailure(String ref, String kind, String name) {}

  record Untouched(
      String ref, String kind, String name, int hops, String certainty, @Nullable String missing) {}

  /** The counts over the whole answer, filters applied. */
  record Summary(
      Map<String, Integer> verdicts, Map<String, Integer> kinds, Map<String, Integer> owners) {}

  /**
   * What planned changes do: all items and all that is untouched, each made when it is taken.
   *
   * @param pages the items once more, as a list that takes little room while its cursor lasts
   */
  record Found(
      List<PlannedChanges.Judged> changes,
      List<Impact.Item> judged,
      List<Item> items,
      List<Item> pages,
      Summary summary,
      List<Untouched> untouched,
      int certainlyUntouched) {}

  /**
   * Several changes to be judged together.
   *
   * @param steps as documents of planned changes have them; all members beside these are left aside
   */
  record PlannedChange(
      @Nullable List<PlannedStep> changes,
      @Nullable List<ChangeDocument.Step> steps,
      @Nullable Integer hops) {
    List<PlannedStep> all() {
      var all = new ArrayList<PlannedStep>(changes == null ? List.of() : changes);
      if (steps != null) {
        steps.forEach(step -> all.add(new PlannedStep(step.of(), step.change(), step.to())));
      }
      return all;
    }
  }

  record PlannedStep(String ref, String change, @Nullable String to) {}

  private final PlannedChanges changes;
  private final Catalog catalog;
  private final PastGraphs graphs;
  private final ColumnMaps columnMaps;
  private final Glossary glossary;
  private final Dependents dependents;
  private final PinnedImpacts pinned;
  private final LabelBoard labels;

  ImpactFinder(
      PlannedChanges changes,
      Catalog catalog,
      PastGraphs graphs,
      ColumnMaps columnMaps,
      Glossary glossary,
      Dependents dependents,
      PinnedImpacts pinned,
      LabelBoard labels) {
    this.pinned = pinned;
    this.labels = labels;
    this.dependents = dependents;
    this.glossary = glossary;
    this.changes = changes;
    this.catalog = catalog;
    this.graphs = graphs;
    this.columnMaps = columnMaps;
  }

  /** Which items to show; null or empty for any. */
  record Filters(
      @Nullable String kind,
      @Nullable String owner,
      @Nullable String system,
      @Nullable String workspace,
      @Nullable String label,
      @Nullable String verdict) {
    static final Filters NONE = new Filters(null, null, null, null, null, null);

    /** Refuses words that nothing can have, so that a slip is not answered with an empty list. */
    Filters {
      check("verdict", verdict, Arrays.stream(Verdict.values()).map(Verdict::word).toList());
      check("kind", kind, Arrays.stream(Kind.values()).map(Kind::word).toList());
    }

    private static void check(String what, @Nullable String word, List<String> words) {
      if (word != null && !word.isEmpty() && !words.contains(word)) {
        throw ProblemException.badRequest(
            "bad-" + what,
            "'" + word + "' is not a " + what + "; use one of " + String.join(", ", words));
      }
    }

    private boolean isEmpty() {
      return Stream.of(kind, owner, system, workspace, label, verdict)
          .allMatch(wanted -> wanted == null || wanted.isEmpty());
    }

    private boolean pass(Impact.Item item, Catalog catalog, LabelBoard labels) {
      Asset asset = catalog.asset(item.ref()).orElse(null);
      return passes(kind, List.of(kindOf(asset)))
          && passes(owner, asset == null ? List.of() : asset.ownerNames())
          && passes(system, List.of(catalog.systemOf(item.ref())))
          && passes(workspace, asList(ImpactGroups.workspaceOf(asset)))
          && passes(label, asset == null ? List.of() : labels.wordsOf(asset))
          && passes(verdict, List.of(item.headline().word()));
    }

    private static List<String> asList(@Nullable String value) {
      return value == null ? List.of() : List.of(value);
    }

    private static boolean passes(@Nullable String wanted, List<String> values) {
      return wanted == null || wanted.isEmpty() || values.contains(wanted);
    }
  }

  /**
   * Judges changes together.
   *
   * @param hops how far to look; null for no limit
   * @param base address of the console, for the links of items
   * @param asOf the moment whose links count; null for now
   */
  Found find(
      List<PlannedStep> steps,
      @Nullable Integer hops,
      Filters filters,
      String base,
      @Nullable Instant asOf) {
    LineageGraph graph = graphs.of(asOf);
    PlannedChanges.All planned = changes.of(graph, steps, asOf);
    int most = hops == null ? Integer.MAX_VALUE : hops;
    Supplier<Impact> judge = () -> ImpactAnalysis.of(graph, planned.changes(), columnMaps, most);
    Impact impact = judge.get();
    List<Impact.Item> all = impact.items();
    int[] chosen =
        filters.isEmpty()
            ? null
            : IntStream.range(0, all.size())
                .filter(i -> filters.pass(all.get(i), catalog, labels))
                .toArray();
    List<Impact.Item> items =
        chosen == null ? all : Arrays.stream(chosen).mapToObj(all::get).toList();
    return new Found(
        planned.steps(),
        items,
        Pages.made(items, item -> item(graph, item, base)),
        pinned.list(impact, judge, chosen, item -> item(graph, item, base)),
        summary(items),
        Pages.made(impact.untouched(), this::untouched),
        impact.certainlyUntouched());
  }

  static String kindOf(@Nullable Asset asset) {
    return asset == null ? "dataset" : asset.kind().word();
  }

  private Item item(LineageGraph graph, Impact.Item item, String base) {
    Asset asset = catalog.asset(item.ref()).orElse(null);
    var verdicts = new ArrayList<Judged>();
    item.verdicts()
        .forEach(
            (verdict, certainty) -> verdicts.add(new Judged(verdict.word(), certainty.word())));
    var columns = new ArrayList<TouchedColumn>();
    boolean isRestricted = asset != null && asset.isRestricted();
    if (!isRestricted) {
      item.columns()
          .forEach((name, verdict) -> columns.add(new TouchedColumn(name, verdict.word())));
    }
    String linked = isRestricted ? Sight.now().alias(item.ref()) : item.ref();
    return new Item(
        item.ref(),
        asset == null ? "dataset" : asset.kind().word(),
        asset == null ? item.ref() : asset.shown(),
        catalog.systemOf(item.ref()),
        item.headline().word(),
        verdicts,
        item.certainty().word(),
        item.hops(),
        Hops.of(graph, item.thread(), catalog),
        columns,
        asset == null ? List.of() : asset.ownerNames(),
        asset == null
            ? List.of()
            : asset.card().owners().stream().map(o -> o.address()).filter(a -> a != null).toList(),
        asset == null ? List.of() : labels.wordsOf(asset),
        asset == null ? List.of() : glossary.wordsOf(asset),
        firstFailure(item.firstFailure()),
        isRestricted ? 0 : dependents.of(item.ref()),
        base + "/asset?ref=" + URLEncoder.encode(linked, StandardCharsets.UTF_8),
        asset == null ? null : asset.card().url());
  }

  private @Nullable FirstFailure firstFailure(@Nullable String ref) {
    if (ref == null) {
      return null;
    }
    Asset asset = catalog.asset(ref).orElse(null);
    return new FirstFailure(
        ref,
        asset != null ? asset.kind().word() : Reference.isJob(ref) ? "job" : "dataset",
        asset == null ? ref : asset.shown());
  }

  private Untouched untouched(Impact.Untouched untouched) {
    Asset asset = catalog.asset(untouched.ref()).orElse(null);
    return new Untouched(
        untouched.ref(),
        asset == null ? "dataset" : asset.kind().word(),
        asset == null ? untouched.ref() : asset.shown(),
        untouched.hops(),
        untouched.certainty().word(),
        untouched.missing().isEmpty() ? null : missing(untouched));
  }

  /** What is missing for certainty; it may name jobs that not every caller may see. */
  private static String missing(Impact.Untouched untouched) {
    return Sight.now().isWhole()
        ? untouched.missing()
        : "the sources of its columns are not all reported";
  }

  /** Counts items by verdict, kind and owner. */
  private Summary summary(List<Impact.Item> items) {
    var verdicts = new LinkedHashMap<String, Integer>();
    for (Verdict verdict : Verdict.values()) {
      if (verdict != Verdict.UNTOUCHED) {
        verdicts.put(verdict.word(), 0);
      }
    }
    var kinds = new TreeMap<String, Integer>();
    var owners = new TreeMap<String, Integer>();
    for (Impact.Item item : items) {
      Asset asset = catalog.asset(item.ref()).orElse(null);
      verdicts.merge(item.headline().word(), 1, Integer::sum);
      kinds.merge(kindOf(asset), 1, Integer::sum);
      if (asset != null) {
        asset.ownerNames().forEach(owner -> owners.merge(owner, 1, Integer::sum));
      }
    }
    return new Summary(verdicts, kinds, owners);
  }
}
