package longthread.service.impact;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import longthread.core.asset.Card;
import longthread.core.asset.Reference;
import longthread.core.graph.LineageGraph;
import longthread.core.impact.Certainty;
import longthread.core.impact.Change;
import longthread.core.impact.Impact;
import longthread.core.impact.ImpactAnalysis;
import longthread.core.impact.TypeChange;
import longthread.core.impact.Verdict;
import longthread.service.lineage.Hops;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.ColumnMaps;
import longthread.service.live.Dependents;
import longthread.service.live.Glossary;
import longthread.service.live.GraphFollower;
import longthread.service.live.References;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
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
      int dependents,
      String url,
      @Nullable String toolUrl) {}

  record Untouched(
      String ref, String kind, String name, int hops, String certainty, @Nullable String missing) {}

  record JudgedChange(String ref, String change, @Nullable String to) {}

  /** The counts over the whole answer, filters applied. */
  record Summary(
      Map<String, Integer> verdicts, Map<String, Integer> kinds, Map<String, Integer> owners) {}

  /** What planned changes do: all items and all that is untouched, each made when it is taken. */
  record Found(
      List<JudgedChange> changes,
      List<Item> items,
      Summary summary,
      List<Untouched> untouched,
      int certainlyUntouched) {}

  /** Several changes to be judged together. */
  record PlannedChange(List<PlannedStep> changes, @Nullable Integer hops) {}

  record PlannedStep(String ref, String change, @Nullable String to) {}

  private final References references;
  private final Catalog catalog;
  private final GraphFollower follower;
  private final ColumnMaps columnMaps;
  private final Glossary glossary;
  private final Dependents dependents;

  ImpactFinder(
      References references,
      Catalog catalog,
      GraphFollower follower,
      ColumnMaps columnMaps,
      Glossary glossary,
      Dependents dependents) {
    this.dependents = dependents;
    this.glossary = glossary;
    this.references = references;
    this.catalog = catalog;
    this.follower = follower;
    this.columnMaps = columnMaps;
  }

  /** Which items to show; null or empty for any. */
  record Filters(
      @Nullable String kind,
      @Nullable String owner,
      @Nullable String system,
      @Nullable String verdict) {
    static final Filters NONE = new Filters(null, null, null, null);

    private boolean isEmpty() {
      return (kind == null || kind.isEmpty())
          && (owner == null || owner.isEmpty())
          && (system == null || system.isEmpty())
          && (verdict == null || verdict.isEmpty());
    }

    private boolean pass(Impact.Item item, Catalog catalog) {
      Asset asset = catalog.asset(item.ref()).orElse(null);
      return passes(kind, List.of(kindOf(asset)))
          && passes(owner, asset == null ? List.of() : asset.ownerNames())
          && passes(system, List.of(catalog.systemOf(item.ref())))
          && passes(verdict, List.of(item.headline().word()));
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
   */
  Found find(List<PlannedStep> steps, @Nullable Integer hops, Filters filters, String base) {
    LineageGraph graph = follower.graph();
    var changes = new ArrayList<Change>();
    var judged = new ArrayList<JudgedChange>();
    for (PlannedStep step : steps) {
      References.Named named = references.resolve(step.ref());
      changes.add(change(graph, named, step));
      judged.add(new JudgedChange(named.ref(), step.change(), step.to()));
    }
    Impact impact =
        ImpactAnalysis.of(
            graph, changes, columnMaps::missing, hops == null ? Integer.MAX_VALUE : hops);
    List<Impact.Item> items =
        filters.isEmpty()
            ? impact.items()
            : impact.items().stream().filter(item -> filters.pass(item, catalog)).toList();
    return new Found(
        judged,
        Pages.made(items, item -> item(graph, item, base)),
        summary(items),
        Pages.made(impact.untouched(), this::untouched),
        (int) impact.untouched().stream().filter(u -> u.certainty() == Certainty.CERTAIN).count());
  }

  private static String kindOf(@Nullable Asset asset) {
    return asset == null ? "dataset" : asset.kind().word();
  }

  private Change change(LineageGraph graph, References.Named named, PlannedStep step) {
    Change.Kind kind;
    try {
      kind = Change.Kind.valueOf(step.change().toUpperCase(Locale.ROOT));
    } catch (IllegalArgumentException e) {
      throw ProblemException.badRequest(
          "unknown-change",
          "'"
              + step.change()
              + "' is not a change; use one of "
              + String.join(
                  ", ", Arrays.stream(Change.Kind.values()).map(Change.Kind::word).toList()));
    }
    int node = named.node(graph);
    if (node < 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "no-lineage",
          "No lineage is known",
          named.ref()
              + (Reference.isJob(named.ref())
                  ? " is a job; ask the impact of what it writes"
                  : " feeds nothing that any event reported"));
    }
    if (kind == Change.Kind.RETYPE && (named.column() == null || step.to() == null)) {
      throw ProblemException.badRequest(
          "bad-change", "retype takes a column and its new type, as to=bigint");
    }
    boolean narrows = kind == Change.Kind.RETYPE && TypeChange.mayNarrow(typeOf(named), step.to());
    return new Change(node, kind, step.to(), narrows);
  }

  private static @Nullable String typeOf(References.Named named) {
    return named.asset().card().columns().stream()
        .filter(column -> column.path().equals(named.column()))
        .map(Card.Column::type)
        .findFirst()
        .orElse(null);
  }

  private Item item(LineageGraph graph, Impact.Item item, String base) {
    Asset asset = catalog.asset(item.ref()).orElse(null);
    var verdicts = new ArrayList<Judged>();
    item.verdicts()
        .forEach(
            (verdict, certainty) -> verdicts.add(new Judged(verdict.word(), certainty.word())));
    var columns = new ArrayList<TouchedColumn>();
    item.columns().forEach((name, verdict) -> columns.add(new TouchedColumn(name, verdict.word())));
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
        asset == null ? List.of() : asset.labels(),
        asset == null ? List.of() : glossary.wordsOf(asset),
        dependents.of(item.ref()),
        base + "/asset?ref=" + URLEncoder.encode(item.ref(), StandardCharsets.UTF_8),
        asset == null ? null : asset.card().url());
  }

  private Untouched untouched(Impact.Untouched untouched) {
    Asset asset = catalog.asset(untouched.ref()).orElse(null);
    return new Untouched(
        untouched.ref(),
        asset == null ? "dataset" : asset.kind().word(),
        asset == null ? untouched.ref() : asset.shown(),
        untouched.hops(),
        untouched.certainty().word(),
        untouched.missing().isEmpty() ? null : untouched.missing());
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
