package longthread.service.lineage;

import com.github.difflib.text.DiffRow;
import com.github.difflib.text.DiffRowGenerator;
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
import longthread.core.history.Fingerprint;
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

  /** Code that is different; its lines stand side by side. */
  record ChangedCode(
      String job,
      String name,
      String language,
      @Nullable Integer versionBefore,
      @Nullable Integer versionAfter,
      @Nullable Instant since,
      List<CodeLine> lines) {}

  /**
   * Two lines side by side.
   *
   * @param change same, changed, added or removed
   */
  record CodeLine(
      String change,
      @Nullable Integer before,
      String textBefore,
      @Nullable Integer after,
      String textAfter) {}

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
      List<ChangedCode> code,
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
  private static final int MAX_LINES = 4_000;

  private final Exports exports;
  private final Catalog catalog;
  private final FacetQueries facets;
  private final JobVersionQueries versions;
  private final LinkQueries links;
  private final Clock clock;

  Comparisons(
      Exports exports,
      Catalog catalog,
      FacetQueries facets,
      JobVersionQueries versions,
      LinkQueries links,
      Clock clock) {
    this.exports = exports;
    this.catalog = catalog;
    this.facets = facets;
    this.versions = versions;
    this.links = links;
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
    List<ChangedLink> changed = links(difference, onlyJob, from.at(), to.at());
    List<ChangedCode> code = code(before, after, onlyJob, from, to);
    int added = (int) changed.stream().filter(link -> link.change().equals("added")).count();
    return new Comparison(
        asked.focus() == null ? null : asked.focus().ref(),
        from,
        to,
        summary(assets, changed, code),
        assets,
        changed.size() > MAX_LINKS ? changed.subList(0, MAX_LINKS) : changed,
        added,
        changed.size() - added,
        code,
        changed.size() > MAX_LINKS
            ? "the first 1,000 of " + changed.size() + " links are listed; ask for fewer hops"
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
      List<ChangedAsset> assets, List<ChangedLink> links, List<ChangedCode> code) {
    if (assets.isEmpty() && links.isEmpty() && code.isEmpty()) {
      return "Nothing is different.";
    }
    var counts = new LinkedHashMap<String, Integer>();
    assets.forEach(asset -> counts.merge("asset " + asset.change(), 1, Integer::sum));
    assets.forEach(
        asset ->
            asset.columns().forEach(c -> counts.merge("column " + c.change(), 1, Integer::sum)));
    links.forEach(link -> counts.merge("link " + link.change(), 1, Integer::sum));
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

  private List<ChangedLink> links(
      GraphDifference difference, @Nullable String onlyJob, Instant from, Instant to) {
    var makers = new TreeSet<String>();
    difference.linksAdded().forEach(link -> makers.add(link.maker()));
    difference.linksRemoved().forEach(link -> makers.add(link.maker()));
    if (onlyJob != null) {
      makers.retainAll(Set.of(onlyJob));
    }
    var spans = new HashMap<List<String>, List<LinkQueries.Stretch>>();
    for (LinkQueries.Stretch stretch : links.stretches(makers.toArray(String[]::new))) {
      spans.computeIfAbsent(key(stretch), k -> new ArrayList<>()).add(stretch);
    }
    var numbers = new HashMap<String, Integer>();
    versions
        .ofAll(makers.toArray(String[]::new))
        .forEach(v -> numbers.put(v.job() + "\n" + v.hash(), v.number()));
    var changed = new ArrayList<ChangedLink>();
    difference
        .linksAdded()
        .forEach(link -> add(link, "added", makers, spans, numbers, from, to, changed));
    difference
        .linksRemoved()
        .forEach(link -> add(link, "removed", makers, spans, numbers, from, to, changed));
    return changed;
  }

  private void add(
      ExportedGraph.Link link,
      String change,
      Set<String> makers,
      Map<List<String>, List<LinkQueries.Stretch>> spans,
      Map<String, Integer> numbers,
      Instant from,
      Instant to,
      List<ChangedLink> changed) {
    if (!makers.contains(link.maker())) {
      return;
    }
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
    changed.add(
        new ChangedLink(
            change,
            link.source(),
            link.target(),
            link.flow().name(),
            link.flow().words(),
            link.maker(),
            catalog.asset(link.maker()).map(Asset::shown).orElse(link.maker()),
            stretch == null ? null : added ? stretch.since() : stretch.until(),
            stretch == null ? null : numbers.get(link.maker() + "\n" + stretch.version()),
            stretch == null ? "unknown" : stretch.evidence()));
  }

  // ------------------------------------------------------------------ code

  private List<ChangedCode> code(
      ExportedGraph before, ExportedGraph after, @Nullable String onlyJob, Side from, Side to) {
    var jobs = new LinkedHashSet<String>();
    before.jobs().forEach(job -> jobs.add(job.ref()));
    after.jobs().forEach(job -> jobs.add(job.ref()));
    if (onlyJob != null) {
      jobs.clear();
      jobs.add(onlyJob);
    }
    Map<String, FacetQueries.Value> then = codeAt(jobs, from.at());
    Map<String, FacetQueries.Value> now = codeAt(jobs, to.at());
    var changed = new ArrayList<ChangedCode>();
    for (String job : jobs) {
      FacetQueries.Value old = then.get(job);
      FacetQueries.Value fresh = now.get(job);
      if (old == null || fresh == null) {
        continue; // a job that is only there on one side is listed with its links
      }
      String textBefore = text(old);
      String textAfter = text(fresh);
      if (!Fingerprint.of(textBefore).equals(Fingerprint.of(textAfter))) {
        List<JobVersionQueries.Stored> all = versions.of(job);
        changed.add(
            new ChangedCode(
                job,
                catalog.asset(job).map(Asset::shown).orElse(job),
                fresh.key().equals("sql") ? "sql" : "text",
                number(all, from),
                number(all, to),
                since(all, to),
                lines(textBefore, textAfter)));
      }
    }
    return changed;
  }

  private Map<String, FacetQueries.Value> codeAt(Collection<String> jobs, Instant at) {
    var newest = new HashMap<String, FacetQueries.Value>();
    String[] refs = jobs.toArray(String[]::new);
    for (String key : List.of("sql", "sourceCode")) {
      facets
          .jobValuesUntil(refs, key, at.getEpochSecond(), at.getNano())
          .forEach(value -> newest.putIfAbsent(value.ref(), value));
    }
    return newest;
  }

  private static String text(FacetQueries.Value value) {
    return StoredText.json(value.body())
        .path(value.key().equals("sql") ? "query" : "sourceCode")
        .stringValue("");
  }

  /** The version that ran last by a moment. */
  private static JobVersionQueries.@Nullable Stored running(
      List<JobVersionQueries.Stored> all, Instant at) {
    return all.stream()
        .filter(version -> !version.firstRun().isAfter(at))
        .max(Comparator.comparing(JobVersionQueries.Stored::firstRun))
        .orElse(null);
  }

  private static @Nullable Integer number(List<JobVersionQueries.Stored> all, Side side) {
    if (side.version() != null) {
      return side.version();
    }
    JobVersionQueries.Stored version = running(all, side.at());
    return version == null ? null : version.number();
  }

  private static @Nullable Instant since(List<JobVersionQueries.Stored> all, Side side) {
    JobVersionQueries.Stored version = running(all, side.at());
    return version == null ? null : version.firstRun();
  }

  /** Two texts line by line, side by side. */
  static List<CodeLine> lines(String before, String after) {
    List<DiffRow> rows =
        DiffRowGenerator.create()
            .ignoreWhiteSpaces(true)
            .lineNormalizer(line -> line) // shown as it is; pages escape it themselves
            .build()
            .generateDiffRows(before.lines().toList(), after.lines().toList());
    var lines = new ArrayList<CodeLine>();
    int old = 0;
    int fresh = 0;
    for (DiffRow row : rows) {
      boolean hasOld = row.getTag() != DiffRow.Tag.INSERT;
      boolean hasNew = row.getTag() != DiffRow.Tag.DELETE;
      old += hasOld ? 1 : 0;
      fresh += hasNew ? 1 : 0;
      String change =
          switch (row.getTag()) {
            case EQUAL -> "same";
            case CHANGE -> "changed";
            case INSERT -> "added";
            default -> "removed";
          };
      lines.add(
          new CodeLine(
              change,
              hasOld ? old : null,
              row.getOldLine(),
              hasNew ? fresh : null,
              row.getNewLine()));
    }
    return lines.size() > MAX_LINES ? lines.subList(0, MAX_LINES) : lines;
  }

  // ------------------------------------------------------------------ moments

  /** A moment at which links around an asset changed. */
  record Moment(Instant at, int added, int ended, List<String> by) {}

  /** The moments at which links of the assets around a focus began or ended, oldest first. */
  @Transactional(readOnly = true)
  public List<Moment> moments(
      References.Named focus, boolean upstream, boolean downstream, int hops) {
    ExportedGraph part = exports.around(new Exports.Part(focus, upstream, downstream, hops, null));
    var refs = new TreeSet<String>();
    refs.add(focus.asset().ref());
    part.assets().forEach(asset -> refs.add(asset.ref()));
    String[] parts =
        refs.stream()
            .flatMap(ref -> catalog.known(ref).map(Asset::parts).orElse(List.of(ref)).stream())
            .toArray(String[]::new);
    var added = new TreeMap<Instant, Integer>();
    var ended = new TreeMap<Instant, Integer>();
    var by = new HashMap<Instant, Set<String>>();
    Instant now = clock.instant();
    // A new partition of a dataset brings no new link of the dataset: its stretches are merged.
    var byLink = new LinkedHashMap<List<String>, List<LinkQueries.Stretch>>();
    for (LinkQueries.Stretch stretch : links.stretchesTouching(parts)) {
      byLink.computeIfAbsent(key(stretch), k -> new ArrayList<>()).add(stretch);
    }
    for (List<LinkQueries.Stretch> stretches : byLink.values()) {
      stretches.sort(Comparator.comparing(LinkQueries.Stretch::since));
      Instant end = Instant.MIN;
      for (LinkQueries.Stretch stretch : stretches) {
        if (stretch.since().isAfter(end)) {
          noteEnd(end, now, stretch.owner(), ended, by);
          added.merge(stretch.since(), 1, Integer::sum);
          note(by, stretch.since(), stretch.owner());
        }
        Instant until = stretch.until() == null ? Instant.MAX : stretch.until();
        end = until.isAfter(end) ? until : end;
      }
      noteEnd(end, now, stretches.get(0).owner(), ended, by);
    }
    var moments = new ArrayList<Moment>();
    var all = new TreeSet<>(added.keySet());
    all.addAll(ended.keySet());
    for (Instant at : all) {
      moments.add(
          new Moment(
              at,
              added.getOrDefault(at, 0),
              ended.getOrDefault(at, 0),
              List.copyOf(by.getOrDefault(at, Set.of()))));
    }
    return moments;
  }

  private void noteEnd(
      Instant end,
      Instant now,
      String owner,
      Map<Instant, Integer> ended,
      Map<Instant, Set<String>> by) {
    if (end.isAfter(Instant.MIN) && !end.isAfter(now)) {
      ended.merge(end, 1, Integer::sum);
      note(by, end, owner);
    }
  }

  /** A link of the graph, by what its parts belong to. */
  private List<String> key(LinkQueries.Stretch stretch) {
    String source = catalog.leadOf(stretch.from());
    String target = catalog.leadOf(stretch.to());
    return List.of(
        stretch.owner(),
        source,
        catalog.columnOf(source, stretch.fromColumn()),
        target,
        catalog.columnOf(target, stretch.toColumn()),
        stretch.flow());
  }

  private void note(Map<Instant, Set<String>> by, Instant at, String owner) {
    by.computeIfAbsent(at, k -> new TreeSet<>())
        .add(catalog.asset(owner).map(Asset::shown).orElse(owner));
  }
}
