package longthread.core.statement;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.event.Emitter;
import longthread.core.event.EventFacts;
import longthread.core.event.EventTime;
import longthread.core.event.FacetFact;
import longthread.core.event.HandFacet;
import longthread.core.json.CanonicalJson;
import longthread.core.lineage.EncodedLineage;
import tools.jackson.databind.JsonNode;

/**
 * What one person stated at one moment.
 *
 * @param id of the statement, by which it is found and undone
 * @param reason why, in the person's words; empty if none was given
 */
public record Statement(String id, Instant at, String by, String reason, List<Change> changes) {
  /**
   * One value that is set or taken away.
   *
   * @param subject the dataset, job or register name that it is about
   * @param key of the facet that holds it
   * @param value what it is from now on; null in JSON where it is taken away
   * @param datasets the datasets that it names, the subject among them
   */
  public record Change(
      FacetFact.Subject subject, String key, JsonNode value, List<DatasetName> datasets) {
    public Change {
      datasets = List.copyOf(datasets);
    }

    /** The reference of what it is about. */
    public String of() {
      return subject instanceof FacetFact.OfJob job
          ? job.job().reference()
          : ((FacetFact.OfDataset) subject).dataset().reference();
    }
  }

  public Statement {
    changes = List.copyOf(changes);
  }

  /** The same as facts of the catalog. */
  public EventFacts facts(Instant receivedAt) {
    EventTime time = EventTime.of(at, receivedAt);
    var datasets = new TreeSet<DatasetName>();
    var jobs = new TreeSet<JobName>();
    var facets = new ArrayList<FacetFact>();
    for (Change change : changes) {
      datasets.addAll(change.datasets());
      if (change.subject() instanceof FacetFact.OfJob of) {
        jobs.add(of.job());
      }
      JsonNode facet = HandFacet.facet(change.value(), by, reason, id);
      String digest = CanonicalJson.digest(CanonicalJson.text(facet));
      facets.add(new FacetFact(change.subject(), change.key(), time, digest, facet));
    }
    return new EventFacts(
        time,
        new Emitter("by hand", null, null),
        null,
        null,
        Optional.empty(),
        EncodedLineage.NOTHING,
        new TreeMap<>(),
        facets,
        List.of(),
        datasets,
        jobs,
        List.of(),
        null,
        by);
  }
}
