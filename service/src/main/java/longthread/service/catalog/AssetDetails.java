package longthread.service.catalog;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Walk;
import longthread.core.lineage.Flow;
import longthread.service.health.AssetHealth;
import longthread.service.health.HealthBoard;
import longthread.service.health.Supplies;
import longthread.service.job.ConstantBranches;
import longthread.service.job.JobParts;
import longthread.service.job.Surroundings;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.Dependents;
import longthread.service.live.Glossary;
import longthread.service.live.GraphFollower;
import longthread.service.live.LabelBoard;
import longthread.service.live.References;
import longthread.service.notices.ShownNotice;
import longthread.service.runs.RunReader;
import longthread.service.runs.Writers;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.graph.AssetLinkQueries;
import longthread.service.storage.runs.JobVersionQueries;
import longthread.service.storage.runs.RunSearch;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** One asset, whole: what its page shows. */
@Service
class AssetDetails {
  private static final int MAX_NEIGHBOURS = 200;
  private static final int NEWEST_RUNS = 30;
  private static final int MAX_CHECKS = 500;
  private static final int SHORT_HASH = 12;
  private static final int MAX_NAMES = 50; // of an asset whose names are shown each alone
  private static final int MAX_PARTS = 100; // GET /api/v1/parts has all of them

  /**
   * Where a column comes from in one step.
   *
   * @param jobs the jobs, or the dataset, that report it
   */
  record Source(String ref, String flow, String how, boolean masking, List<String> jobs) {
    Source by(Collection<String> owners) {
      return new Source(ref, flow, how, masking, List.copyOf(owners));
    }
  }

  /**
   * A column as the asset's page shows it.
   *
   * @param labels what is set on it
   * @param inherited the labels that came along lineage, with where they were set, or by a rule
   * @param feeds how many columns take something from it
   */
  record ColumnDetail(
      String name,
      String ref,
      @Nullable String type,
      @Nullable String description,
      @Nullable String calculation,
      List<String> labels,
      List<LabelBoard.Labelled> inherited,
      List<AssetTerm> terms,
      boolean listed,
      List<Source> sources,
      List<ConstantBranches.ConstantBranch> constants,
      int feeds) {}

  /** An asset one step away. */
  record Neighbour(
      String ref, String name, String kind, String system, @Nullable String by, boolean holds) {}

  /**
   * How fresh the data is: the newest run that wrote it, and the newest attempt.
   *
   * @param expected when it should next be fresh; absent where nothing has a rhythm
   * @param oldestInput the source behind it whose data is the oldest; absent without upstream
   * @param oldestAt when data was last taken from there
   */
  record Freshness(
      @Nullable Instant written,
      @Nullable String run,
      @Nullable Instant tried,
      @Nullable String state,
      @Nullable String triedBy,
      @Nullable Instant expected,
      @Nullable String oldestInput,
      @Nullable Instant oldestAt) {}

  /**
   * Why the links into the asset are believed, by kind of evidence.
   *
   * @param confirmed how many of the observed ones the job's SQL confirms
   * @param recorded how many people stated
   */
  record Evidence(
      int observed,
      int confirmed,
      int derived,
      int declared,
      int recorded,
      @Nullable Instant firstSeen,
      @Nullable Instant lastSeen) {}

  /** A version of a job; {@code changes} says what is different from the one before. */
  record Version(
      int number, String hash, Instant firstRun, Instant lastRun, List<String> changes) {}

  record FacetValue(String part, String key, Instant at, Object value) {}

