package longthread.service.intake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.asset.Owner;
import longthread.core.event.CanonicalJson;
import longthread.core.event.CardReader;
import longthread.service.web.StoredText;
import org.springframework.jdbc.core.JdbcTemplate;
import tools.jackson.databind.JsonNode;

/** Computes the cards of datasets and jobs, and the text in which search looks for them. */
final class CardWriter {
  private final JdbcTemplate jdbc;
  private final NameIds ids;
  private final CurrentFacets current;
  private final Set<String> knownParents = new HashSet<>();

  CardWriter(JdbcTemplate jdbc, NameIds ids, CurrentFacets current) {
    this.jdbc = jdbc;
    this.ids = ids;
    this.current = current;
  }

  void forget() {
    knownParents.clear();
  }

  /** Whether the job was not known yet to start others; it is from now on. */
  boolean isNewParent(String job) {
    return knownParents.add(job);
  }

  /** Writes the cards of these datasets and jobs; returns the references of all that it wrote. */
  Set<String> write(Set<DatasetName> touched, Collection<JobName> jobs) {
    var datasets = new TreeSet<>(touched);
    List<Renamed> renames = renames(datasets);
    if (!renames.isEmpty()) {
      for (Renamed rename : renames) {
        datasets.add(rename.from());
        datasets.add(rename.to());
      }
      ids.internDatasets(datasets);
      renames = renames(datasets); // with those in which only the partners had a part
    }
    var cards = new ArrayList<Card>();
    var subjects = new ArrayList<Subject>();
    datasets.forEach(dataset -> subjects.add(ids.subject(dataset)));
    jobs.forEach(job -> subjects.add(ids.subject(job)));
    Map<Subject, Map<String, JsonNode>> facets = current.of(subjects);
    Set<Subject> described = described(subjects);
    Set<Subject> dropped = dropped(datasets, facets);
    for (DatasetName dataset : datasets) {
      Subject subject = ids.subject(dataset);
      cards.add(
          named(
              dataset,
              facets.get(subject),
              described.contains(subject),
              dropped.contains(subject),
              renames));
    }
    Set<String> parents = parents(jobs);
    for (JobName job : jobs) {
      Subject subject = ids.subject(job);
      cards.add(
          CardReader.job(
              job,
              facets.get(subject),
              described.contains(subject),
              parents.contains(job.reference())));
    }
    return writeChanged(cards);
  }

  /** Writes those cards that are not stored just so; returns their references. */
  private Set<String> writeChanged(List<Card> cards) {
    var rows = new LinkedHashMap<String, Object[]>();
    cards.forEach(card -> rows.put(card.ref(), row(card)));
    jdbc.query(
        "select ref, body from card where ref = any(?)",
        row -> {
          Object[] fresh = rows.get(row.getString(1));
          if (Arrays.equals(row.getBytes(2), (byte[]) fresh[fresh.length - 1])) {
            rows.remove(row.getString(1));
          }
        },
        (Object) rows.keySet().toArray(String[]::new));
    jdbc.batchUpdate(
        "insert into card values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"
            + " on conflict (ref) do update set kind = excluded.kind, system = excluded.system,"
            + " name = excluded.name, title = excluded.title, url = excluded.url,"
            + " owners = excluded.owners, tags = excluded.tags, retired = excluded.retired,"
            + " haystack = excluded.haystack, body = excluded.body",
        List.copyOf(rows.values()));
    return new HashSet<>(rows.keySet());
  }

  /** When something of a table with seconds and nanoseconds was, as a time of the database. */
  private static String moment(String of) {
    return "to_timestamp(" + of + ".at_s) + " + of + ".at_n / 1000 * interval '1 microsecond'";
  }

  /** A rename, and whether the old name was taken into use again after it. */
  private record Renamed(DatasetName from, DatasetName to, Instant at, boolean alive) {}

  /** All renames that any of the datasets had a part in, the oldest first. */
  private List<Renamed> renames(Collection<DatasetName> datasets) {
    if (!current.anyRenamed()) {
      return List.of();
    }
    Long[] own = datasets.stream().map(ids::id).toArray(Long[]::new);
    return jdbc.query(
        "select f.ref, t.ref, r.at_s, r.at_n,"
            + " exists (select from link l where l.to_dataset = r.from_dataset and not l.declared"
            + "   and l.last_seen > "
            + moment("r")
            + ")"
            + " or exists (select from renamed n where n.to_dataset = r.from_dataset"
            + "   and (n.at_s, n.at_n) > (r.at_s, r.at_n))"
            + " or exists (select from facet c where c.subject_kind = 1"
            + "   and c.subject_id = r.from_dataset and c.key = 'lifecycleStateChange' and not c.far"
            + "   and (c.at_s, c.at_n) > (r.at_s, r.at_n))"
            + " from renamed r join dataset f on f.id = r.from_dataset"
            + " join dataset t on t.id = r.to_dataset"
            + " where r.from_dataset = any(?) or r.to_dataset = any(?)"
            + " order by r.at_s, r.at_n, t.ref, f.ref",
        (row, n) ->
            new Renamed(
                DatasetName.parse(row.getString(1)),
                DatasetName.parse(row.getString(2)),
                Instant.ofEpochSecond(row.getLong(3), row.getInt(4)),
                row.getBoolean(5)),
        own,
        own);
  }

