package longthread.service.storage.graph;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.function.Consumer;
import longthread.service.storage.Columns;
import longthread.service.storage.facts.Subject;
import longthread.service.storage.facts.SubjectKind;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/**
 * Links with their validity and evidence, as the applier writes them and as the graph in memory
 * loads them.
 */
@Repository
@Transactional
public interface LinkQueries {
  /** A link of an owner as the applier writes it. */
  record Row(
      Subject owner,
      int span,
      long fromDataset,
      String fromColumn,
      long toDataset,
      String toColumn,
      String flow,
      boolean masking,
      Instant firstSeen) {}

  /** What links of one owner that were seen last together have in common. */
  record Span(
      Subject owner,
      int span,
      String version,
      Instant lastSeen,
      @Nullable Instant until,
      String evidence) {}

  /** A span of an owner. */
  record SpanKey(Subject owner, int span) {}

  /** Which columns an owner reports the sources of, and its constants. */
  record Map(
      Subject owner,
      List<String> described,
      boolean gap,
      List<String> constantColumns,
      List<String> constantTexts) {}

  /** A link by references. */
  record Named(
      String owner,
      String from,
      String fromColumn,
      String to,
      String toColumn,
      String flow,
      boolean masking,
      Instant lastSeen) {}

  /** Which columns an owner reports the sources of. */
  record Described(String owner, String[] columns, boolean gap) {}

  /** Why a link is believed. */
  record Evidence(
      String owner,
      String from,
      String fromColumn,
      String to,
      String toColumn,
      String evidence,
      @Nullable Integer version,
      Instant firstSeen,
      Instant lastSeen) {}

  /** Jobs and datasets by reference; joined first, so that only their own links are read. */
  String OWNERS =
      " (select cast(2 as smallint), id, ref from job where ref = any(:refs) union all"
          + " select cast(1 as smallint), id, ref from dataset where ref = any(:refs))";

  StatelessSession session();

  // ------------------------------------------------------------------ writing

  default void add(Collection<Row> links) {
    if (!links.isEmpty()) {
      insert(
          Columns.of(links, row -> row.owner().kindCode(), Short[]::new),
          Columns.longs(links, row -> row.owner().id()),
          Columns.of(links, Row::span, Integer[]::new),
          Columns.longs(links, Row::fromDataset),
          Columns.texts(links, Row::fromColumn),
          Columns.longs(links, Row::toDataset),
          Columns.texts(links, Row::toColumn),
          Columns.texts(links, Row::flow),
          Columns.of(links, Row::masking, Boolean[]::new),
          Columns.of(links, Row::firstSeen, Instant[]::new));
    }
  }

  @SQL(
      "insert into link_row (owner_kind, owner_id, span, from_dataset, from_column, to_dataset,"
          + " to_column, flow, masking, first_seen) select * from unnest(:kinds, :owners, :spans,"
          + " :fromDatasets, :fromColumns, :toDatasets, :toColumns, :flows, :masking, :firsts)")
  int insert(
      Short[] kinds,
      Long[] owners,
      Integer[] spans,
      Long[] fromDatasets,
      String[] fromColumns,
      Long[] toDatasets,
      String[] toColumns,
      String[] flows,
      Boolean[] masking,
      Instant[] firsts);

  default void putSpans(Collection<Span> spans) {
    if (!spans.isEmpty()) {
      upsertSpans(
          Columns.of(spans, row -> row.owner().kindCode(), Short[]::new),
          Columns.longs(spans, row -> row.owner().id()),
          Columns.of(spans, Span::span, Integer[]::new),
          Columns.texts(spans, Span::version),
          Columns.of(spans, Span::lastSeen, Instant[]::new),
          Columns.of(spans, Span::until, Instant[]::new),
          Columns.texts(spans, Span::evidence));
    }
  }

  @SQL(
      "insert into link_span (owner_kind, owner_id, span, version, last_seen, until, evidence)"
          + " select * from unnest(:kinds, :owners, :spans, :versions, :lasts, :untils, :evidence)"
          + " on conflict (owner_kind, owner_id, span) do update"
          + " set evidence = excluded.evidence, version = excluded.version,"
          + " last_seen = excluded.last_seen, until = excluded.until")
  int upsertSpans(
      Short[] kinds,
      Long[] owners,
      Integer[] spans,
      String[] versions,
      Instant[] lasts,
      Instant[] untils,
      String[] evidence);

