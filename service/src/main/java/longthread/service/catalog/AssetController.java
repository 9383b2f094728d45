package longthread.service.catalog;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.core.asset.Kind;
import longthread.core.asset.Owner;
import longthread.core.event.Flow;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Walk;
import longthread.service.lineage.GraphFollower;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** One asset, whole. */
@RestController
class AssetController {
  private static final int NEIGHBOURS = 200;
  private static final int PARTS = 100; // GET /api/v1/parts has all of them

  /** Where a column comes from in one step. */
  record Source(String ref, String flow, boolean masking, String by) {}

  record ColumnDetail(
      String name,
      String ref,
      @Nullable String type,
      @Nullable String description,
      List<String> labels,
      boolean listed,
      List<Source> sources,
      List<ConstantBranches.ConstantBranch> constants,
      int feeds) {}

  /** An asset one step away. */
  record Neighbour(
      String ref, String name, String kind, String system, @Nullable String by, boolean holds) {}

  /** How fresh the data is: the newest run that wrote it, and the newest that tried. */
  record Freshness(
      @Nullable Instant written,
      @Nullable String run,
      @Nullable Instant tried,
      @Nullable String state,
      @Nullable String triedBy) {}

  /**
   * Why the links into the asset are believed, by kind of evidence.
   *
   * @param confirmed how many of the observed ones the job's SQL tells of too
   */
  record Evidence(
      int observed,
      int confirmed,
      int derived,
      int declared,
      @Nullable Instant firstSeen,
      @Nullable Instant lastSeen) {}

  /** A version of a job; {@code changes} says what is different from the one before. */
  record Version(
      int number, String hash, Instant firstRun, Instant lastRun, List<String> changes) {}

  record FacetValue(String part, String key, Instant at, Object value) {}

  record AssetDetail(
      String ref,
      String kind,
      String name,
      @Nullable String title,
      String system,
      List<String> container,
      @Nullable String description,
      @Nullable String url,
      List<Owner> owners,
      List<String> labels,
      boolean described,
      boolean retired,
      List<String> parts,
      List<ColumnDetail> columns,
      Freshness freshness,
      List<RunReader.CheckRow> checks,
      List<Object> notices,
      Evidence evidence,
      List<Neighbour> upstream,
      List<Neighbour> downstream,
      List<RunReader.RunRow> runs,
      Card.@Nullable Code code,
      List<Version> versions,
      List<FacetValue> facets,
      List<Card.Detail> details,
      List<Tied> ties,
      List<Card.Former> formerly,
      int partCount,
      boolean folded,
      @Nullable String gap) {}

  /**
   * A job that runs before or after this one, by control flow or by data without a dataset.
   *
   * @param told whether this job said so; else the other one did
   */
  record Tied(
      String ref, String name, boolean before, boolean data, @Nullable String rule, boolean told) {}

  private final References references;
  private final Catalog catalog;
  private final GraphFollower follower;
  private final RunReader runs;
  private final JobParts jobParts;
  private final ConstantBranches constantBranches;
  private final Writers writers;
  private final JdbcTemplate jdbc;

  AssetController(
      References references,
      Catalog catalog,
      GraphFollower follower,
      RunReader runs,
      JobParts jobParts,
      ConstantBranches constantBranches,
      Writers writers,
      JdbcTemplate jdbc) {
    this.references = references;
    this.catalog = catalog;
    this.follower = follower;
    this.runs = runs;
    this.jobParts = jobParts;
    this.constantBranches = constantBranches;
    this.writers = writers;
    this.jdbc = jdbc;
  }

  @GetMapping("/api/v1/asset")
  AssetDetail asset(
      @RequestParam String ref, @RequestParam(required = false) @Nullable String after) {
    follower.see(after);
    Asset asset = references.resolve(ref).asset();
    boolean job = asset.ref().startsWith("@");
    LineageGraph graph = follower.graph();
    Card card = asset.card();
    List<RunReader.RunRow> newest = newestRuns(asset);
    return new AssetDetail(
        asset.ref(),
        card.kind().word(),
        card.name(),
        card.title(),
        asset.system(),
        card.container(),
        card.description(),
        card.url(),
        card.owners(),
        asset.labels(),
        card.described(),
        card.retired(),
        asset.parts().subList(0, Math.min(PARTS, asset.parts().size())),
        job ? List.of() : columns(graph, asset),
        freshness(newest),
        latestChecks(asset),
        List.of(),
        evidence(asset),
        job ? partNeighbours(asset, true) : neighbours(graph, asset, Direction.UPSTREAM),
        job ? partNeighbours(asset, false) : neighbours(graph, asset, Direction.DOWNSTREAM),
        newest,
        card.code(),
        job ? versions(asset) : List.of(),
        facets(asset),
        card.details(),
        job ? ties(asset) : List.of(),
        card.formerly(),
        catalog.partCount(asset),
        asset.parts().stream().anyMatch(part -> catalog.foldedPart(part).isPresent()),
        job ? gap(asset) : null);
  }

