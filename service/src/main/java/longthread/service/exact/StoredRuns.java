package longthread.service.exact;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import longthread.core.asset.Reference;
import longthread.core.exact.Contents;
import longthread.core.exact.Execution;
import longthread.core.exact.Reading;
import longthread.core.exact.RunLineage;
import longthread.core.exact.RunLog;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.storage.StoredTime;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.storage.runs.ExactQueries;
import longthread.service.storage.runs.JobVersionQueries;
import org.jspecify.annotations.Nullable;

/**
 * The runs that one answer needs, read from the tables as they are asked for and kept until it is
 * complete. Not for several threads.
 */
final class StoredRuns implements RunLog, RunLineage.ColumnMap {
  private static final int PAGE = 200;
  private static final int FIRST_PAGE = 12; // of each of many assets: most are written whole
  private static final int MAX_WRITERS = 2_000;
  private static final int MAX_READERS = 2_000;

  /** Where the tables are read. */
  record Tables(
      ExactQueries runs,
      RunFactQueries facts,
      FacetQueries facets,
      JobVersionQueries versions,
      LinkQueries links) {}

  private final Tables tables;
  private final Catalog catalog;
  private final GraphFollower follower;
  private final @Nullable Instant past;
  private final Executions executions;
  private final Map<String, List<Execution>> writers = new HashMap<>();
  private final Map<String, Looked> looked = new HashMap<>();
  private final Map<String, Readers> readers = new HashMap<>();
  private final Map<String, List<String>> views = new HashMap<>(); // that show an asset
  private final Map<String, List<String>> shown = new HashMap<>(); // by a view
  private final Set<String> cut = new HashSet<>();

  /**
   * @param past the moment of which links count; null for now
   */
  StoredRuns(Tables tables, Catalog catalog, GraphFollower follower, @Nullable Instant past) {
    this.tables = tables;
    this.catalog = catalog;
    this.follower = follower;
    this.past = past;
    this.executions = new Executions(tables, catalog);
  }

  /** The runs with an id, one for each job that reported under it. */
  List<Execution> run(UUID id) {
    return executions.of(tables.runs().run(id));
  }

  /**
   * The version of a job that ran last by a moment.
   *
   * @param started when its last run did
   */
  record Newest(JobVersionQueries.Held version, Instant started) {}

  /** Those of jobs whose runs were looked up, by job; without those that are not known. */
  Map<String, Newest> newest(Set<String> jobs, Instant at) {
    var newest = new HashMap<String, Newest>();
    for (ExactQueries.Row row : tables.runs().newest(jobs.toArray(String[]::new), at)) {
      List<JobVersionQueries.Held> versions = executions.versions(row.ref());
      Integer number = Executions.version(versions, row);
      versions.stream()
          .filter(version -> number != null && version.number() == number)
          .findFirst()
          .ifPresent(version -> newest.put(row.ref(), new Newest(version, row.start())));
    }
    return newest;
  }

  @Override
  public void expect(Collection<String> assets) {
    List<String> fresh =
        assets.stream()
            .filter(asset -> !looked.containsKey(asset) && !Reference.isJob(asset))
            .distinct()
            .toList();
    if (fresh.size() < 2) {
      return; // it is read when it is asked for
    }
    var numbers = new ArrayList<Integer>();
    var parts = new ArrayList<String>();
    for (int i = 0; i < fresh.size(); i++) {
      for (String part : parts(fresh.get(i))) {
        numbers.add(i);
        parts.add(part);
      }
    }
    Map<Integer, List<ExactQueries.Row>> rows =
        tables
            .runs()
            .mayHaveWrittenEach(
                numbers.toArray(Integer[]::new), parts.toArray(String[]::new), FIRST_PAGE)
            .stream()
            .collect(
                Collectors.groupingBy(
                    ExactQueries.Written::asset,
                    Collectors.mapping(ExactQueries.Written::row, Collectors.toList())));
    executions.of(rows.values().stream().flatMap(List::stream).distinct().toList());
    for (int i = 0; i < fresh.size(); i++) {
      take(fresh.get(i), rows.getOrDefault(i, List.of()), FIRST_PAGE);
    }
  }

  /** Keeps those runs of a page that wrote an asset, and how far back it goes. */
  private Looked take(String asset, List<ExactQueries.Row> page, int asked) {
    List<Execution> found = writers.computeIfAbsent(asset, k -> new ArrayList<>());
    for (Execution run : executions.of(page)) {
      if (run.writes().stream().anyMatch(write -> write.asset().equals(asset))) {
        found.add(run);
      }
    }
    Looked so = looked.getOrDefault(asset, Looked.NOTHING).and(page, asked);
    looked.put(asset, so);
    return so;
  }

  @Override
  public List<Execution> writing(String asset, Reading reading) {
    if (Reference.isJob(asset)) {
      return List.of();
    }
    List<Execution> found = writers.computeIfAbsent(asset, k -> new ArrayList<>());
    Instant until = StoredTime.clamped(reading.until());
    String[] parts = parts(asset);
    Looked so = looked.getOrDefault(asset, Looked.NOTHING);
    while (so.mayBeMore() && so.rows() < MAX_WRITERS && !isEnough(found, asset, reading, so)) {
      so = take(asset, tables.runs().mayHaveWritten(parts, so.rows(), PAGE), PAGE);
    }
    if (so.mayBeMore() && !isEnough(found, asset, reading, so)) {
      cut.add(asset);
    }
    return found.stream().filter(run -> !run.start().isAfter(until)).toList();
  }