  /** Removes all links and spans of owners. */
  default void deleteOf(Collection<Subject> owners) {
    if (!owners.isEmpty()) {
      Short[] kinds = Columns.of(owners, Subject::kindCode, Short[]::new);
      Long[] ids = Columns.longs(owners, Subject::id);
      deleteLinks(kinds, ids);
      deleteAllSpans(kinds, ids);
    }
  }

  @SQL(
      "delete from link_row where (owner_kind, owner_id) in (select * from unnest(:kinds, :owners))")
  int deleteLinks(Short[] kinds, Long[] owners);

  @SQL(
      "delete from link_span where (owner_kind, owner_id)"
          + " in (select * from unnest(:kinds, :owners))")
  int deleteAllSpans(Short[] kinds, Long[] owners);

  /** Removes spans that no link belongs to any more. */
  default void deleteSpans(Collection<SpanKey> spans) {
    if (!spans.isEmpty()) {
      deleteSpans(
          Columns.of(spans, key -> key.owner().kindCode(), Short[]::new),
          Columns.longs(spans, key -> key.owner().id()),
          Columns.of(spans, SpanKey::span, Integer[]::new));
    }
  }

  @SQL(
      "delete from link_span where (owner_kind, owner_id, span)"
          + " in (select * from unnest(:kinds, :owners, :spans))")
  int deleteSpans(Short[] kinds, Long[] owners, Integer[] spans);

  default void putMaps(Collection<Map> maps) {
    if (!maps.isEmpty()) {
      upsertMaps(
          Columns.of(maps, row -> row.owner().kindCode(), Short[]::new),
          Columns.longs(maps, row -> row.owner().id()),
          Columns.texts(maps, row -> Columns.joined(row.described())),
          Columns.of(maps, Map::gap, Boolean[]::new),
          Columns.texts(maps, row -> Columns.joined(row.constantColumns())),
          Columns.texts(maps, row -> Columns.joined(row.constantTexts())));
    }
  }

  @SQL(
      "insert into job_map (owner_kind, owner_id, described, gap, constant_columns, constant_texts)"
          + " select m.kind, m.owner, string_to_array(m.described, chr(31)), m.gap,"
          + " string_to_array(m.columns, chr(31)), string_to_array(m.texts, chr(31))"
          + " from unnest(:kinds, :owners, :described, :gaps, :columns, :texts)"
          + " as m (kind, owner, described, gap, columns, texts)"
          + " on conflict (owner_kind, owner_id) do update"
          + " set described = excluded.described, gap = excluded.gap,"
          + " constant_columns = excluded.constant_columns,"
          + " constant_texts = excluded.constant_texts")
  int upsertMaps(
      Short[] kinds,
      Long[] owners,
      String[] described,
      Boolean[] gaps,
      String[] columns,
      String[] texts);

  // ------------------------------------------------------------------ reading for the applier

  /** A link as it is stored. */
  record HeldLink(
      int kind,
      long ownerId,
      int span,
      long fromDataset,
      String fromColumn,
      long toDataset,
      String toColumn,
      String flow,
      boolean masking,
      Instant firstSeen) {
    public Subject owner() {
      return new Subject(SubjectKind.of(kind), ownerId);
    }
  }

  /** A span as it is stored. */
  record HeldSpan(
      int kind,
      long ownerId,
      int span,
      String version,
      Instant lastSeen,
      @Nullable Instant until,
      String evidence) {
    public Subject owner() {
      return new Subject(SubjectKind.of(kind), ownerId);
    }
  }

  /** A column map as it is stored. */
  record HeldMap(
      int kind,
      long ownerId,
      String[] described,
      boolean gap,
      String[] constantColumns,
      String[] constantTexts) {
    public Subject owner() {
      return new Subject(SubjectKind.of(kind), ownerId);
    }
  }

  default List<HeldLink> linksOf(Collection<Subject> owners) {
    return owners.isEmpty() ? List.of() : linksOf(kinds(owners), ids(owners));
  }

  default List<HeldSpan> spansOf(Collection<Subject> owners) {
    return owners.isEmpty() ? List.of() : spansOf(kinds(owners), ids(owners));
  }

  default List<HeldMap> mapsOf(Collection<Subject> owners) {
    return owners.isEmpty() ? List.of() : mapsOf(kinds(owners), ids(owners));
  }

  private static Short[] kinds(Collection<Subject> owners) {
    return Columns.of(owners, Subject::kindCode, Short[]::new);
  }

