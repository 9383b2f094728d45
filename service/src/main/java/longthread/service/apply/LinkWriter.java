package longthread.service.apply;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import longthread.core.history.JobLineage;
import longthread.core.history.JobLineage.HeldLink;
import longthread.core.history.JobLineage.Version;
import longthread.core.json.CanonicalJson;
import longthread.core.lineage.ColumnConstant;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Evidence;
import longthread.service.storage.Columns;
import longthread.service.storage.StoredText;
import longthread.service.storage.StoredTime;
import longthread.service.storage.Stores;
import longthread.service.storage.facts.Subject;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.storage.runs.JobVersionQueries;
import org.jspecify.annotations.Nullable;

/**
 * What differs between the lineage that the tables hold of some owners and the one they have now,
 * as rows that a batch takes away and adds.
 *
 * <p>Links that were seen last together share a span: another run of the same sort moves that one
 * row. A span keeps its number while its links stay together.
 */
final class LinkWriter {
  /** What links of one group have in common; times as the tables hold them. */
  private record SpanValue(
      String evidence, String version, Instant lastSeen, @Nullable Instant until) {}

  /** A link. What a person recorded stands beside what was observed, even from the same moment. */
  private record Key(
      long from,
      String fromColumn,
      long to,
      String toColumn,
      String flow,
      boolean masking,
      Instant firstSeen,
      boolean recorded) {}

  /**
   * What the tables hold of an owner, in short: the names of links would take more memory than the
   * whole graph.
   *
   * @param links a digest of the links and how they are grouped
   * @param numbers the span of each group, in the order in which groups begin
   * @param groups what the links of each have in common
   * @param map a digest of the column map
   */
  record Held(
      String links,
      int[] numbers,
      List<SpanValue> groups,
      Map<String, Version> versions,
      @Nullable String map) {}

  /** The lineage that an owner has now. */
  private record Wanted(
      Subject owner,
      Map<Key, Integer> links, // by group
      List<SpanValue> groups,
      String digest,
      Map<String, Version> versions,
      List<String> described,
      boolean gap,
      List<ColumnConstant> constants,
      String map) {}

  /** The rows of an owner. */
  private static final class Stored {
    private final Map<Key, Integer> links = new HashMap<>(); // by span
    private final Map<Integer, SpanValue> spans = new HashMap<>();
    private final Map<String, Version> versions = new HashMap<>();
    private @Nullable String map;
  }

  private final NameIds ids;
  private final Stores stores;
  private final Set<Subject> relinked = new HashSet<>();
  private final Map<Subject, Version> newVersions = new HashMap<>();
  private final List<Subject> cleared = new ArrayList<>();
  private final List<Subject> clearedVersions = new ArrayList<>();
  private final List<LinkQueries.Row> links = new ArrayList<>();
  private final List<LinkQueries.Span> spans = new ArrayList<>();
  private final List<LinkQueries.SpanKey> spansGone = new ArrayList<>();
  private final List<JobVersionQueries.Row> versions = new ArrayList<>();
  private final List<LinkQueries.Map> maps = new ArrayList<>();

  LinkWriter(NameIds ids, Stores stores) {
    this.ids = ids;
    this.stores = stores;
  }

  /** The owners whose links or column map changed. */
  Set<Subject> relinked() {
    return relinked;
  }

  /** The versions that jobs got that had others before. */
  Map<Subject, Version> newVersions() {
    return newVersions;
  }

  /**
   * Adds owners' lineages; returns what the tables hold of each once the rows are written. The rows
   * of those are read of which nothing is known, or whose links differ.
   *
   * @param lineages of owners, whose names all have ids
   * @param held what the tables hold now, as far as it is known
   */
  Map<Subject, Held> add(Map<Subject, JobLineage> lineages, Map<Subject, Held> held) {
    var wanted = new ArrayList<Wanted>();
    lineages.forEach((owner, lineage) -> wanted.add(wanted(owner, lineage)));
    var differing = new ArrayList<Subject>();
    var unknown = new ArrayList<Subject>();
    for (Wanted one : wanted) {
      Held known = held.get(one.owner());
      if (known == null) {
        unknown.add(one.owner());
      }
      if (known == null || !known.links().equals(one.digest())) {
        differing.add(one.owner());
      }
    }
    Map<Subject, Stored> stored = stored(differing, unknown);
    var after = new LinkedHashMap<Subject, Held>();
    for (Wanted one : wanted) {
      Held known = held.get(one.owner());
      Stored rows = stored.get(one.owner());
      int[] numbers = rows == null ? known.numbers() : relink(one, rows);
      if (rows == null) {
        putSpans(one, known);
      }
      Map<String, Version> versionsBefore =
          known == null ? Objects.requireNonNull(rows).versions : known.versions();
      if (one.owner().isJob()) {
        addVersions(one, known != null || !versionsBefore.isEmpty(), versionsBefore);
      }
      putMap(one, known == null ? Objects.requireNonNull(rows).map : known.map());
      after.put(
          one.owner(), new Held(one.digest(), numbers, one.groups(), one.versions(), one.map()));
    }
    return after;
  }