  private List<RunReader.RunRow> newestRuns(Asset asset) {
    if (asset.kind() == Kind.PIPELINE) {
      return runs.runs(new RunReader.Wanted(asset.ref(), null, null, null, null, null, false), 30);
    }
    return asset.ref().startsWith("@")
        ? runs.runs(new RunReader.Wanted(asset.ref(), null, null, null, null, null, false), 30)
        : writers.of(asset);
  }

  private List<ColumnDetail> columns(LineageGraph graph, Asset asset) {
    var listed = new LinkedHashMap<String, Card.Column>();
    asset.card().columns().forEach(column -> listed.put(column.path(), column));
    var columns = new ArrayList<ColumnDetail>();
    int ordinal = graph.asset(asset.ref()).orElse(-1);
    var constants = constantBranches.of(List.of(asset));
    for (String path : references.columns(asset)) {
      Card.Column column = listed.get(path);
      var sources = new ArrayList<Source>();
      int[] feeds = {0};
      if (ordinal >= 0) {
        graph
            .node(ordinal, path)
            .ifPresent(
                node -> {
                  for (GraphLink link : graph.links(node, Direction.UPSTREAM)) {
                    if (link.flow() != Flow.ROWS_TO_VALUE || Walk.countsRows(graph, node)) {
                      sources.add(
                          new Source(
                              graph.reference(link.from()),
                              link.flow().name(),
                              link.masking(),
                              graph.owner(link.owner())));
                    }
                  }
                  feeds[0] = graph.links(node, Direction.DOWNSTREAM).size();
                });
      }
      columns.add(
          new ColumnDetail(
              path,
              asset.ref() + "#" + path,
              column == null ? null : column.type(),
              column == null ? null : column.description(),
              column == null ? List.of() : column.tags().stream().map(Card.Tag::word).toList(),
              column != null,
              sources,
              constants.getOrDefault(asset.ref() + "#" + path, List.of()),
              feeds[0]));
    }
    return columns;
  }

  private static Freshness freshness(List<RunReader.RunRow> newest) {
    RunReader.RunRow done = Writers.freshest(newest);
    RunReader.RunRow tried = newest.isEmpty() ? null : newest.get(0);
    return new Freshness(
        done == null ? null : done.end(),
        done == null ? null : done.ref(),
        tried == null ? null : tried.start(),
        tried == null ? null : tried.state(),
        tried == null ? null : tried.job());
  }

  private List<RunReader.CheckRow> latestChecks(Asset asset) {
    var latest = new LinkedHashMap<String, RunReader.CheckRow>();
    boolean job = asset.ref().startsWith("@");
    for (RunReader.CheckRow check :
        job ? runs.checksOf(asset.ref(), 500) : runs.checks(asset.parts(), null, 500)) {
      latest.putIfAbsent(check.name() + "\n" + check.column() + "\n" + check.dataset(), check);
    }
    return List.copyOf(latest.values());
  }

  private Evidence evidence(Asset asset) {
    return jdbc.queryForObject(
        "select count(*) filter (where l.evidence in ('observed', 'confirmed')),"
            + " count(*) filter (where l.evidence = 'confirmed'),"
            + " count(*) filter (where l.evidence = 'derived'),"
            + " count(*) filter (where l.evidence = 'declared'),"
            + " min(l.first_seen), max(l.last_seen) from link l"
            + " left join job j on l.owner_kind = 2 and j.id = l.owner_id"
            + " join dataset d on d.id = l.to_dataset"
            + " where l.until is null and (j.ref = any(?) or d.ref = any(?))",
        (row, n) ->
            new Evidence(
                row.getInt(1),
                row.getInt(2),
                row.getInt(3),
                row.getInt(4),
                row.getTimestamp(5) == null ? null : row.getTimestamp(5).toInstant(),
                row.getTimestamp(6) == null ? null : row.getTimestamp(6).toInstant()),
        asset.parts().toArray(String[]::new),
        asset.parts().toArray(String[]::new));
  }

