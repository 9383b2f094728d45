package longthread.service.intake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import longthread.core.event.CanonicalJson;
import longthread.core.event.EventFacts;
import longthread.core.event.EventTime;
import longthread.core.event.FacetFact;
import longthread.core.event.Rename;
import longthread.core.event.RunFact;
import longthread.core.event.Stated;
import longthread.service.intake.CurrentFacets.Winner;
import longthread.service.intake.FactRows.Hex;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import tools.jackson.databind.JsonNode;

/**
 * Writes facts, in sets: a batch of events costs a bounded number of statements. Every write is an
 * insert that ignores what is there, or puts the greater of two in the place of the lesser; so the
 * order of batches does not matter.
 *
 * <p>It remembers what it wrote lately, so it must be the only writer; see {@link #forget}.
 */
final class FactStore {
  static final int OF_RUN = 0;
  static final int OF_INPUT = 1;
  static final int OF_OUTPUT = 2;
  static final int OF_CODE = 3;

  private static final Set<String> CODE_FACETS = Set.of("sql", "sourceCode", "sourceCodeLocation");
  private static final int MOST_REMEMBERED = 1_000_000;

  /** An event together with the block that brought it. */
  record Brought(EventFacts event, long block) {}

  /**
   * What a batch changed.
   *
   * @param facets the subjects of whose facets another value stands now
   * @param described what was only mentioned before, or not even that
   * @param runs what was told of which run
   * @param words for each event what was new in it
   * @param schemas the datasets of which a schema was told that may not be the one known before
   */
  record Written(
      Set<Subject> facets,
      Set<Subject> described,
      Map<RunKey, Moments> runs,
      List<Set<String>> words,
      Set<Long> schemas) {}

  private final JdbcTemplate jdbc;
  private final NameIds ids;
  private final CurrentFacets current;
  private final Set<Subject> described = new HashSet<>();
  private final Remembered<String, Boolean> shapes = new Remembered<>(MOST_REMEMBERED, any -> 1);

  FactStore(JdbcTemplate jdbc, NameIds ids, CurrentFacets current) {
    this.jdbc = jdbc;
    this.ids = ids;
    this.current = current;
  }

  /** Drops all that is remembered: after a transaction was rolled back, or another wrote. */
  void forget() {
    described.clear();
    shapes.clear();
  }

  /** Writes the facts of events, whose names all have ids. */
  Written write(List<Brought> events) {
    var batch = new Batch(events);
    var words = new ArrayList<Set<String>>();
    for (Brought brought : events) {
      var changed = new LinkedHashSet<String>();
      batch.add(brought, changed);
      words.add(changed);
    }
    batch.write();
    return new Written(
        batch.changed, batch.newlyDescribed.keySet(), batch.moments, words, batch.schemas);
  }

  private @Nullable Subject subject(FacetFact.Subject of) {
    if (of instanceof FacetFact.OfDataset dataset) {
      return ids.subject(dataset.dataset());
    }
    return of instanceof FacetFact.OfJob job ? ids.subject(job.job()) : null;
  }

  /** The rows of one batch. */
  private final class Batch {
    private final Map<Subject, Map<String, Winner>> winners;
    private final Map<String, JsonNode> newValues = new TreeMap<>();
    private final FactRows facets = new FactRows();
    private final Map<Subject, Set<String>> moved = new LinkedHashMap<>();
    private final Set<Subject> changed = new LinkedHashSet<>();
    private final Set<Long> schemas = new HashSet<>();
    private final FactRows runFacets = new FactRows();
    private final Map<RunKey, Moments> moments = new LinkedHashMap<>();
    private final Map<String, Stated> newShapes = new TreeMap<>();
    private final FactRows runShapes = new FactRows();
    private final FactRows declared = new FactRows();
    private final Map<Subject, Long> newlyDescribed = new LinkedHashMap<>();
    private final FactRows renamed = new FactRows();

    Batch(List<Brought> events) {
      var subjects = new HashSet<Subject>();
      for (Brought brought : events) {
        brought.event().facets().forEach(fact -> subjects.add(subject(fact.subject())));
      }
      subjects.remove(null); // those of runs
      winners = current.winners(subjects);
    }

