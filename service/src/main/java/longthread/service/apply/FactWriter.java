package longthread.service.apply;

import com.github.benmanes.caffeine.cache.Cache;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import longthread.core.event.EventFacts;
import longthread.core.event.EventTime;
import longthread.core.event.FacetFact;
import longthread.core.event.Rename;
import longthread.core.event.RunFact;
import longthread.core.json.LazyJson;
import longthread.core.lineage.EncodedLineage;
import longthread.core.workspace.ItemWords;
import longthread.service.apply.CurrentFacets.Winner;
import longthread.service.storage.StoredText;
import longthread.service.storage.Stores;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.FacetRole;
import longthread.service.storage.facts.RenameQueries;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.facts.RunKey;
import longthread.service.storage.facts.Subject;
import org.jspecify.annotations.Nullable;

/**
 * Writes facts, in sets: a batch of events costs a bounded number of statements. Every write is an
 * insert that ignores what is there, or puts the greater of two in the place of the lesser; so the
 * order of batches does not matter.
 *
 * <p>It caches what it wrote lately, so it must be the only writer; see {@link #forget}.
 */
final class FactWriter {
  private static final Set<String> CODE_FACETS = Set.of("sql", "sourceCode", "sourceCodeLocation");
  private static final int MAX_CACHED = 1_000_000;

  /**
   * What a batch changed.
   *
   * @param facets the subjects of whose facets another value stands now
   * @param described what was only mentioned before, or not even that
   * @param runs what was reported of which run
   * @param words for each event what was new in it
   * @param schemas the datasets of which a schema was reported that may not be the one known before
   * @param earlier the datasets whose schema is older than was known
   */
  record Written(
      Set<Subject> facets,
      Set<Subject> described,
      Map<RunKey, RunTimestamps> runs,
      List<Set<String>> words,
      Set<Long> schemas,
      Set<Long> earlier) {}

  private final FacetQueries facetStore;
  private final RunFactQueries runStore;
  private final RenameQueries renameStore;
  private final NameIds ids;
  private final CurrentFacets current;
  private final SchemaHistory schemaHistory;
  private final Set<Subject> described = new HashSet<>();
  private final Cache<String, Boolean> lineages = WeightedCache.of(MAX_CACHED, any -> 1);

  FactWriter(Stores stores, NameIds ids, CurrentFacets current, SchemaHistory schemaHistory) {
    this.schemaHistory = schemaHistory;
    this.facetStore = stores.facets();
    this.runStore = stores.runFacts();
    this.renameStore = stores.renames();
    this.ids = ids;
    this.current = current;
  }

  /** Drops all that is cached: after a transaction was rolled back, or another wrote. */
  void forget() {
    described.clear();
    lineages.invalidateAll();
  }

  /** Writes the facts of events, whose names all have ids. */
  Written write(List<EventAtBlock> events) {
    var batch = new Batch(events);
    var words = new ArrayList<Set<String>>();
    for (EventAtBlock event : events) {
      var changed = new LinkedHashSet<String>();
      batch.add(event, changed);
      words.add(changed);
    }
    batch.write();
    return new Written(
        batch.changed,
        batch.newlyDescribed.keySet(),
        batch.runTimes,
        words,
        batch.schemas,
        batch.earlier);
  }

  private @Nullable Subject subject(FacetFact.Subject of) {
    if (of instanceof FacetFact.OfDataset dataset) {
      return ids.subject(dataset.dataset());
    }
    return of instanceof FacetFact.OfJob job ? ids.subject(job.job()) : null;
  }

  /** The rows of one batch; where the value of a map is a number, it is the block. */
  private final class Batch {
    private final Map<Subject, Map<String, Winner>> winners;
    private final Map<String, LazyJson> newValues = new TreeMap<>();
    private final Map<FacetQueries.Reported, Long> facets = new LinkedHashMap<>();
    private final Map<Subject, Set<String>> moved = new LinkedHashMap<>();
    private final Set<Subject> changed = new LinkedHashSet<>();
    private final Set<Long> schemas = new HashSet<>();
    private final Set<Long> earlier = new HashSet<>();
    private final Map<RunFactQueries.Reported, Long> runFacets = new LinkedHashMap<>();
    private final Map<RunKey, RunTimestamps> runTimes = new LinkedHashMap<>();
    private final Map<String, EncodedLineage> newLineages = new TreeMap<>();
    private final Map<RunFactQueries.Lineage, Long> runLineages = new LinkedHashMap<>();
    private final Map<RunFactQueries.Declaration, Long> declared = new LinkedHashMap<>();
    private final Map<Subject, Long> newlyDescribed = new LinkedHashMap<>();
    private final Map<RenameQueries.Rename, Long> renames = new LinkedHashMap<>();

