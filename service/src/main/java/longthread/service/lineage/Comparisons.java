package longthread.service.lineage;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.asset.Reference;
import longthread.core.compare.GraphDifference;
import longthread.core.compare.SchemaDifference;
import longthread.core.export.ExportedGraph;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.References;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.storage.runs.JobVersionQueries;
import longthread.service.web.ProblemException;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** What is different between two moments around an asset, or between two versions of a job. */
@Service
class Comparisons {
  /** One side of a comparison: a moment, and the version of the job if that was named. */
  record Side(Instant at, @Nullable Integer version, String words) {}

  /**
   * An asset that is only there on one side, or has other columns.
   *
   * @param change added, removed or changed
   */
  record ChangedAsset(
      String ref,
      String name,
      String kind,
      String change,
      List<String> owners,
      List<ChangedColumn> columns) {}

  /**
   * A column that is only there on one side, or another one.
   *
   * @param change added, removed, renamed or retyped
   * @param before its type then; of a renamed one its name then
   * @param after its type now
   */
  record ChangedColumn(
      String name, String change, @Nullable String before, @Nullable String after) {}

  /**
   * A link that is only there on one side.
   *
   * @param change added or removed
   * @param by the job that reported it, or the dataset that declares it
   * @param at when it was reported first, or ended; null if that is not known
   * @param version of the job that showed it last
   */
  record ChangedLink(
      String change,
      String from,
      String to,
      String flow,
      String how,
      String by,
      String byName,
      @Nullable Instant at,
      @Nullable Integer version,
      String evidence) {}

  /** What is different. */
  record Comparison(
      @Nullable String ref,
      Side from,
      Side to,
      String summary,
      List<ChangedAsset> assets,
      List<ChangedLink> links,
      int linksAdded,
      int linksRemoved,
      List<CodeChanges.ChangedCode> code,
      @Nullable String note) {}

  /** Which two states to compare. */
  record Asked(
      References.@Nullable Named focus,
      String from,
      @Nullable String to,
      boolean upstream,
      boolean downstream,
      int hops) {}

  private static final String VERSION = "version:";
  private static final int MAX_LINKS = 1_000;

  private final Exports exports;
  private final Catalog catalog;
  private final FacetQueries facets;
  private final JobVersionQueries versions;
  private final LinkStretches stretches;
  private final CodeChanges code;
  private final Clock clock;

  Comparisons(
      Exports exports,
      Catalog catalog,
      FacetQueries facets,
      JobVersionQueries versions,
      LinkStretches stretches,
      CodeChanges code,
      Clock clock) {
    this.exports = exports;
    this.catalog = catalog;
    this.facets = facets;
    this.versions = versions;
    this.stretches = stretches;
    this.code = code;
    this.clock = clock;
  }

  /** Compares two states. */
  @Transactional(readOnly = true)
  public Comparison of(Asked asked) {
    Side from = side(asked.from(), asked.focus());
    Side to = asked.to() == null ? now() : side(asked.to(), asked.focus());
    if (from.at().isAfter(to.at())) {
      Side earlier = to;
      to = from;
      from = earlier;
    }
    String onlyJob =
        from.version() != null && asked.focus() != null ? asked.focus().asset().ref() : null;
    ExportedGraph before = part(asked, from);
    ExportedGraph after = part(asked, to);
    GraphDifference difference = GraphDifference.of(before, after);
    List<ChangedAsset> assets = assets(before, after, difference, from, to);
    ChangedLinks changed = links(difference, onlyJob, from.at(), to.at());
    List<CodeChanges.ChangedCode> changedCode =
        code.between(jobs(before, after, onlyJob), from, to);
    int all = changed.added() + changed.removed();
    return new Comparison(
        asked.focus() == null ? null : asked.focus().ref(),
        from,
        to,
        summary(assets, changed, changedCode),
        assets,
        changed.first(),
        changed.added(),
        changed.removed(),
        changedCode,
        all > changed.first().size()
            ? "1,000 of " + all + " links are listed; ask for fewer hops"
            : null);
  }

  private Side now() {
    return new Side(clock.instant(), null, "now");
  }