    void add(Brought brought, Set<String> words) {
      EventFacts event = brought.event();
      long block = brought.block();
      for (FacetFact fact : event.facets()) {
        if (!current.hasValue(fact.digest())) {
          newValues.put(fact.digest(), fact.value());
        }
        facet(event, fact, block, words);
      }
      if (event.run().isPresent()) {
        run(event.run().get(), event.stated(), block);
      } else if (event.job() != null) {
        declare(ids.subject(event.job()), event.stated(), event.at(), block);
      }
      event
          .declared()
          .forEach((dataset, stated) -> declare(ids.subject(dataset), stated, event.at(), block));
      for (Rename rename : event.renames()) {
        Instant at = rename.at();
        long from = ids.id(rename.from());
        current.renamed(from);
        renamed.add(block, from, ids.id(rename.to()), at.getEpochSecond(), at.getNano());
        words.add("renamed " + rename.from().reference() + " to " + rename.to().reference());
      }
      describe(event, block);
    }

    private void run(RunFact run, Stated stated, long block) {
      var key = new RunKey(run.run(), ids.id(run.job()));
      if (!stated.shape().isEmpty()) {
        shape(stated);
        runShapes.add(block, key.run(), key.job(), new Hex(stated.digest()));
      }
      Moments known = moments.computeIfAbsent(key, k -> new Moments());
      if (!run.farFuture()) {
        known.add(run, block);
      }
    }

    private void declare(Subject owner, Stated stated, EventTime at, long block) {
      if (!stated.shape().isEmpty()) {
        shape(stated);
        declared.add(
            block,
            owner.kind(),
            owner.id(),
            at.at().getEpochSecond(),
            at.at().getNano(),
            new Hex(stated.digest()),
            at.farFuture());
      }
    }

    private void shape(Stated stated) {
      if (!shapes.has(stated.digest())) {
        newShapes.put(stated.digest(), stated);
      }
    }

    /** Whatever an event gives as more than a mention. */
    private void describe(EventFacts event, long block) {
      if (event.job() != null) {
        describe(ids.subject(event.job()), block);
      }
      if (event.dataset() != null) {
        describe(ids.subject(event.dataset()), block);
      }
      event.shape().outputs().forEach(output -> describe(ids.subject(output), block));
      for (FacetFact fact : event.facets()) {
        if (fact.subject() instanceof FacetFact.OfDataset of) {
          describe(ids.subject(of.dataset()), block);
        }
      }
    }

    private void describe(Subject subject, long block) {
      if (!described.contains(subject)) {
        newlyDescribed.putIfAbsent(subject, block);
      }
    }

    private void facet(EventFacts event, FacetFact fact, long block, Set<String> words) {
      String key = StoredText.clean(fact.key());
      Subject subject = subject(fact.subject());
      if (subject != null) {
        subjectFacet(subject, fact, key, block, words);
      }
      if (fact.subject() instanceof FacetFact.OfJob of
          && event.run().isPresent()
          && CODE_FACETS.contains(key)) {
        runFacet(event.run().get().run(), ids.id(of.job()), OF_CODE, 0, key, fact, block);
      } else if (fact.subject() instanceof FacetFact.OfRun of) {
        runFacet(of.run(), ids.id(of.job()), OF_RUN, 0, key, fact, block);
      } else if (fact.subject() instanceof FacetFact.OfRunDataset of) {
        int role = of.output() ? OF_OUTPUT : OF_INPUT;
        runFacet(of.run(), ids.id(of.job()), role, ids.id(of.dataset()), key, fact, block);
      }
    }

    private void runFacet(
        UUID run, long job, int role, long dataset, String key, FacetFact fact, long block) {
      Instant at = fact.at().at();
      runFacets.add(
          block,
          run,
          job,
          role,
          dataset,
          key,
          at.getEpochSecond(),
          at.getNano(),
          new Hex(fact.digest()),
          fact.at().farFuture());
    }