  private static Long[] ids(Collection<Subject> owners) {
    return Columns.longs(owners, Subject::id);
  }

  @SQL(
      "select cast(l.owner_kind as int), l.owner_id, l.span, l.from_dataset, l.from_column,"
          + " l.to_dataset, l.to_column, l.flow, l.masking, l.first_seen"
          + " from unnest(:kinds, :owners) as o (kind, id)"
          + " join link_row l on l.owner_kind = o.kind and l.owner_id = o.id")
  List<HeldLink> linksOf(Short[] kinds, Long[] owners);

  @SQL(
      "select cast(s.owner_kind as int), s.owner_id, s.span, s.version, s.last_seen, s.until,"
          + " s.evidence from unnest(:kinds, :owners) as o (kind, id)"
          + " join link_span s on s.owner_kind = o.kind and s.owner_id = o.id")
  List<HeldSpan> spansOf(Short[] kinds, Long[] owners);

  @SQL(
      "select cast(m.owner_kind as int), m.owner_id, m.described, m.gap, m.constant_columns,"
          + " m.constant_texts from unnest(:kinds, :owners) as o (kind, id)"
          + " join job_map m on m.owner_kind = o.kind and m.owner_id = o.id")
  List<HeldMap> mapsOf(Short[] kinds, Long[] owners);

  // ------------------------------------------------------------------ loading the graph

  /** Hands all current links to a consumer, a thousand at a time. */
  default void forEachCurrent(Consumer<Named> consumer) {
    try (var links =
        session().createNativeQuery(CURRENT, Named.class).setFetchSize(1_000).getResultStream()) {
      links.forEach(consumer);
    }
  }

  /** Hands all links that held at a moment to a consumer, a thousand at a time. */
  default void forEachAt(Instant at, Consumer<Named> consumer) {
    try (var links =
        session()
            .createNativeQuery(AT, Named.class)
            .setParameter("at", at)
            .setFetchSize(1_000)
            .getResultStream()) {
      links.forEach(consumer);
    }
  }

  String NAMED =
      "select coalesce(j.ref, o.ref) as owner, f.ref as source, l.from_column, t.ref as target,"
          + " l.to_column, l.flow, l.masking, l.last_seen from link l"
          + " join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset"
          + " left join job j on l.owner_kind = 2 and j.id = l.owner_id"
          + " left join dataset o on l.owner_kind = 1 and o.id = l.owner_id where ";

  String CURRENT = NAMED + "(l.until is null or l.until > now())";

  String AT = NAMED + "l.first_seen <= :at and (l.until is null or l.until > :at)";

  String OF_OWNERS =
      "with owners (kind, id, ref) as"
          + OWNERS
          + " select o.ref as owner, f.ref as source, l.from_column, t.ref as target,"
          + " l.to_column, l.flow, l.masking, l.last_seen from owners o"
          + " join link l on l.owner_kind = o.kind and l.owner_id = o.id"
          + " join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset";

  /** The current links that these jobs make or datasets declare. */
  @SQL(OF_OWNERS + " where (l.until is null or l.until > now())")
  List<Named> currentOf(String[] refs);

  /** The links that these jobs made or datasets declared at a moment. */
  @SQL(OF_OWNERS + " where l.first_seen <= :at and (l.until is null or l.until > :at)")
  List<Named> heldBy(String[] refs, Instant at);

  /** The owners of links that began after one moment or ended after another, or will end. */
  @SQL(
      "select coalesce(j.ref, d.ref) from"
          + " (select owner_kind, owner_id from link_row where first_seen > :began"
          + " union select owner_kind, owner_id from link_span where until > :ended) c"
          + " left join job j on c.owner_kind = 2 and j.id = c.owner_id"
          + " left join dataset d on c.owner_kind = 1 and d.id = c.owner_id")
  List<String> changedSince(Instant began, Instant ended);

  /** A link over one stretch of time, by references; the version is its hash. */
  record Stretch(
      String owner,
      String from,
      String fromColumn,
      String to,
      String toColumn,
      String flow,
      Instant since,
      @Nullable Instant until,
      String version,
      String evidence) {}

  String STRETCH =
      "select coalesce(j.ref, o.ref) as owner, f.ref as source, l.from_column, t.ref as target,"
          + " l.to_column, l.flow, l.first_seen, l.until, l.version, l.evidence from link l"
          + " join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset"
          + " left join job j on l.owner_kind = 2 and j.id = l.owner_id"
          + " left join dataset o on l.owner_kind = 1 and o.id = l.owner_id";

