package longthread.service.intake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.event.CanonicalJson;
import longthread.core.event.CardReader;
import longthread.service.intake.FactStore.Subject;
import longthread.service.web.StoredText;
import org.springframework.jdbc.core.JdbcTemplate;
import tools.jackson.databind.JsonNode;

/** Computes the cards of datasets and jobs, and the text in which search looks for them. */
final class CardWriter {
  private final JdbcTemplate jdbc;
  private final FactStore facts;
  private final Set<String> knownParents = new HashSet<>();

  CardWriter(JdbcTemplate jdbc, FactStore facts) {
    this.jdbc = jdbc;
    this.facts = facts;
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
      facts.internDatasets(datasets);
      renames = renames(datasets); // with those in which only the partners had a part
    }
    var cards = new ArrayList<Card>();
    List<Long> datasetIds = datasets.stream().map(facts::id).toList();
    List<Long> jobIds = jobs.stream().map(facts::id).toList();
    var subjects = new ArrayList<Subject>();
    datasetIds.forEach(id -> subjects.add(new Subject(FactStore.DATASET, id)));
    jobIds.forEach(id -> subjects.add(new Subject(FactStore.JOB, id)));
    Map<Subject, Map<String, JsonNode>> facets = facts.current(subjects);
    Set<Long> describedDatasets = described(FactStore.DATASET, datasetIds);
    Set<Long> describedJobs = described(FactStore.JOB, jobIds);
    Set<Long> dropped = dropped(datasets, facets);
    for (DatasetName dataset : datasets) {
      long id = facts.id(dataset);
      Map<String, JsonNode> own = facets.getOrDefault(new Subject(FactStore.DATASET, id), Map.of());
      cards.add(named(dataset, own, describedDatasets.contains(id), dropped.contains(id), renames));
    }
    Set<String> parents = parents(jobs);
    for (JobName job : jobs) {
      long id = facts.id(job);
      cards.add(
          CardReader.job(
              job,
              facets.getOrDefault(new Subject(FactStore.JOB, id), Map.of()),
              describedJobs.contains(id),
              parents.contains(job.reference())));
    }
    facts.batch(
        "insert into card values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"
            + " on conflict (ref) do update set kind = excluded.kind, system = excluded.system,"
            + " name = excluded.name, title = excluded.title, url = excluded.url,"
            + " owners = excluded.owners, tags = excluded.tags, retired = excluded.retired,"
            + " haystack = excluded.haystack, body = excluded.body",
        cards.stream().map(CardWriter::row).toList());
    return cards.stream().map(Card::ref).collect(Collectors.toSet());
  }

  /** A rename, and whether the old name was taken into use again after it. */
  private record Renamed(DatasetName from, DatasetName to, Instant at, boolean alive) {}

  /** All renames that any of the datasets had a part in, the oldest first. */
  private List<Renamed> renames(Collection<DatasetName> datasets) {
    if (!Boolean.TRUE.equals(
        jdbc.queryForObject("select exists (select from renamed)", Boolean.class))) {
      return List.of();
    }
    Long[] ids = datasets.stream().map(facts::id).toArray(Long[]::new);
    return jdbc.query(
        "select f.ref, t.ref, r.at_s, r.at_n,"
            + " exists (select from link l where l.to_dataset = r.from_dataset and not l.declared"
            + "   and l.last_seen > to_timestamp(r.at_s))"
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
                dataset(row.getString(1)),
                dataset(row.getString(2)),
                Instant.ofEpochSecond(row.getLong(3), row.getInt(4)),
                row.getBoolean(5)),
        ids,
        ids);
  }

  private static DatasetName dataset(String ref) {
    return ((Reference.OfDataset) Reference.parse(ref)).dataset();
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
        facts.id(dataset),
        at.getEpochSecond(),
        at.getNano());
    Map<String, JsonNode> values = facts.values(new HashSet<>(digests.values()));
    var facets = new HashMap<String, JsonNode>();
    digests.forEach((key, digest) -> facets.put(key, values.get(digest)));
    return facets;
  }

  private static Object[] row(Card card) {
    return new Object[] {
      card.ref(),
      card.kind().word(),
      StoredText.clean(systemOf(card)),
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
  static String systemOf(Card card) {
    if (card.system() != null) {
      return card.system();
    }
    Reference reference = Reference.parse(card.ref());
    return reference instanceof Reference.OfJob job
        ? job.job().namespace()
        : ((Reference.OfDataset) reference).dataset().namespace();
  }

  private static String haystack(Card card) {
    var words = new ArrayList<String>(List.of(card.ref(), card.name(), systemOf(card)));
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

  private Set<Long> described(int kind, Collection<Long> ids) {
    return new HashSet<>(
        jdbc.queryForList(
            "select subject_id from described where subject_kind = ? and subject_id = any(?)",
            Long.class,
            kind,
            ids.toArray(Long[]::new)));
  }

  /** Datasets whose newest life cycle word is DROP, with no link into them seen since. */
  private Set<Long> dropped(
      Collection<DatasetName> datasets, Map<Subject, Map<String, JsonNode>> facets) {
    var dropped = new HashSet<Long>();
    for (DatasetName dataset : datasets) {
      var subject = new Subject(FactStore.DATASET, facts.id(dataset));
      JsonNode life = facets.getOrDefault(subject, Map.of()).get("lifecycleStateChange");
      if (life != null
          && life.path("lifecycleStateChange").stringValue("").equalsIgnoreCase("DROP")) {
        dropped.add(subject.id());
      }
    }
    if (!dropped.isEmpty()) {
      jdbc.query(
          "select f.subject_id from facet_now f where f.subject_kind = 1"
              + " and f.key = 'lifecycleStateChange' and f.subject_id = any(?)"
              + " and exists (select from link l where l.to_dataset = f.subject_id"
              + " and not l.declared and l.last_seen > to_timestamp(f.at_s))",
          row -> {
            dropped.remove(row.getLong(1)); // written since, so it lives again
          },
          (Object) dropped.toArray(Long[]::new));
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