  private List<Neighbour> neighbours(LineageGraph graph, Asset asset, Direction direction) {
    int ordinal = graph.asset(asset.ref()).orElse(-1);
    if (ordinal < 0) {
      return List.of();
    }
    var found = new TreeMap<String, Neighbour>();
    graph.forEachLink(
        graph.rowsOf(ordinal),
        direction,
        (end, flow, masking, owner) -> {
          if (graph.isRows(end) && found.size() < NEIGHBOURS) {
            String by = graph.owner(owner);
            String ref = graph.assetReference(graph.assetOf(end));
            found.putIfAbsent(
                ref, neighbour(ref, by.startsWith("@") ? by : null, flow == Flow.HOLDS));
          }
        });
    return List.copyOf(found.values());
  }

  private List<Neighbour> partNeighbours(Asset job, boolean inputs) {
    JobParts.Parts parts = jobParts.of(job.ref());
    return (inputs ? parts.inputs() : parts.outputs())
        .stream().map(ref -> neighbour(ref, null, false)).toList();
  }

  private Neighbour neighbour(String ref, @Nullable String by, boolean holds) {
    Asset asset = catalog.asset(ref).orElse(null);
    return new Neighbour(
        ref,
        asset == null ? ref : asset.shown(),
        asset == null ? "dataset" : asset.kind().word(),
        catalog.systemOf(ref),
        by,
        holds);
  }

  private List<Tied> ties(Asset job) {
    var ties = new ArrayList<Tied>();
    for (Card.Tie tie : job.card().ties()) {
      ties.add(new Tied(tie.ref(), shown(tie.ref()), tie.before(), tie.data(), tie.rule(), true));
    }
    for (String other : catalog.tiedBy(job.ref())) {
      catalog
          .asset(other)
          .ifPresent(
              asset ->
                  asset.card().ties().stream()
                      .filter(tie -> tie.ref().equals(job.ref()))
                      .filter(
                          tie ->
                              ties.stream()
                                  .noneMatch(
                                      known ->
                                          known.ref().equals(other)
                                              && known.before() != tie.before()))
                      .forEach(
                          tie ->
                              ties.add(
                                  new Tied(
                                      other,
                                      asset.shown(),
                                      !tie.before(),
                                      tie.data(),
                                      tie.rule(),
                                      false))));
    }
    return ties;
  }

  private String shown(String ref) {
    return catalog.asset(ref).map(Asset::shown).orElse(ref);
  }

  /** What the emitter of a job's newest run with a gap could not read, in words. */
  private @Nullable String gap(Asset job) {
    List<String> gaps =
        jdbc.query(
            "select b.body from job_map m join job j on m.owner_kind = 2 and j.id = m.owner_id"
                + " join run r on r.job_id = j.id join run_facet f on f.run_id = r.run_id"
                + " and f.job_id = r.job_id and f.key = 'extractionError'"
                + " join facet_body b using (digest)"
                + " where j.ref = ? and m.gap order by r.started_at desc limit 1",
            (row, n) -> {
              var error = StoredText.json(row.getBytes(1));
              String first = error.path("errors").path(0).path("errorMessage").stringValue("");
              return "lineage is incomplete: the emitter could not read "
                  + error.path("failedTasks").asString("some")
                  + " of "
                  + error.path("totalTasks").asString("its")
                  + " statements"
                  + (first.isEmpty() ? "" : "; " + first);
            },
            job.ref());
    return gaps.isEmpty() ? null : gaps.get(0);
  }

  private List<Version> versions(Asset job) {
    return jdbc.query(
        "select v.number, v.hash, v.first_run, v.last_run, v.changes from job_version v join job j on"
            + " j.id = v.job_id where j.ref = ? order by v.first_run desc",
        (row, n) ->
            new Version(
                row.getInt(1),
                row.getString(2).substring(0, Math.min(12, row.getString(2).length())),
                row.getTimestamp(3).toInstant(),
                row.getTimestamp(4).toInstant(),
                List.of((String[]) row.getArray(5).getArray())),
        job.ref());
  }

  private List<FacetValue> facets(Asset asset) {
    var parts = new TreeSet<>(asset.parts());
    List<FacetValue> facets =
        jdbc.query(
            "select coalesce(d.ref, j.ref), f.key, f.at_s, f.at_n, b.body from facet_now f"
                + " join facet_body b using (digest)"
                + " left join dataset d on f.subject_kind = 1 and d.id = f.subject_id"
                + " left join job j on f.subject_kind = 2 and j.id = f.subject_id"
                + " where (f.subject_kind = 1 and d.ref = any(?))"
                + " or (f.subject_kind = 2 and j.ref = any(?)) order by 1, 2",
            (row, n) ->
                new FacetValue(
                    row.getString(1),
                    row.getString(2),
                    Instant.ofEpochSecond(row.getLong(3), row.getInt(4)),
                    StoredText.json(row.getBytes(5))),
            parts.toArray(String[]::new),
            parts.toArray(String[]::new));
    return Collections.unmodifiableList(facets);
  }
}