    Batch(List<EventAtBlock> events) {
      var subjects = new HashSet<Subject>();
      for (EventAtBlock one : events) {
        one.event().facets().forEach(fact -> subjects.add(subject(fact.subject())));
      }
      subjects.remove(null); // those of runs
      winners = current.winners(subjects);
    }

    void add(EventAtBlock one, Set<String> words) {
      EventFacts event = one.event();
      long block = one.block();
      for (FacetFact fact : event.facets()) {
        if (!isStored(fact)) {
          newValues.put(fact.digest(), fact.json());
        }
        facet(event, fact, block, words);
      }
      if (event.run().isPresent()) {
        run(event.run().get(), event.reported(), block);
      } else if (event.job() != null && !event.lineage().isEmpty()) {
        declare(ids.subject(event.job()), event.reported(), event.at(), block);
      }
      event
          .declared()
          .forEach((dataset, lineage) -> declare(ids.subject(dataset), lineage, event.at(), block));
      for (Rename rename : event.renames()) {
        Instant at = rename.at();
        long from = ids.id(rename.from());
        current.renamed(from);
        renames.putIfAbsent(
            new RenameQueries.Rename(from, ids.id(rename.to()), at.getEpochSecond(), at.getNano()),
            block);
        words.add("renamed " + rename.from().reference() + " to " + rename.to().reference());
      }
      describe(event, block);
    }

    /** Whether a value is known to be stored: what stands for a facet is. */
    private boolean isStored(FacetFact fact) {
      Subject subject = subject(fact.subject());
      Winner stands = subject == null ? null : winners.get(subject).get(fact.key());
      return (stands != null && stands.digest().equals(fact.digest()))
          || current.hasValue(fact.digest());
    }

    private void run(RunFact run, EncodedLineage lineage, long block) {
      var key = new RunKey(run.run(), ids.id(run.job()));
      if (!lineage.lineage().isEmpty()) {
        lineage(lineage);
        runLineages.putIfAbsent(new RunFactQueries.Lineage(key, lineage.digest()), block);
      }
      RunTimestamps known = runTimes.computeIfAbsent(key, k -> new RunTimestamps());
      if (!run.farFuture()) {
        known.add(run, block);
      }
    }

    private void declare(Subject owner, EncodedLineage lineage, EventTime at, long block) {
      lineage(lineage);
      declared.putIfAbsent(
          new RunFactQueries.Declaration(
              owner, at.at().getEpochSecond(), at.at().getNano(), lineage.digest(), at.farFuture()),
          block);
    }

    private void lineage(EncodedLineage lineage) {
      if (lineages.getIfPresent(lineage.digest()) == null) {
        newLineages.put(lineage.digest(), lineage);
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
      event.lineage().outputs().forEach(output -> describe(ids.subject(output), block));
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
        var run = new RunKey(event.run().get().run(), ids.id(of.job()));
        runFacet(run, FacetRole.CODE, 0, key, fact, block);
      } else if (fact.subject() instanceof FacetFact.OfRun of) {
        runFacet(new RunKey(of.run(), ids.id(of.job())), FacetRole.RUN, 0, key, fact, block);
      } else if (fact.subject() instanceof FacetFact.OfRunDataset of) {
        FacetRole role = of.output() ? FacetRole.OUTPUT : FacetRole.INPUT;
        var run = new RunKey(of.run(), ids.id(of.job()));
        runFacet(run, role, ids.id(of.dataset()), key, fact, block);
      }
    }

