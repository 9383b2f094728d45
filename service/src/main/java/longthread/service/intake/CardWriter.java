package longthread.service.intake;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.event.CanonicalJson;
import longthread.core.event.CardReader;
import longthread.service.web.StoredText;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/** Computes the cards of datasets and jobs, and the text in which search looks for them. */
@Component
class CardWriter {
  private final JdbcTemplate jdbc;
  private final FactStore facts;
  private final CurrentFacets current;

  CardWriter(JdbcTemplate jdbc, FactStore facts, CurrentFacets current) {
    this.jdbc = jdbc;
    this.facts = facts;
    this.current = current;
  }

  /** Writes the cards of these datasets and jobs. */
  void write(Collection<DatasetName> datasets, Collection<JobName> jobs) {
    var cards = new ArrayList<Card>();
    List<Long> datasetIds = datasets.stream().map(facts::id).toList();
    List<Long> jobIds = jobs.stream().map(facts::id).toList();
    var facetsOfDatasets = current.of(FactStore.DATASET, datasetIds);
    var facetsOfJobs = current.of(FactStore.JOB, jobIds);
    Set<Long> describedDatasets = described(FactStore.DATASET, datasetIds);
    Set<Long> describedJobs = described(FactStore.JOB, jobIds);
    Set<Long> dropped = dropped(datasetIds);
    for (DatasetName dataset : datasets) {
      long id = facts.id(dataset);
      cards.add(
          CardReader.dataset(
              dataset,
              facetsOfDatasets.getOrDefault(id, Map.of()),
              describedDatasets.contains(id),
              dropped.contains(id)));
    }
    Set<String> parents = parents(jobs);
    for (JobName job : jobs) {
      long id = facts.id(job);
      cards.add(
          CardReader.job(
              job,
              facetsOfJobs.getOrDefault(id, Map.of()),
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
  private Set<Long> dropped(Collection<Long> ids) {
    var dropped = new HashSet<Long>();
    jdbc.query(
        "select f.subject_id, b.body, (select max(l.last_seen) from link l where"
            + " l.to_dataset = f.subject_id and not l.declared) > to_timestamp(f.at_s)"
            + " from facet_now f join facet_body b using (digest) where f.subject_kind = 1"
            + " and f.key = 'lifecycleStateChange' and f.subject_id = any(?)",
        row -> {
          boolean writtenSince = row.getBoolean(3);
          String word =
              StoredText.json(row.getBytes(2)).path("lifecycleStateChange").stringValue("");
          if (word.equalsIgnoreCase("DROP") && !writtenSince) {
            dropped.add(row.getLong(1));
          }
        },
        (Object) ids.toArray(Long[]::new));
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
