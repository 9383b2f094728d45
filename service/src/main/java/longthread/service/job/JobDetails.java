package longthread.service.job;

import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.asset.Card;
import longthread.core.asset.ColumnName;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.ReportedLineage;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.ColumnMaps;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** One job from the inside: for each target its columns, how they are made and from what. */
@Service
class JobDetails {
  record From(
      String ref,
      String dataset,
      String column,
      List<String> flows,
      List<String> how,
      boolean masking) {}

  /**
   * A column of a target.
   *
   * @param reported whether the emitter said where it comes from; if so and without sources, it is
   *     a constant or counts rows
   * @param constants the constants it may be set to, as they stand in the job's SQL
   */
  record TargetColumn(
      String name,
      @Nullable String type,
      boolean reported,
      List<From> from,
      List<String> constants) {}

  /** A dataset the job writes, with the columns that decide its rows. */
  record Target(
      String ref,
      String name,
      String kind,
      List<TargetColumn> columns,
      List<From> rows,
      @Nullable String missing) {}

  /** A column of an input: whether its value lands in a target, and what else it was used for. */
  record InputColumn(
      String name, @Nullable String type, List<String> lands, List<String> decides) {}

  record Input(String ref, String name, String kind, List<InputColumn> columns) {}

  record JobDetail(String ref, List<Target> targets, List<Input> inputs) {}

  private final Catalog catalog;
  private final JobParts parts;
  private final ColumnMaps columnMaps;
  private final ConstantBranches constantBranches;

  JobDetails(
      Catalog catalog, JobParts parts, ColumnMaps columnMaps, ConstantBranches constantBranches) {
    this.catalog = catalog;
    this.parts = parts;
    this.columnMaps = columnMaps;
    this.constantBranches = constantBranches;
  }

  /** The inside of a job. */
  @Transactional(readOnly = true)
  public JobDetail of(Asset job) {
    JobParts.Parts now = parts.of(job.ref());
    Map<String, List<ConstantBranches.ConstantBranch>> constants = constantBranches.setBy(job);
    return new JobDetail(
        job.ref(),
        now.outputs().stream()
            .map(target -> target(job.ref(), target, now.lineage(), constants))
            .toList(),
        now.inputs().stream().map(input -> input(input, now.lineage())).toList());
  }

  private Target target(
      String job,
      String ref,
      ReportedLineage lineage,
      Map<String, List<ConstantBranches.ConstantBranch>> constants) {
    var from = new LinkedHashMap<String, Map<String, List<ColumnLink>>>();
    for (ColumnLink link : lineage.columns()) {
      if (lead(link.to()).equals(ref)) {
        from.computeIfAbsent(link.to().path(), k -> new LinkedHashMap<>())
            .computeIfAbsent(leadColumn(link.from()), k -> new ArrayList<>())
            .add(link);
      }
    }
    Asset asset = catalog.asset(ref).orElse(null);
    Set<String> reported = new LinkedHashSet<>();
    lineage.described().stream()
        .filter(column -> lead(column).equals(ref))
        .forEach(column -> reported.add(column.path()));
    Map<String, Card.Column> listed = listed(ref);
    var names = new LinkedHashSet<>(listed.keySet());
    names.addAll(reported);
    List<TargetColumn> columns =
        names.stream()
            .map(
                name ->
                    new TargetColumn(
                        name,
                        type(listed, name),
                        reported.contains(name),
                        froms(from.getOrDefault(name, Map.of())),
                        constants.getOrDefault(ref + "#" + name, List.of()).stream()
                            .map(ConstantBranches.ConstantBranch::text)
                            .toList()))
            .toList();
    return new Target(
        ref,
        asset == null ? ref : asset.shown(),
        asset == null ? "dataset" : asset.kind().word(),
        columns,
        froms(from.getOrDefault(ColumnName.ROWS, Map.of())),
        columnMaps.missing(job, ref));
  }

  private List<From> froms(Map<String, List<ColumnLink>> bySource) {
    var froms = new ArrayList<From>();
    bySource.forEach(
        (ref, links) -> {
          var flows = EnumSet.noneOf(Flow.class);
          links.forEach(link -> flows.add(link.flow()));
          int hash = ref.indexOf('#');
          froms.add(
              new From(
                  ref,
                  ref.substring(0, hash),
                  ref.substring(hash + 1),
                  flows.stream().map(Flow::name).toList(),
                  flows.stream().map(Flow::words).toList(),
                  links.stream().allMatch(ColumnLink::masking)));
        });
    return froms;
  }

  private Input input(String ref, ReportedLineage lineage) {
    var lands = new LinkedHashMap<String, Set<String>>();
    var decides = new LinkedHashMap<String, Set<String>>();
    for (ColumnLink link : lineage.columns()) {
      if (lead(link.from()).equals(ref)) {
        var into = link.flow().carriesValues() ? lands : decides;
        into.computeIfAbsent(link.from().path(), k -> new LinkedHashSet<>())
            .add(link.flow().carriesValues() ? leadColumn(link.to()) : link.flow().name());
      }
    }
    Map<String, Card.Column> listed = listed(ref);
    var names = new LinkedHashSet<>(listed.keySet());
    names.addAll(lands.keySet());
    names.addAll(decides.keySet());
    names.remove(ColumnName.ROWS);
    Asset asset = catalog.asset(ref).orElse(null);
    return new Input(
        ref,
        asset == null ? ref : asset.shown(),
        asset == null ? "dataset" : asset.kind().word(),
        names.stream()
            .map(
                name ->
                    new InputColumn(
                        name,
                        type(listed, name),
                        List.copyOf(lands.getOrDefault(name, Set.of())),
                        List.copyOf(decides.getOrDefault(name, Set.of()))))
            .toList());
  }

  private Map<String, Card.Column> listed(String ref) {
    var columns = new LinkedHashMap<String, Card.Column>();
    catalog
        .asset(ref)
        .ifPresent(asset -> asset.card().columns().forEach(c -> columns.put(c.path(), c)));
    return columns;
  }

  private static @Nullable String type(Map<String, Card.Column> listed, String name) {
    Card.Column column = listed.get(name);
    return column == null ? null : column.type();
  }

  private String lead(ColumnName column) {
    return catalog.leadOf(column.dataset().reference());
  }

  private String leadColumn(ColumnName column) {
    return lead(column) + "#" + column.path();
  }
}