  private ExportedGraph part(Asked asked, Side side) {
    return exports.around(
        new Exports.Part(
            asked.focus(), asked.upstream(), asked.downstream(), asked.hops(), side.at()));
  }

  private Side side(String text, References.@Nullable Named focus) {
    if (text.equals("now")) {
      return now();
    }
    if (!text.startsWith(VERSION)) {
      Instant at = Times.parse(text);
      return new Side(at, null, at.toString());
    }
    if (focus == null || !Reference.isJob(focus.asset().ref())) {
      throw ProblemException.badRequest(
          "bad-moment", "version:N is of a job; name a job as ref, or give a time");
    }
    List<JobVersionQueries.Stored> all = versions.of(focus.asset().ref());
    return all.stream()
        .filter(version -> text.equals(VERSION + version.number()))
        .findFirst()
        .map(v -> new Side(v.lastRun(), v.number(), "version " + v.number()))
        .orElseThrow(
            () ->
                new ProblemException(
                    HttpStatus.NOT_FOUND,
                    "unknown-version",
                    "The job has no such version",
                    focus.ref()
                        + " has no "
                        + text
                        + "; it has "
                        + String.join(
                            ", ", all.stream().map(v -> VERSION + v.number()).sorted().toList())));
  }

  private static String summary(
      List<ChangedAsset> assets, ChangedLinks links, List<CodeChanges.ChangedCode> code) {
    if (assets.isEmpty() && links.first().isEmpty() && code.isEmpty()) {
      return "Nothing is different.";
    }
    var counts = new LinkedHashMap<String, Integer>();
    assets.forEach(asset -> counts.merge("asset " + asset.change(), 1, Integer::sum));
    assets.forEach(
        asset ->
            asset.columns().forEach(c -> counts.merge("column " + c.change(), 1, Integer::sum)));
    counts.put("link added", links.added());
    counts.put("link removed", links.removed());
    counts.values().removeIf(count -> count == 0);
    code.forEach(c -> counts.merge("job with other code", 1, Integer::sum));
    var words = new ArrayList<String>();
    counts.forEach(
        (what, count) -> {
          int space = what.indexOf(' ');
          String noun = count == 1 ? what.substring(0, space) : what.substring(0, space) + "s";
          words.add(count + " " + noun + what.substring(space));
        });
    return String.join(", ", words) + ".";
  }

  // ------------------------------------------------------------------ assets and columns

  private List<ChangedAsset> assets(
      ExportedGraph before, ExportedGraph after, GraphDifference difference, Side from, Side to) {
    var refs = new TreeSet<String>();
    before.assets().forEach(asset -> refs.add(asset.ref()));
    after.assets().forEach(asset -> refs.add(asset.ref()));
    Map<String, Map<String, String>> then = schemas(refs, from.at());
    Map<String, Map<String, String>> now = schemas(refs, to.at());
    Set<String> added = Set.copyOf(difference.assetsAdded());
    Set<String> removed = Set.copyOf(difference.assetsRemoved());
    var changed = new ArrayList<ChangedAsset>();
    for (String ref : refs) {
      String change = added.contains(ref) ? "added" : removed.contains(ref) ? "removed" : "changed";
      Map<String, String> old = then.get(ref);
      Map<String, String> fresh = now.get(ref);
      List<ChangedColumn> columns =
          old == null || fresh == null
              ? List.of()
              : SchemaDifference.of(old, fresh).stream()
                  .map(c -> new ChangedColumn(c.name(), c.what().word(), c.before(), c.after()))
                  .toList();
      if (!change.equals("changed") || !columns.isEmpty()) {
        Asset asset = catalog.asset(ref).orElse(null);
        changed.add(
            new ChangedAsset(
                ref,
                asset == null ? ref : asset.shown(),
                asset == null ? "dataset" : asset.kind().word(),
                change,
                asset == null ? List.of() : asset.ownerNames(),
                columns));
      }
    }
    return changed;
  }