  /**
   * A dataset's card with its former names. While an old name is not in use again, it is a part of
   * the asset under its new name. Once it is, it stands for itself with what was said of it since,
   * and what was said before is told of the new name, where that says nothing else.
   */
  private Card named(
      DatasetName dataset,
      Map<String, JsonNode> own,
      boolean described,
      boolean dropped,
      List<Renamed> renames) {
    var facets = new HashMap<>(own);
    var formerly = new ArrayList<Card.Former>();
    Renamed last = null;
    for (Renamed rename : renames) {
      if (rename.to().equals(dataset)) {
        formerly.add(new Card.Former(rename.from().reference(), rename.at(), rename.alive()));
        if (rename.alive()) {
          stated(rename.from(), rename.at(), true).forEach(facets::putIfAbsent);
        }
      }
      if (rename.from().equals(dataset)) {
        last = rename;
      }
    }
    if (last != null && last.alive()) {
      facets.keySet().retainAll(stated(dataset, last.at(), false).keySet());
    }
    boolean over = last != null && !last.alive();
    return CardReader.dataset(dataset, facets, described, dropped)
        .named(dropped || over, over ? last.to().reference() : null, formerly);
  }

  /** The facets of a dataset that won among those stated before a moment, or from it on. */
  private Map<String, JsonNode> stated(DatasetName dataset, Instant at, boolean before) {
    var digests = new HashMap<String, String>();
    jdbc.query(
        "select distinct on (key) key, encode(digest, 'hex') from facet where subject_kind = 1"
            + " and subject_id = ? and not far and (at_s, at_n) "
            + (before ? "<" : ">=")
            + " (?, ?) order by key, at_s desc, at_n desc, digest desc",
        row -> {
          digests.put(row.getString(1), row.getString(2));
        },
        ids.id(dataset),
        at.getEpochSecond(),
        at.getNano());
    Map<String, JsonNode> values = current.values(new HashSet<>(digests.values()));
    var facets = new HashMap<String, JsonNode>();
    digests.forEach((key, digest) -> facets.put(key, values.get(digest)));
    return facets;
  }

  private static Object[] row(Card card) {
    return new Object[] {
      card.ref(),
      card.kind().word(),
      StoredText.clean(system(card)),
      StoredText.clean(card.name()),
      card.title() == null ? null : StoredText.clean(card.title()),
      card.url() == null ? null : StoredText.clean(card.url()),
      card.owners().stream().map(o -> StoredText.clean(o.name())).toArray(String[]::new),
      card.tags().stream().map(t -> StoredText.clean(t.word())).toArray(String[]::new),
      card.retired(),
      haystack(card),
      StoredText.packed(CanonicalJson.MAPPER.writeValueAsString(card))
    };
  }

  /** The system a card belongs to: what its source called itself, else its namespace. */
  private static String system(Card card) {
    return card.system() == null ? card.namespace() : card.system();
  }

  private static String haystack(Card card) {
    var words = new ArrayList<String>(List.of(card.ref(), card.name(), system(card)));
    words.addAll(card.container());
    for (String text : Arrays.asList(card.title(), card.description(), card.url())) {
      if (text != null) {
        words.add(text);
      }
    }
    for (Owner owner : card.owners()) {
      words.add(owner.name());
    }
    card.tags().forEach(tag -> words.add(tag.word()));
    for (Card.Column column : card.columns()) {
      words.add(column.path());
      if (column.description() != null) {
        words.add(column.description());
      }
      column.tags().forEach(tag -> words.add(tag.word()));
    }
    String all = StoredText.clean(String.join(" \n", words)).toLowerCase(Locale.ROOT);
    return all.length() > 100_000 ? all.substring(0, 100_000) : all;
  }

  private Set<Subject> described(Collection<Subject> subjects) {
    return new HashSet<>(
        jdbc.query(
            "select subject_kind, subject_id from described where (subject_kind, subject_id) in"
                + " (select unnest(?), unnest(?))",
            (row, n) -> new Subject(row.getInt(1), row.getLong(2)),
            subjects.stream().map(subject -> (short) subject.kind()).toArray(Short[]::new),
            subjects.stream().map(Subject::id).toArray(Long[]::new)));
  }

  /** Datasets whose newest life cycle word is DROP, with no link into them seen since. */
  private Set<Subject> dropped(
      Collection<DatasetName> datasets, Map<Subject, Map<String, JsonNode>> facets) {
    var dropped = new HashSet<Subject>();
    for (DatasetName dataset : datasets) {
      Subject subject = ids.subject(dataset);
      JsonNode life = facets.get(subject).get("lifecycleStateChange");
      if (life != null
          && life.path("lifecycleStateChange").stringValue("").equalsIgnoreCase("DROP")) {
        dropped.add(subject);
      }
    }
    if (!dropped.isEmpty()) {
      jdbc.query(
          "select f.subject_id from facet_now f where f.subject_kind = 1"
              + " and f.key = 'lifecycleStateChange' and f.subject_id = any(?)"
              + " and exists (select from link l where l.to_dataset = f.subject_id"
              + " and not l.declared and l.last_seen > "
              + moment("f")
              + ")",
          row -> {
            dropped.remove(Subject.dataset(row.getLong(1))); // written since, so it lives again
          },
          (Object) dropped.stream().map(Subject::id).toArray(Long[]::new));
    }
    return dropped;
  }

  private Set<String> parents(Collection<JobName> jobs) {
    return new HashSet<>(
        jdbc.queryForList(
            "select distinct parent_job from run where parent_job = any(?)",
            String.class,
            (Object) jobs.stream().map(JobName::reference).toArray(String[]::new)));
  }
}
