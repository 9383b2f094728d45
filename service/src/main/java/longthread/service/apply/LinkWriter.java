package longthread.service.apply;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import longthread.core.history.JobLineage;
import longthread.core.history.JobLineage.HeldLink;
import longthread.core.history.JobLineage.Version;
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
  private record SpanValue(
      Evidence evidence, String version, Instant lastSeen, @Nullable Instant until) {}

  /** What a person recorded stands beside what was observed, even from the same moment on. */
  private record LinkKey(ColumnLink link, Instant firstSeen, boolean recorded) {}

  /** What the tables hold of an owner. */
  record Held(
      Map<LinkKey, Integer> links,
      Map<Integer, SpanValue> spans,
      Map<String, Version> versions,
      SortedSet<String> described,
      boolean gap,
      SortedSet<ColumnConstant> constants) {
    static final Held NOTHING =
        new Held(
            Map.of(), Map.of(), Map.of(), new TreeSet<>(), false, Collections.emptySortedSet());
  }

  private final NameIds ids;
  private final Set<Subject> relinked = new HashSet<>();
  private final Map<Subject, Version> newVersions = new HashMap<>();
  private final List<Subject> cleared = new ArrayList<>();
  private final List<Subject> clearedVersions = new ArrayList<>();
  private final List<LinkQueries.Row> links = new ArrayList<>();
  private final List<LinkQueries.Span> spans = new ArrayList<>();
  private final List<LinkQueries.SpanKey> spansGone = new ArrayList<>();
  private final List<JobVersionQueries.Row> versions = new ArrayList<>();
  private final List<LinkQueries.Map> maps = new ArrayList<>();

  LinkWriter(NameIds ids) {
    this.ids = ids;
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
   * Adds an owner's lineage; returns what the tables hold of it once the rows are written.
   *
   * @param held what they hold now; null if that is not known, so that all is written anew
   */
  Held add(Subject owner, @Nullable Held held, JobLineage lineage) {
    Held before = held == null ? Held.NOTHING : held;
    var byValue = new HashMap<SpanValue, Integer>();
    var links = new LinkedHashMap<LinkKey, Integer>();
    var spans = new LinkedHashMap<Integer, SpanValue>();
    int next = before.spans().keySet().stream().mapToInt(span -> span).max().orElse(0) + 1;
    for (HeldLink link : lineage.links()) {
      var value = new SpanValue(link.evidence(), link.version(), link.lastSeen(), link.until());
      var key = new LinkKey(link.link(), link.firstSeen(), link.evidence() == Evidence.RECORDED);
      Integer span = byValue.get(value);
      if (span == null) {
        Integer old = before.links().get(key);
        span = old == null || spans.containsKey(old) ? next++ : old;
        byValue.put(value, span);
        spans.put(span, value);
      }
      links.put(key, span);
    }
    addLinks(owner, held == null, before, links, spans);
    if (owner.isJob()) {
      addVersions(owner, held == null, before.versions(), lineage.versions());
    }
    var described = new TreeSet<String>();
    lineage.described().forEach(column -> described.add(column.reference()));
    boolean sameMap =
        held != null && before.described().equals(described) && before.gap() == lineage.gap();
    if (!sameMap || !before.constants().equals(lineage.constants())) {
      List<ColumnConstant> constants = List.copyOf(lineage.constants());
      maps.add(
          new LinkQueries.Map(
              owner,
              List.copyOf(described),
              lineage.gap(),
              constants.stream().map(c -> c.column().reference()).toList(),
              constants.stream().map(c -> StoredText.clean(c.text())).toList()));
    }
    if (!sameMap) {
      relinked.add(owner);
    }
    var byHash = new HashMap<String, Version>();
    lineage.versions().forEach(version -> byHash.put(version.hash(), version));
    return new Held(links, spans, byHash, described, lineage.gap(), lineage.constants());
  }

  private void addLinks(
      Subject owner,
      boolean unknown,
      Held before,
      Map<LinkKey, Integer> now,
      Map<Integer, SpanValue> nowSpans) {
    Map<LinkKey, Integer> then = before.links();
    Map<Integer, SpanValue> thenSpans = before.spans();
    boolean lost =
        unknown
            || then.entrySet().stream()
                .anyMatch(link -> !link.getValue().equals(now.get(link.getKey())));
    if (lost) {
      cleared.add(owner);
    }
    now.forEach(
        (key, span) -> {
          if (lost || !then.containsKey(key)) {
            links.add(row(owner, key, span));
            relinked.add(owner);
          }
        });
    nowSpans.forEach(
        (span, value) -> {
          SpanValue old = lost ? null : thenSpans.get(span);
          if (!value.equals(old)) {
            spans.add(row(owner, span, value));
            if (old == null || !Objects.equals(old.until(), value.until())) {
              relinked.add(owner);
            }
          }
        });
    if (!lost) {
      for (Integer span : thenSpans.keySet()) {
        if (!nowSpans.containsKey(span)) {
          spansGone.add(new LinkQueries.SpanKey(owner, span));
        }
      }
    } else {
      relinked.add(owner);
    }
  }

  private LinkQueries.Row row(Subject owner, LinkKey key, int span) {
    ColumnLink link = key.link();
    return new LinkQueries.Row(
        owner,
        span,
        ids.id(link.from().dataset()),
        link.from().path(),
        ids.id(link.to().dataset()),
        link.to().path(),
        link.flow().name(),
        link.masking(),
        StoredTime.clamped(key.firstSeen()));
  }

  private static LinkQueries.Span row(Subject owner, int span, SpanValue value) {
    return new LinkQueries.Span(
        owner,
        span,
        value.version(),
        StoredTime.clamped(value.lastSeen()),
        StoredTime.of(value.until()),
        value.evidence().word());
  }

  private void addVersions(
      Subject job, boolean unknown, Map<String, Version> then, List<Version> now) {
    boolean lost =
        unknown
            || then.keySet().stream()
                .anyMatch(hash -> now.stream().noneMatch(v -> v.hash().equals(hash)));
    if (lost) {
      clearedVersions.add(job);
    }
    for (Version version : now) {
      Version old = then.get(version.hash());
      if (lost || !version.equals(old)) {
        versions.add(
            new JobVersionQueries.Row(
                job.id(),
                version.number(),
                version.hash(),
                StoredTime.clamped(version.firstRun()),
                StoredTime.clamped(version.lastRun()),
                version.changes().stream().map(StoredText::clean).toList()));
      }
      if (!unknown && old == null) {
        newVersions.put(job, version);
      }
    }
  }

  void write(Stores stores) {
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
