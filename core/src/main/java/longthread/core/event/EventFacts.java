package longthread.core.event;

import java.util.List;
import java.util.Optional;
import java.util.SortedMap;
import java.util.SortedSet;
import java.util.TreeSet;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.lineage.EncodedLineage;
import longthread.core.lineage.ReportedLineage;
import org.jspecify.annotations.Nullable;

/**
 * All that one event says.
 *
 * @param job the job of a run or job event; null for a dataset event
 * @param dataset the dataset of a dataset event; null otherwise
 * @param run what it says about the run; empty unless it is a run event
 * @param reported the lineage it states of its job
 * @param declared the lineage that datasets report of themselves, without a job
 * @param renames which datasets it says to have had another name before
 * @param datasets every dataset it mentions
 * @param jobs every job it mentions, parents among them
 * @param warnings what its emitter should know
 * @param workspace the workspace whose content it describes as a whole; null for all others
 * @param by the person whose statement it is; null for what programs report
 */
public record EventFacts(
    EventTime at,
    Emitter emitter,
    @Nullable JobName job,
    @Nullable DatasetName dataset,
    Optional<RunFact> run,
    EncodedLineage reported,
    SortedMap<DatasetName, EncodedLineage> declared,
    List<FacetFact> facets,
    List<Rename> renames,
    SortedSet<DatasetName> datasets,
    SortedSet<JobName> jobs,
    List<EventWarning> warnings,
    @Nullable DatasetName workspace,
    @Nullable String by) {
  /** The lineage it states of its job. */
  public ReportedLineage lineage() {
    return reported.lineage();
  }

  /** The same facts as those of a workspace as a whole, which is no asset. */
  public EventFacts ofWorkspace(DatasetName described) {
    return new EventFacts(
        at,
        emitter,
        null,
        null,
        run,
        reported,
        declared,
        facets,
        renames,
        new TreeSet<>(),
        jobs,
        warnings,
        described,
        by);
  }

  /** What sort of event it is, in one word: the type of a run event, else JOB or DATASET. */
  public String type() {
    if (by != null) {
      return "STATEMENT";
    }
    return run.map(fact -> fact.type() == null ? "RUN" : fact.type())
        .orElse(workspace != null ? "WORKSPACE" : job != null ? "JOB" : "DATASET");
  }
}