    private void subjectFacet(
        Subject subject, FacetFact fact, String key, long block, Set<String> words) {
      Instant at = fact.at().at();
      facets.add(
          block,
          subject.kind(),
          subject.id(),
          key,
          at.getEpochSecond(),
          at.getNano(),
          new Hex(fact.digest()),
          fact.at().farFuture());
      if (fact.at().farFuture() || FacetFact.tellsNothing(key, fact.value())) {
        return;
      }
      Map<String, Winner> now = winners.get(subject);
      var winner = new Winner(at, fact.digest());
      Winner before = now.get(key);
      boolean asKnown =
          before != null && before.digest().equals(fact.digest()) && !at.isBefore(before.at());
      if (key.equals("schema") && subject.kind() == Subject.DATASET && !asKnown) {
        schemas.add(subject.id());
      }
      if (winner.beats(before)) {
        now.put(key, winner);
        moved.computeIfAbsent(subject, k -> new LinkedHashSet<>()).add(key);
        if (before == null || !before.digest().equals(fact.digest())) {
          changed.add(subject);
          words.add(key + " of " + name(fact.subject()) + (before == null ? " told" : " changed"));
        }
      }
    }

    private static String name(FacetFact.Subject subject) {
      String name =
          subject instanceof FacetFact.OfDataset of
              ? of.dataset().name()
              : ((FacetFact.OfJob) subject).job().name();
      return name.substring(name.lastIndexOf('/') + 1);
    }

    void write() {
      writeValues();
      writeShapes();
      jdbc.batchUpdate(
          "insert into facet values (?, ?, ?, ?, ?, ?, ?, ?) on conflict do nothing",
          facets.rows());
      jdbc.batchUpdate(
          "insert into facet_now values (?, ?, ?, ?, ?, ?)"
              + " on conflict (subject_kind, subject_id, key) do update"
              + " set at_s = excluded.at_s, at_n = excluded.at_n, digest = excluded.digest",
          winnersNow());
      jdbc.batchUpdate(
          "insert into run_facet values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) on conflict do nothing",
          runFacets.rows());
      jdbc.batchUpdate(
          "insert into run_shape values (?, ?, ?, ?) on conflict do nothing", runShapes.rows());
      jdbc.batchUpdate(
          "insert into declared values (?, ?, ?, ?, ?, ?, ?) on conflict do nothing",
          declared.rows());
      jdbc.batchUpdate(
          "insert into renamed values (?, ?, ?, ?, ?) on conflict do nothing", renamed.rows());
      var describing = new ArrayList<Object[]>();
      newlyDescribed.forEach(
          (subject, block) -> describing.add(new Object[] {subject.kind(), subject.id(), block}));
      jdbc.batchUpdate("insert into described values (?, ?, ?) on conflict do nothing", describing);
      if (described.size() > MOST_REMEMBERED) {
        described.clear();
      }
      described.addAll(newlyDescribed.keySet());
    }

    private void writeValues() {
      var rows = new ArrayList<Object[]>();
      var lengths = new HashMap<String, Integer>();
      newValues.forEach(
          (digest, value) -> {
            byte[] packed = StoredText.packed(CanonicalJson.text(value));
            rows.add(new Object[] {FactRows.bytes(digest), packed});
            lengths.put(digest, packed.length);
          });
      jdbc.batchUpdate("insert into facet_body values (?, ?) on conflict do nothing", rows);
      newValues.forEach((digest, value) -> current.stored(digest, value, lengths.get(digest)));
    }

    private void writeShapes() {
      var rows = new ArrayList<Object[]>();
      newShapes.forEach(
          (digest, stated) ->
              rows.add(new Object[] {FactRows.bytes(digest), StoredText.packed(stated.text())}));
      jdbc.batchUpdate("insert into shape values (?, ?) on conflict do nothing", rows);
      newShapes.keySet().forEach(digest -> shapes.put(digest, true));
    }

    private List<Object[]> winnersNow() {
      var rows = new ArrayList<Object[]>();
      moved.forEach(
          (subject, keys) -> {
            for (String key : keys) {
              Winner winner = winners.get(subject).get(key);
              rows.add(
                  new Object[] {
                    subject.kind(),
                    subject.id(),
                    key,
                    winner.at().getEpochSecond(),
                    winner.at().getNano(),
                    FactRows.bytes(winner.digest())
                  });
            }
          });
      return rows;
    }
  }
}
