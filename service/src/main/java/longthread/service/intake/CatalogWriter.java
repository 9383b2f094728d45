package longthread.service.intake;

import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.event.EventFacts;
import longthread.service.intake.FactStore.RunKey;
import org.springframework.stereotype.Component;

/**
 * Computes the catalog anew for the jobs and datasets that some events touched, from all their
 * facts. What it writes depends on the facts alone, so it may be run again at any time.
 */
@Component
class CatalogWriter {
  private final FactStore facts;
  private final RunWriter runs;
  private final LinkWriter links;
  private final CardWriter cards;

  CatalogWriter(FactStore facts, RunWriter runs, LinkWriter links, CardWriter cards) {
    this.facts = facts;
    this.runs = runs;
    this.links = links;
    this.cards = cards;
  }

  /** Brings the catalog up to date; returns the references whose cards or links were written. */
  Set<String> refresh(List<EventFacts> events) {
    var runKeys = new HashSet<RunKey>();
    var jobs = new TreeSet<JobName>();
    var lineageJobs = new TreeSet<JobName>();
    var datasets = new TreeSet<DatasetName>();
    var declaring = new TreeSet<DatasetName>();
    for (EventFacts event : events) {
      event.run().ifPresent(run -> runKeys.add(new RunKey(run.run(), facts.id(run.job()))));
      jobs.addAll(event.jobs());
      datasets.addAll(event.datasets());
      if (event.job() != null) {
        lineageJobs.add(event.job());
      } else if (event.dataset() != null && !event.shape().isEmpty()) {
        declaring.add(event.dataset());
      }
    }
    runs.write(runKeys);
    lineageJobs.forEach(links::writeJob);
    declaring.forEach(links::writeDataset);
    cards.write(datasets, jobs);
    var changed = new TreeSet<String>();
    datasets.forEach(dataset -> changed.add(dataset.reference()));
    jobs.forEach(job -> changed.add(job.reference()));
    return changed;
  }
}