  private Wanted wanted(Subject owner, JobLineage lineage) {
    var links = new LinkedHashMap<Key, Integer>();
    var groups = new ArrayList<SpanValue>();
    var byValue = new HashMap<SpanValue, Integer>();
    var text = new StringBuilder();
    for (HeldLink held : lineage.links()) {
      var value =
          new SpanValue(
              held.evidence().word(),
              held.version(),
              StoredTime.micros(held.lastSeen()),
              held.until() == null ? null : StoredTime.micros(held.until()));
      Integer group = byValue.putIfAbsent(value, groups.size());
      if (group == null) {
        group = groups.size();
        groups.add(value);
      }
      Key key = key(held);
      if (links.put(key, group) == null) {
        text.append(key.from()).append('#').append(key.fromColumn()).append('>');
        text.append(key.to()).append('#').append(key.toColumn()).append(' ').append(key.flow());
        text.append(key.masking()).append(key.recorded()).append(key.firstSeen());
      }
      text.append(':').append(group).append('\n');
    }
    List<String> described = lineage.described().stream().map(c -> c.reference()).sorted().toList();
    List<ColumnConstant> constants = List.copyOf(lineage.constants());
    var byHash = new LinkedHashMap<String, Version>();
    for (Version version : lineage.versions()) {
      byHash.put(
          version.hash(),
          new Version(
              version.number(),
              version.hash(),
              StoredTime.micros(version.firstRun()),
              StoredTime.micros(version.lastRun()),
              version.changes().stream().map(StoredText::clean).toList()));
    }
    return new Wanted(
        owner,
        links,
        groups,
        CanonicalJson.digest(text.toString()),
        byHash,
        described,
        lineage.gap(),
        constants,
        mapDigest(
            described,
            lineage.gap(),
            constants.stream().map(c -> c.column().reference()).toList(),
            constants.stream().map(c -> StoredText.clean(c.text())).toList()));
  }

  private Key key(HeldLink held) {
    ColumnLink link = held.link();
    return new Key(
        ids.id(link.from().dataset()),
        link.from().path(),
        ids.id(link.to().dataset()),
        link.to().path(),
        link.flow().name(),
        link.masking(),
        StoredTime.micros(held.firstSeen()),
        held.evidence() == Evidence.RECORDED);
  }

  private static String mapDigest(
      List<String> described, boolean gap, List<String> columns, List<String> texts) {
    return CanonicalJson.digest(
        String.join("\n", described)
            + "\n"
            + gap
            + "\n"
            + String.join("\n", columns)
            + "\n\n"
            + String.join("\n", texts));
  }

  private Map<Subject, Stored> stored(List<Subject> differing, List<Subject> unknown) {
    var stored = new HashMap<Subject, Stored>();
    differing.forEach(owner -> stored.put(owner, new Stored()));
    for (LinkQueries.HeldSpan row : stores.links().spansOf(differing)) {
      stored
          .get(row.owner())
          .spans
          .put(
              row.span(),
              new SpanValue(row.evidence(), row.version(), row.lastSeen(), row.until()));
    }
    for (LinkQueries.HeldLink row : stores.links().linksOf(differing)) {
      Stored rows = stored.get(row.owner());
      SpanValue value = rows.spans.get(row.span());
      boolean recorded = value != null && value.evidence().equals(Evidence.RECORDED.word());
      rows.links.put(
          new Key(
              row.fromDataset(),
              row.fromColumn(),
              row.toDataset(),
              row.toColumn(),
              row.flow(),
              row.masking(),
              row.firstSeen(),
              recorded),
          row.span());
    }
    for (LinkQueries.HeldMap row : stores.links().mapsOf(unknown)) {
      stored.get(row.owner()).map =
          mapDigest(
              List.of(row.described()),
              row.gap(),
              List.of(row.constantColumns()),
              List.of(row.constantTexts()));
    }
    Long[] jobs = unknown.stream().filter(Subject::isJob).map(Subject::id).toArray(Long[]::new);
    if (jobs.length > 0) {
      for (JobVersionQueries.Held row : stores.versions().held(jobs)) {
        stored
            .get(Subject.job(row.job()))
            .versions
            .put(
                row.hash(),
                new Version(
                    row.number(),
                    row.hash(),
                    row.firstRun(),
                    row.lastRun(),
                    List.of(row.changes())));
      }
    }
    return stored;
  }

