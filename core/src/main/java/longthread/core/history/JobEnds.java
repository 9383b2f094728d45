package longthread.core.history;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.history.JobLineage.HeldLink;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.ReportedLineage;
import longthread.core.lineage.ResolvedLineage;
import org.jspecify.annotations.Nullable;

/**
 * Ties a job's one-sided inputs and outputs to the job itself: an export, a mail or a check reads
 * and writes nothing, an ingest writes and reads nothing, and some inputs of other jobs land in
 * none of their outputs. Inputs and outputs that are too many to be paired are tied to it too: n +
 * m links instead of n × m.
 */
final class JobEnds {
  private final @Nullable DatasetName job;
  private final boolean writes; // anything in any run
  private final Map<ResolvedLineage, List<ColumnLink>> known = new IdentityHashMap<>();
  private boolean through; // a lineage has too many inputs and outputs to be paired

  private JobEnds(@Nullable DatasetName job, boolean writes) {
    this.job = job;
    this.writes = writes;
  }

  static JobEnds of(
      @Nullable DatasetName job, Collection<JobRun> runs, JobHistory.@Nullable Declared declared) {
    boolean writes =
        runs.stream().anyMatch(run -> !run.lineage().outputs().isEmpty())
            || (declared != null && !declared.lineage().outputs().isEmpty());
    return new JobEnds(job, writes);
  }

  /** Whether a lineage has what the job is for: outputs, or inputs if no run has any output. */
  boolean isWhole(ReportedLineage lineage) {
    return !(writes ? lineage.outputs() : lineage.inputs()).isEmpty();
  }

  /** The links of a lineage, and those between the job and what no link leads on from or into. */
  List<ColumnLink> links(ResolvedLineage resolved) {
    return job == null ? resolved.links() : known.computeIfAbsent(resolved, this::withEnds);
  }

  private List<ColumnLink> withEnds(ResolvedLineage resolved) {
    Set<DatasetName> linked = new HashSet<>();
    for (ColumnLink link : resolved.links()) {
      linked.add(link.from().dataset());
      linked.add(link.to().dataset());
    }
    var links = new ArrayList<>(resolved.links());
    ReportedLineage lineage = resolved.lineage();
    boolean whole = lineage.throughJob();
    through |= whole;
    Set<DatasetName> fine = new HashSet<>();
    lineage.described().forEach(column -> fine.add(column.dataset()));
    for (DatasetName input : lineage.inputs()) {
      if (whole || !linked.contains(input)) {
        links.add(tie(input, job, Flow.COARSE));
      }
    }
    for (DatasetName output : lineage.outputs()) {
      if (whole && !lineage.detailed().contains(output)) {
        links.add(tie(job, output, fine.contains(output) ? Flow.READS : Flow.COARSE));
      } else if (!linked.contains(output)) {
        links.add(tie(job, output, Flow.COARSE));
      }
    }
    return links.size() == resolved.links().size() ? resolved.links() : links;
  }

  private static ColumnLink tie(DatasetName from, DatasetName to, Flow flow) {
    return new ColumnLink(ColumnName.rowsOf(from), ColumnName.rowsOf(to), flow, false);
  }

  /**
   * The links without those ties to the job that another link of the same dataset makes needless: a
   * run that failed before it wrote makes no consumer of a job that is none.
   */
  List<HeldLink> needed(List<HeldLink> links) {
    if (job == null || through) {
      return links;
    }
    Set<DatasetName> read = new HashSet<>();
    Set<DatasetName> written = new HashSet<>();
    for (HeldLink held : links) {
      DatasetName from = held.link().from().dataset();
      DatasetName to = held.link().to().dataset();
      if (held.until() == null && !from.equals(job) && !to.equals(job)) {
        read.add(from);
        written.add(to);
      }
    }
    return links.stream()
        .filter(
            held -> {
              DatasetName from = held.link().from().dataset();
              DatasetName to = held.link().to().dataset();
              return !(to.equals(job) && read.contains(from))
                  && !(from.equals(job) && written.contains(to));
            })
        .toList();
  }
}