  /**
   * An asset.
   *
   * @param dependents how many assets rest on it, near or far; counted within a minute of a change
   */
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
      List<ShownNotice> notices,
      AssetHealth health,
      int dependents,
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
      @Nullable String gap,
      List<StatedValue> values,
      List<AssetTerm> terms,
      List<Card.WebLink> links,
      List<AssetName> names) {}

  /**
   * One of the names that are this asset, as its own emitters describe it.
   *
   * @param leads whether the asset goes by it
   * @param joinedBy {@code hand} where a person said so; else {@code rule or link}
   */
  record AssetName(
      String ref,
      String system,
      String kind,
      boolean leads,
      boolean described,
      @Nullable String joinedBy,
      @Nullable String description,
      List<String> owners,
      List<NamedColumn> columns) {}

  /** A column under one of the names. */
  record NamedColumn(String name, @Nullable String type, @Nullable String description) {}

  /**
   * A description or owners, as somebody gave them; the first of each is the one that counts.
   *
   * @param source {@code hand}, {@code system} or {@code emitter}
   */
  record StatedValue(
      String what, String column, List<String> texts, String source, @Nullable String by) {
    static StatedValue of(Card.Value value) {
      return new StatedValue(
          value.what(), value.column(), value.texts(), value.source().word(), value.by());
    }
  }

  /** A glossary term that an asset or column has. */
  record AssetTerm(String id, String name, @Nullable String definition) {
    static List<AssetTerm> of(Glossary glossary, List<String> ids) {
      return glossary.named(ids).stream()
          .map(term -> new AssetTerm(term.id(), term.name(), term.definition()))
          .toList();
    }
  }

  /**
   * A job that runs before or after this one, by control flow or by data without a dataset.
   *
   * @param ownReport whether this job reported it; else the other one did
   */
  record Tied(
      String ref,
      String name,
      boolean before,
      boolean data,
      @Nullable String rule,
      boolean ownReport) {}

  private final References references;
  private final Catalog catalog;
  private final GraphFollower follower;
  private final RunReader runs;
  private final JobParts jobParts;
  private final ConstantBranches constantBranches;
  private final Writers writers;
  private final AssetLinkQueries links;
  private final JobVersionQueries versions;
  private final FacetQueries facets;
  private final RunFactQueries runFacts;
  private final Glossary glossary;
  private final HealthBoard board;
  private final Supplies supplies;
  private final Dependents dependents;
  private final LabelBoard labelBoard;
  private final Surroundings surroundings;

  AssetDetails(
      References references,
      Catalog catalog,
      GraphFollower follower,
      RunReader runs,
      JobParts jobParts,
      ConstantBranches constantBranches,
      Writers writers,
      AssetLinkQueries links,
      JobVersionQueries versions,
      FacetQueries facets,
      RunFactQueries runFacts,
      Glossary glossary,
      HealthBoard board,
      Supplies supplies,
      Dependents dependents,
      LabelBoard labelBoard,
      Surroundings surroundings) {
    this.surroundings = surroundings;
    this.dependents = dependents;
    this.labelBoard = labelBoard;
    this.glossary = glossary;
    this.references = references;
    this.catalog = catalog;
    this.follower = follower;
    this.runs = runs;
    this.jobParts = jobParts;
    this.constantBranches = constantBranches;
    this.writers = writers;
    this.links = links;
    this.versions = versions;
    this.facets = facets;
    this.runFacts = runFacts;
    this.board = board;
    this.supplies = supplies;
  }

  /** The asset that a reference names. */
  @Transactional(readOnly = true)
  public AssetDetail of(String ref) {
    Asset asset = references.resolve(ref).asset();
    boolean job = asset.isJob();
    LineageGraph graph = follower.graph();
    Card card = asset.card();
    List<RunReader.RunRow> newest = newestRuns(asset);
    AssetHealth health = board.of(asset);
    boolean isOpen = surroundings.areSeen(asset);
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
        asset.parts().subList(0, Math.min(MAX_PARTS, asset.parts().size())),
        job ? List.of() : columns(graph, asset),
        freshness(asset, newest, health),
        latestChecks(asset),
        health.notices(),
        health,
        dependents.of(asset.ref()),
        evidence(asset),
        job ? partNeighbours(asset, true) : neighbours(graph, asset, Direction.UPSTREAM),
        job ? partNeighbours(asset, false) : neighbours(graph, asset, Direction.DOWNSTREAM),
        newest,
        isOpen ? card.code() : null,
        job && isOpen ? versions(asset) : List.of(),
        isOpen ? facets(asset) : List.of(),
        card.details(),
        job ? ties(asset) : List.of(),
        card.formerly(),
        catalog.partCount(asset),
        asset.parts().stream().anyMatch(part -> catalog.foldedPart(part).isPresent()),
        job && isOpen ? gap(asset) : null,
        card.values().stream().map(StatedValue::of).toList(),
        AssetTerm.of(glossary, card.terms()),
        card.links(),
        names(asset));
  }

  /** The names of a merged asset, each alone; none of an asset with one name, or that folds. */
  private List<AssetName> names(Asset asset) {
    var names = new ArrayList<AssetName>();
    if (asset.isJob() || asset.parts().size() < 2 || asset.parts().size() > MAX_NAMES) {
      return names;
    }
    for (String ref : asset.parts()) {
      if (catalog.foldedPart(ref).isPresent()) {
        return List.of();
      }
      Card part = catalog.card(ref).orElse(null);
      if (part == null) {
        continue;
      }
      boolean byHand = part.joins().stream().anyMatch(join -> !join.apart());
      for (String other : asset.parts()) {
        byHand |=
            catalog
                .card(other)
                .map(c -> c.joins().stream().anyMatch(j -> !j.apart() && j.ref().equals(ref)))
                .orElse(false);
      }
      names.add(
          new AssetName(
              ref,
              catalog.systemOfName(ref),
              part.kind().word(),
              ref.equals(asset.ref()),
              part.described(),
              byHand ? "hand" : "rule or link",
              part.description(),
              part.owners().stream().map(Owner::name).toList(),
              part.columns().stream()
                  .map(c -> new NamedColumn(c.path(), c.type(), c.description()))
                  .toList()));
    }
    return names;
  }

  private List<RunReader.RunRow> newestRuns(Asset asset) {
    return asset.isJob()
        ? runs.runs(RunSearch.Filter.ofJob(asset.ref()), NEWEST_RUNS)
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
      var sources = new LinkedHashMap<Source, TreeSet<String>>();
      int[] feeds = {0};
      if (ordinal >= 0) {
        graph
            .node(ordinal, path)
            .ifPresent(
                node -> {
                  for (GraphLink link : graph.links(node, Direction.UPSTREAM)) {
                    if (link.flow() != Flow.ROWS_TO_VALUE || Walk.countsRows(graph, node)) {
                      var source =
                          new Source(
                              graph.reference(link.from()),
                              link.flow().name(),
                              link.flow().words(),
                              link.masking(),
                              List.of());
                      sources
                          .computeIfAbsent(source, k -> new TreeSet<>())
                          .add(graph.owner(link.owner()));
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
              column == null ? null : column.calculation(),
              column == null ? List.of() : column.tags().stream().map(Card.Tag::word).toList(),
              inherited(asset, path),
              column == null ? List.of() : AssetTerm.of(glossary, column.terms()),
              column != null,
              sources.entrySet().stream()
                  .map(source -> source.getKey().by(source.getValue()))
                  .toList(),
              constants.getOrDefault(asset.ref() + "#" + path, List.of()),
              feeds[0]));
    }
    return columns;
  }

  /** The labels of a column that no tag on it shows: along lineage, and by a rule. */
  private List<LabelBoard.Labelled> inherited(Asset asset, String path) {
    return labelBoard.of(asset.ref(), path).stream()
        .filter(one -> one.from() != null || LabelBoard.Manager.RULE.word().equals(one.managed()))
        .toList();
  }

  private Freshness freshness(Asset asset, List<RunReader.RunRow> newest, AssetHealth health) {
    Supplies.Oldest oldest = supplies.oldest(asset);
    RunReader.RunRow done = Writers.freshest(newest);
    RunReader.RunRow tried = newest.isEmpty() ? null : newest.get(0);
    return new Freshness(
        done == null ? null : done.end(),
        done == null ? null : done.ref(),
        tried == null ? null : tried.start(),
        tried == null ? null : tried.state(),
        tried == null ? null : tried.job(),
        health.expectedAt(),
        oldest == null ? null : oldest.ref(),
        oldest == null ? null : oldest.takenAt());
  }

  private List<RunReader.CheckRow> latestChecks(Asset asset) {
    var latest = new LinkedHashMap<String, RunReader.CheckRow>();
    boolean job = asset.isJob();
    for (RunReader.CheckRow check :
        job
            ? runs.checksOf(asset.ref(), MAX_CHECKS)
            : runs.checks(asset.parts(), null, MAX_CHECKS)) {
      latest.putIfAbsent(check.name() + "\n" + check.column() + "\n" + check.dataset(), check);
    }
    return List.copyOf(latest.values());
  }

  private Evidence evidence(Asset asset) {
    AssetLinkQueries.EvidenceCounts counts = links.evidence(asset.parts().toArray(String[]::new));
    return new Evidence(
        (int) counts.observed(),
        (int) counts.confirmed(),
        (int) counts.derived(),
        (int) counts.declared(),
        (int) counts.recorded(),
        counts.firstSeen(),
        counts.lastSeen());
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
          if (graph.isRows(end) && found.size() < MAX_NEIGHBOURS) {
            String by = graph.owner(owner);
            String ref = graph.assetReference(graph.assetOf(end));
            if (ref.equals(asset.ref()) && !Reference.isJob(by)) {
              return; // a calculation among its own fields
            }
            found.putIfAbsent(
                ref, neighbour(ref, Reference.isJob(by) ? by : null, flow == Flow.HOLDS));
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
    return runFacts
        .newestGap(job.ref())
        .map(StoredText::json)
        .map(
            error -> {
              String first = error.path("errors").path(0).path("errorMessage").stringValue("");
              return "lineage is incomplete: the emitter could not read "
                  + error.path("failedTasks").asString("some")
                  + " of "
                  + error.path("totalTasks").asString("its")
                  + " statements"
                  + (first.isEmpty() ? "" : "; " + first);
            })
        .orElse(null);
  }

  private List<Version> versions(Asset job) {
    return versions.of(job.ref()).stream()
        .map(
            row ->
                new Version(
                    row.number(),
                    row.hash().substring(0, Math.min(SHORT_HASH, row.hash().length())),
                    row.firstRun(),
                    row.lastRun(),
                    List.of(row.changes())))
        .toList();
  }

  private List<FacetValue> facets(Asset asset) {
    return facets.currentOf(asset.parts().toArray(String[]::new)).stream()
        .map(
            row ->
                new FacetValue(
                    row.ref(),
                    row.key(),
                    Instant.ofEpochSecond(row.atS(), row.atN()),
                    StoredText.json(row.body())))
        .toList();
  }
}
