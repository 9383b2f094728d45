package longthread.service.truth;

import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.asset.Reference;
import longthread.core.graph.GraphStore;
import longthread.core.graph.LineageGraph;
import longthread.core.impact.Change;
import longthread.core.impact.Impact;
import longthread.core.impact.ImpactAnalysis;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.ReportedLineage;
import longthread.core.sql.Derivation;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.SqlReader;

/** What the catalog makes of an estate from its SQL alone, and foretells of changes. */
final class Foretold implements ImpactAnalysis.Knowledge {
  private static final List<KnownColumn> COLUMNS =
      List.of(
          new KnownColumn("k", "integer"),
          new KnownColumn("c", "text"),
          new KnownColumn("v", "numeric"),
          new KnownColumn("n", "integer"));

  private final LineageGraph graph;
  private final Set<String> views = new HashSet<>();
  private final Set<String> unknown = new HashSet<>(); // owner and target

  Foretold(RandomEstate estate, SqlReader reader) {
    Set<DatasetName> all = new TreeSet<>();
    estate.sources().forEach(table -> all.add(dataset(table)));
    estate.tables().forEach(table -> all.add(dataset(table)));
    estate.makers().forEach(maker -> all.add(dataset(maker.target())));
    var store = new GraphStore();
    Map<String, List<GraphStore.NamedLink>> links = new HashMap<>();
    Map<String, List<String>> columns = new HashMap<>();
    all.forEach(name -> columns.put(name.reference(), RandomEstate.COLUMNS));
    store.describeAll(columns);
    for (RandomEstate.Maker maker : estate.makers()) {
      ReportedLineage stated =
          maker.isView()
              ? ReportedLineage.EMPTY.writing(dataset(maker.target()))
              : ReportedLineage.EMPTY;
      Derivation.Derived derived =
          Derivation.of(reader, maker.sql(), "postgres", stated, name -> COLUMNS, all);
      if (!derived.complete()) {
        throw new IllegalStateException(derived.problems() + " in " + maker.sql());
      }
      if (maker.isView()) {
        views.add(maker.ref());
      }
      Set<String> described =
          derived.lineage().described().stream().map(ColumnName::path).collect(Collectors.toSet());
      if (!described.containsAll(RandomEstate.COLUMNS)) {
        unknown.add(maker.ref() + " " + RandomEstate.reference(maker.target()));
      }
      links.put(maker.ref(), derived.lineage().links().stream().map(Foretold::named).toList());
    }
    store.replaceAll(links);
    graph = store.current();
  }

  private static DatasetName dataset(String table) {
    return ((Reference.OfDataset) Reference.parse(RandomEstate.reference(table))).dataset();
  }

  private static GraphStore.NamedLink named(ColumnLink link) {
    return new GraphStore.NamedLink(
        link.from().dataset().reference(),
        link.from().path(),
        link.to().dataset().reference(),
        link.to().path(),
        link.flow(),
        link.masking());
  }

  @Override
  public String missing(String owner, String target) {
    return unknown.contains(owner + " " + target) ? "not every column is described" : null;
  }

  @Override
  public boolean isLive(String asset) {
    return views.contains(asset);
  }

  Impact of(String source, String column, Change.Kind kind, boolean narrows) {
    int asset = graph.asset(RandomEstate.reference(source)).orElseThrow();
    int node = graph.node(asset, column.isEmpty() ? null : column).orElseThrow();
    return judged(new Change.OfData(node, kind, null, narrows));
  }

  Impact without(RandomEstate.Maker job) {
    int output = graph.asset(RandomEstate.reference(job.target())).orElseThrow();
    return judged(
        new Change.OfJob(
            graph.ownerOrdinal(job.ref()).orElse(-1),
            List.of(graph.rowsOf(output)),
            Change.Kind.DROP));
  }

  private Impact judged(Change change) {
    return ImpactAnalysis.of(graph, List.of(change), this, Integer.MAX_VALUE);
  }
}