  /** The schemas that led at a moment, by asset; of those of which any was reported by then. */
  private Map<String, Map<String, String>> schemas(Collection<String> assets, Instant at) {
    var leadOf = new HashMap<String, String>();
    for (String ref : assets) {
      catalog.known(ref).ifPresent(asset -> asset.parts().forEach(p -> leadOf.put(p, ref)));
    }
    var newest = new TreeMap<String, Map<String, String>>();
    for (FacetQueries.Value value :
        facets.valuesUntil(
            leadOf.keySet().toArray(String[]::new), "schema", at.getEpochSecond(), at.getNano())) {
      String asset = Objects.requireNonNull(leadOf.get(value.ref()));
      Map<String, String> columns = SchemaDifference.columns(StoredText.json(value.body()));
      if (!columns.isEmpty()) {
        newest.putIfAbsent(asset, columns);
      }
    }
    return newest;
  }

  // ------------------------------------------------------------------ links

  /** Links of one side only: the first of them, and how many there are. */
  private record ChangedLinks(List<ChangedLink> first, int added, int removed) {}

  private ChangedLinks links(
      GraphDifference difference, @Nullable String onlyJob, Instant from, Instant to) {
    List<ExportedGraph.Link> added = of(onlyJob, difference.linksAdded());
    List<ExportedGraph.Link> removed = of(onlyJob, difference.linksRemoved());
    // Where there are too many, those that are gone have their half of the list too.
    int forAdded = Math.max(MAX_LINKS / 2, MAX_LINKS - removed.size());
    List<ExportedGraph.Link> firstAdded = added.subList(0, Math.min(forAdded, added.size()));
    List<ExportedGraph.Link> firstRemoved =
        removed.subList(0, Math.min(MAX_LINKS - firstAdded.size(), removed.size()));
    var makers = new TreeSet<String>();
    firstAdded.forEach(link -> makers.add(link.maker()));
    firstRemoved.forEach(link -> makers.add(link.maker()));
    Map<List<String>, List<LinkQueries.Stretch>> spans = stretches.of(makers);
    var numbers = new HashMap<String, Integer>();
    versions
        .ofAll(makers.toArray(String[]::new))
        .forEach(v -> numbers.put(v.job() + "\n" + v.hash(), v.number()));
    var first = new ArrayList<ChangedLink>();
    firstAdded.forEach(link -> first.add(changed(link, "added", spans, numbers, from, to)));
    firstRemoved.forEach(link -> first.add(changed(link, "removed", spans, numbers, from, to)));
    return new ChangedLinks(first, added.size(), removed.size());
  }

  private static List<ExportedGraph.Link> of(
      @Nullable String onlyJob, Collection<ExportedGraph.Link> links) {
    return links.stream().filter(l -> onlyJob == null || l.maker().equals(onlyJob)).toList();
  }

  private ChangedLink changed(
      ExportedGraph.Link link,
      String change,
      Map<List<String>, List<LinkQueries.Stretch>> spans,
      Map<String, Integer> numbers,
      Instant from,
      Instant to) {
    boolean added = change.equals("added");
    LinkQueries.Stretch stretch =
        spans
            .getOrDefault(
                List.of(
                    link.maker(),
                    link.from(),
                    link.fromColumn(),
                    link.to(),
                    link.toColumn(),
                    link.flow().name()),
                List.of())
            .stream()
            .filter(s -> added ? s.since().isAfter(from) : s.until() != null)
            .filter(s -> added ? !s.since().isAfter(to) : !s.until().isAfter(to))
            .max(Comparator.comparing(LinkQueries.Stretch::since))
            .orElse(null);
    return new ChangedLink(
        change,
        link.source(),
        link.target(),
        link.flow().name(),
        link.flow().words(),
        link.maker(),
        catalog.asset(link.maker()).map(Asset::shown).orElse(link.maker()),
        stretch == null ? null : added ? stretch.since() : stretch.until(),
        stretch == null ? null : numbers.get(link.maker() + "\n" + stretch.version()),
        stretch == null ? "unknown" : stretch.evidence());
  }

  /** The jobs of both sides. */
  private static Set<String> jobs(
      ExportedGraph before, ExportedGraph after, @Nullable String onlyJob) {
    if (onlyJob != null) {
      return Set.of(onlyJob);
    }
    var jobs = new LinkedHashSet<String>();
    before.jobs().forEach(job -> jobs.add(job.ref()));
    after.jobs().forEach(job -> jobs.add(job.ref()));
    return jobs;
  }
}