  /** The groups are the same as before: what their links have in common may have moved. */
  private void putSpans(Wanted wanted, Held known) {
    for (int group = 0; group < wanted.groups().size(); group++) {
      SpanValue value = wanted.groups().get(group);
      SpanValue old = known.groups().get(group);
      if (!value.equals(old)) {
        spans.add(row(wanted.owner(), known.numbers()[group], value));
        if (!Objects.equals(old.until(), value.until())) {
          relinked.add(wanted.owner());
        }
      }
    }
  }

  /** Writes what differs from the rows that are there; returns the span of each group. */
  private int[] relink(Wanted wanted, Stored then) {
    int[] numbers = new int[wanted.groups().size()];
    var taken = new HashSet<Integer>();
    int next = then.spans.keySet().stream().mapToInt(span -> span).max().orElse(0) + 1;
    for (Map.Entry<Key, Integer> link : wanted.links().entrySet()) {
      int group = link.getValue();
      if (numbers[group] == 0) {
        Integer old = then.links.get(link.getKey());
        numbers[group] = old == null || !taken.add(old) ? next++ : old;
        taken.add(numbers[group]);
      }
    }
    boolean lost =
        then.links.entrySet().stream()
            .anyMatch(
                link -> {
                  Integer group = wanted.links().get(link.getKey());
                  return group == null || numbers[group] != link.getValue();
                });
    if (lost) {
      cleared.add(wanted.owner());
      relinked.add(wanted.owner());
    }
    wanted
        .links()
        .forEach(
            (key, group) -> {
              if (lost || !then.links.containsKey(key)) {
                links.add(row(wanted.owner(), key, numbers[group]));
                relinked.add(wanted.owner());
              }
            });
    for (int group = 0; group < numbers.length; group++) {
      SpanValue value = wanted.groups().get(group);
      SpanValue old = lost ? null : then.spans.remove(numbers[group]);
      if (!value.equals(old)) {
        spans.add(row(wanted.owner(), numbers[group], value));
        if (old == null || !Objects.equals(old.until(), value.until())) {
          relinked.add(wanted.owner());
        }
      }
    }
    if (!lost) {
      then.spans
          .keySet()
          .forEach(span -> spansGone.add(new LinkQueries.SpanKey(wanted.owner(), span)));
    }
    return numbers;
  }

  private static LinkQueries.Row row(Subject owner, Key key, int span) {
    return new LinkQueries.Row(
        owner,
        span,
        key.from(),
        key.fromColumn(),
        key.to(),
        key.toColumn(),
        key.flow(),
        key.masking(),
        key.firstSeen());
  }

  private static LinkQueries.Span row(Subject owner, int span, SpanValue value) {
    return new LinkQueries.Span(
        owner, span, value.version(), value.lastSeen(), value.until(), value.evidence());
  }

  private void addVersions(Wanted wanted, boolean hadAny, Map<String, Version> then) {
    Subject job = wanted.owner();
    boolean lost = !wanted.versions().keySet().containsAll(then.keySet());
    if (lost) {
      clearedVersions.add(job);
    }
    for (Version version : wanted.versions().values()) {
      Version old = then.get(version.hash());
      if (lost || !version.equals(old)) {
        versions.add(
            new JobVersionQueries.Row(
                job.id(),
                version.number(),
                version.hash(),
                version.firstRun(),
                version.lastRun(),
                version.changes()));
      }
      if (hadAny && old == null) {
        newVersions.put(job, version);
      }
    }
  }

  private void putMap(Wanted wanted, @Nullable String before) {
    if (wanted.map().equals(before)) {
      return;
    }
    relinked.add(wanted.owner());
    maps.add(
        new LinkQueries.Map(
            wanted.owner(),
            wanted.described(),
            wanted.gap(),
            wanted.constants().stream().map(c -> c.column().reference()).toList(),
            wanted.constants().stream().map(c -> StoredText.clean(c.text())).toList()));
  }

  void write() {
    stores.links().deleteOf(cleared);
    stores.links().deleteSpans(spansGone);
    stores.links().putSpans(spans);
    stores.links().add(links);
    if (!clearedVersions.isEmpty()) {
      stores.versions().deleteOf(Columns.longs(clearedVersions, Subject::id));
    }
    stores.versions().put(versions);
    stores.links().putMaps(maps);
  }
}