  /**
   * How far back the runs that wrote an asset were looked at.
   *
   * @param rows how many; negative if these are all
   * @param oldestEnd all others had ended by then
   */
  private record Looked(int rows, Instant oldestEnd) {
    static final Looked NOTHING = new Looked(0, Instant.MAX);

    boolean mayBeMore() {
      return rows >= 0;
    }

    Looked and(List<ExactQueries.Row> page, int asked) {
      if (page.size() < asked) {
        return new Looked(-1, Instant.MIN);
      }
      Instant end = page.get(page.size() - 1).end();
      return new Looked(rows + page.size(), end == null ? Instant.MAX : end);
    }
  }

  private static final Instant END_OF_TIME = StoredTime.clamped(Instant.MAX);

  /**
   * Whether no run that ended earlier can matter: what is read was replaced since by known ones.
   */
  private static boolean isEnough(List<Execution> found, String asset, Reading reading, Looked so) {
    Instant since = found.isEmpty() ? null : Contents.coveredSince(found, asset, reading);
    return since != null && !so.oldestEnd().isAfter(since);
  }

  @Override
  public boolean isCut(String asset) {
    return cut.contains(asset);
  }

  /** Runs that read an asset and had not ended by a moment. */
  private record Readers(Instant after, List<Execution> runs) {}

  @Override
  public List<Execution> reading(String asset, Instant after) {
    // Nearly all runs of a recall list lie behind the first, so one question answers for many.
    Readers known = readers.get(asset);
    if (known == null || after.isBefore(known.after())) {
      known = new Readers(after, readers(asset, after));
      readers.put(asset, known);
    }
    return known.runs().stream()
        .filter(run -> run.end() == null || !run.end().isBefore(after))
        .toList();
  }

  private List<Execution> readers(String asset, Instant after) {
    List<ExactQueries.Row> rows =
        tables.runs().mayHaveRead(parts(asset), StoredTime.clamped(after), MAX_READERS);
    if (rows.size() == MAX_READERS) {
      cut.add(asset);
    }
    return executions.of(rows).stream()
        .filter(run -> run.reads().stream().anyMatch(read -> read.asset().equals(asset)))
        .toList();
  }

  private String[] parts(String asset) {
    return catalog.known(asset).map(Asset::parts).orElse(List.of(asset)).toArray(String[]::new);
  }

  @Override
  public List<String> shownBy(String asset, Instant at) {
    return shown.computeIfAbsent(asset, any -> neighbours(asset, Direction.UPSTREAM));
  }

  @Override
  public List<String> showing(String asset, Instant at) {
    return views.computeIfAbsent(
        asset,
        any ->
            neighbours(asset, Direction.DOWNSTREAM).stream()
                .filter(view -> writing(view, Reading.at(END_OF_TIME)).isEmpty())
                .toList());
  }

  /** The assets next to one by links of which no run of a job stands behind. */
  private List<String> neighbours(String asset, Direction direction) {
    Map<String, Set<String>> ofOwner =
        past == null ? linkedNow(asset, direction) : linkedAt(asset, direction, past);
    String[] owners = ofOwner.keySet().stream().filter(Reference::isJob).toArray(String[]::new);
    if (owners.length > 0) {
      tables.runs().withRuns(owners).forEach(ofOwner::remove);
    }
    return ofOwner.values().stream().flatMap(Set::stream).distinct().sorted().toList();
  }

  /** The assets at the other ends of an asset's links, by who states these. */
  private Map<String, Set<String>> linkedNow(String asset, Direction direction) {
    var ofOwner = new LinkedHashMap<String, Set<String>>();
    LineageGraph links = follower.graph();
    int ordinal = links.asset(asset).orElse(-1);
    if (ordinal >= 0) {
      links.forEachLink(
          links.rowsOf(ordinal),
          direction,
          (end, flow, masking, owner) ->
              addLinked(
                  ofOwner, links.owner(owner), asset, links.assetReference(links.assetOf(end))));
    }
    return ofOwner;
  }

  /** The same as of a moment: a look at one asset's links, since the graph of then is not held. */
  private Map<String, Set<String>> linkedAt(String asset, Direction direction, Instant at) {
    var ofOwner = new LinkedHashMap<String, Set<String>>();
    List<LinkQueries.Neighbour> then =
        direction == Direction.UPSTREAM
            ? tables.links().before(parts(asset), at)
            : tables.links().behind(parts(asset), at);
    then.forEach(link -> addLinked(ofOwner, link.owner(), asset, catalog.leadOf(link.ref())));
    return ofOwner;
  }

  private static void addLinked(
      Map<String, Set<String>> ofOwner, String owner, String asset, String other) {
    if (!other.equals(asset) && !Reference.isJob(other)) {
      ofOwner.computeIfAbsent(owner, k -> new LinkedHashSet<>()).add(other);
    }
  }

  @Override
  public @Nullable Map<String, @Nullable Set<String>> sources(
      Execution run, String output, Set<String> columns) {
    return executions.sources(run, output, columns);
  }
}