  /** All links that these jobs or datasets ever made; "or" would read every link of the estate. */
  @SQL(
      STRETCH
          + " where l.owner_kind = 2 and l.owner_id in (select id from job where ref = any(:owners))"
          + " union all "
          + STRETCH
          + " where l.owner_kind = 1"
          + " and l.owner_id in (select id from dataset where ref = any(:owners))")
  List<Stretch> stretches(String[] owners);

  /**
   * Links that ever led into some datasets, from others, or from and to any of a third group; so
   * many at most, and some of them twice.
   */
  @SQL(
      STRETCH
          + " where l.to_dataset in (select id from dataset where ref = any(:into))"
          + " union all "
          + STRETCH
          + " where l.from_dataset in (select id from dataset where ref = any(:from))"
          + " union all "
          + STRETCH
          + " where l.from_dataset in (select id from dataset where ref = any(:among))"
          + " and l.to_dataset in (select id from dataset where ref = any(:among))"
          + " limit :most")
  List<Stretch> stretches(String[] into, String[] from, String[] among, int most);

  /** When a job last reported links. */
  record LastSeen(String owner, Instant at) {}

  /** When each of these jobs last reported any link. */
  @SQL(
      "select j.ref, max(s.last_seen) from link_span s join job j"
          + " on s.owner_kind = 2 and j.id = s.owner_id where j.ref = any(:jobs) group by j.ref")
  List<LastSeen> lastSeen(String[] jobs);

  /** A dataset at the other end of links, and who states these. */
  record Neighbour(String owner, String ref) {}

  String OWNER =
      "select distinct coalesce(j.ref, o.ref), n.ref from link l"
          + " left join job j on l.owner_kind = 2 and j.id = l.owner_id"
          + " left join dataset o on l.owner_kind = 1 and o.id = l.owner_id";

  String HELD = " and l.first_seen <= :at and (l.until is null or l.until > :at)";

  /** What led to these datasets at a moment. */
  @SQL(
      OWNER
          + " join dataset n on n.id = l.from_dataset"
          + " where l.to_dataset in (select id from dataset where ref = any(:datasets))"
          + HELD)
  List<Neighbour> before(String[] datasets, Instant at);

  /** What these datasets led to at a moment. */
  @SQL(
      OWNER
          + " join dataset n on n.id = l.to_dataset"
          + " where l.from_dataset in (select id from dataset where ref = any(:datasets))"
          + HELD)
  List<Neighbour> behind(String[] datasets, Instant at);

  @SQL(
      "select coalesce(j.ref, d.ref) as owner, m.described, m.gap from job_map m"
          + " left join job j on m.owner_kind = 2 and j.id = m.owner_id"
          + " left join dataset d on m.owner_kind = 1 and d.id = m.owner_id")
  List<Described> described();

  @SQL(
      "with owners (kind, id, ref) as"
          + OWNERS
          + " select o.ref as owner, m.described, m.gap from owners o"
          + " join job_map m on m.owner_kind = o.kind and m.owner_id = o.id")
  List<Described> describedBy(String[] refs);

  /** Why the current links of owners are believed. */
  @SQL(
      "with owners (kind, id, ref) as"
          + OWNERS
          + " select o.ref as owner, f.ref as source, l.from_column, t.ref as target,"
          + " l.to_column, l.evidence, v.number, l.first_seen, l.last_seen from owners o"
          + " join link l on l.owner_kind = o.kind and l.owner_id = o.id"
          + " join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset"
          + " left join job_version v on l.owner_kind = 2 and v.job_id = l.owner_id"
          + " and v.hash = l.version where (l.until is null or l.until > now())")
  List<Evidence> evidence(String[] refs);

  /** The owners of recorded links whose date came in a stretch of time. */
  @SQL(
      "select distinct coalesce(j.ref, d.ref) from link_span s"
          + " left join job j on s.owner_kind = 2 and j.id = s.owner_id"
          + " left join dataset d on s.owner_kind = 1 and d.id = s.owner_id"
          + " where s.evidence = 'recorded' and s.until > :after and s.until <= :upTo")
  List<String> endedBetween(Instant after, Instant upTo);

  @HQL("select count(l) from LinkRow l")
  long count();
}