    private void runFacet(
        RunKey run, FacetRole role, long dataset, String key, FacetFact fact, long block) {
      Instant at = fact.at().at();
      runFacets.putIfAbsent(
          new RunFactQueries.Reported(
              run,
              role,
              dataset,
              key,
              at.getEpochSecond(),
              at.getNano(),
              fact.digest(),
              fact.at().farFuture()),
          block);
    }

    private void subjectFacet(
        Subject subject, FacetFact fact, String key, long block, Set<String> words) {
      Instant at = fact.at().at();
      facets.putIfAbsent(
          new FacetQueries.Reported(
              subject,
              key,
              at.getEpochSecond(),
              at.getNano(),
              fact.digest(),
              fact.at().farFuture()),
          block);
      if (fact.at().farFuture()) {
        return;
      }
      Map<String, Winner> now = winners.get(subject);
      var winner = new Winner(at, fact.digest());
      Winner before = now.get(key);
      boolean sameValue = before != null && before.digest().equals(fact.digest());
      if (!sameValue && FacetFact.tellsNothing(key, fact.value())) {
        return;
      }
      if (key.equals("lifecycleStateChange") && !subject.isJob()) {
        current.lifeReported(subject.id());
      }
      if (!subject.isJob() && FacetFact.isSchema(key)) {
        noteSchema(subject.id(), key, winner, before, now.containsKey(FacetFact.SCHEMA));
      }
      if (winner.beats(before)) {
        now.put(key, winner);
        moved.computeIfAbsent(subject, k -> new LinkedHashSet<>()).add(key);
        if (!sameValue) {
          changed.add(subject);
          String what = ItemWords.of(key);
          words.add(
              what + " of " + name(fact.subject()) + (before == null ? " added" : " changed"));
        }
      }
    }

    /**
     * Notes whether a dataset may have had another schema than was known, at any moment. It is
     * asked for each report of each dataset, and a hub's SQL is that of half the catalog: so most
     * reports, in whatever order they come, must be found to change nothing.
     */
    private void noteSchema(
        long dataset, String key, Winner reported, @Nullable Winner before, boolean isWritten) {
      boolean same = before != null && before.digest().equals(reported.digest());
      if (key.equals(FacetFact.READ_SCHEMA)) {
        // What readers report counts where no writer does, and then the newest first.
        if (!same && !isWritten) {
          schemas.add(dataset);
        }
      } else if (!same) {
        schemas.add(dataset);
      } else if (reported.at().isBefore(before.at())) {
        if (!reported.digest().equals(schemaHistory.at(dataset, reported.at()))) {
          schemas.add(dataset);
        } else if (schemaHistory.isBeforeAll(dataset, reported.at())) {
          earlier.add(dataset);
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
      writeLineages();
      facetStore.add(facets);
      facetStore.putCurrent(winnersNow());
      runStore.addFacets(runFacets);
      runStore.addLineages(runLineages);
      runStore.addDeclarations(declared);
      renameStore.add(renames);
      facetStore.addDescribed(newlyDescribed);
      if (described.size() > MAX_CACHED) {
        described.clear();
      }
      described.addAll(newlyDescribed.keySet());
    }

    private void writeValues() {
      var packed = new LinkedHashMap<String, byte[]>();
      newValues.forEach((digest, value) -> packed.put(digest, StoredText.packed(value.text())));
      facetStore.addBodies(packed);
      packed.forEach(current::stored);
    }

    private void writeLineages() {
      var packed = new LinkedHashMap<String, byte[]>();
      newLineages.forEach(
          (digest, lineage) -> packed.put(digest, StoredText.packed(lineage.text())));
      runStore.addLineageBodies(packed);
      newLineages.keySet().forEach(digest -> lineages.put(digest, true));
    }

    private List<FacetQueries.Reported> winnersNow() {
      var rows = new ArrayList<FacetQueries.Reported>();
      moved.forEach(
          (subject, keys) -> {
            for (String key : keys) {
              Winner winner = winners.get(subject).get(key);
              rows.add(
                  new FacetQueries.Reported(
                      subject,
                      key,
                      winner.at().getEpochSecond(),
                      winner.at().getNano(),
                      winner.digest(),
                      false));
            }
          });
      return rows;
    }
  }
}
