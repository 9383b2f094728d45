package longthread.service.apply;

import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.function.Function;
import longthread.core.asset.DatasetName;
import longthread.core.history.JobRun;
import longthread.core.lineage.ResolvedLineage;
import longthread.service.storage.facts.Subject;

/**
 * The jobs of a batch that only read and report their queries: the columns that these use end at
 * the job itself.
 */
final class QueryOnlyJobs {
  /** A job with its runs, and what each of them reads when it ends at the job. */
  private record Job(
      Subject owner,
      List<JobRun> runs,
      Map<String, RunSql.Text> texts,
      Map<JobRun, ResolvedLineage> atJob) {}

  private final RunSql sql;
  private final List<Job> jobs = new ArrayList<>();
  private final Map<RunSql.Text, Set<ResolvedLineage>> asked = new HashMap<>();

  QueryOnlyJobs(RunSql sql) {
    this.sql = sql;
  }

  /**
   * Adds a job.
   *
   * @param end the job as the end of links
   * @param runs its runs, which {@link #resolve} replaces by those with what their queries say
   * @param texts the texts of its runs, by fingerprint
   * @param reported what the events of a run report
   */
  void add(
      Subject owner,
      DatasetName end,
      List<JobRun> runs,
      Map<String, RunSql.Text> texts,
      Function<UUID, ResolvedLineage> reported) {
    var ending = new IdentityHashMap<ResolvedLineage, ResolvedLineage>();
    var atJob = new IdentityHashMap<JobRun, ResolvedLineage>();
    for (JobRun run : runs) {
      RunSql.Text text = texts.get(run.fingerprint());
      if (text != null) {
        ResolvedLineage lineage =
            ending.computeIfAbsent(
                reported.apply(run.run()), r -> ResolvedLineage.of(r.lineage().writing(end)));
        atJob.put(run, lineage);
        asked
            .computeIfAbsent(text, k -> Collections.newSetFromMap(new IdentityHashMap<>()))
            .add(lineage);
      }
    }
    jobs.add(new Job(owner, runs, texts, atJob));
  }

  /** Reads all the queries, with the schemas that matter for them read at once. */
  void resolve() {
    if (jobs.isEmpty()) {
      return;
    }
    sql.prepare(asked);
    for (Job job : jobs) {
      job.runs()
          .replaceAll(
              run -> {
                ResolvedLineage atJob = job.atJob().get(run);
                return atJob == null
                    ? run
                    : run.with(
                        sql.resolve(
                            job.owner(), job.texts().get(run.fingerprint()), run.start(), atJob));
              });
    }
  }
}
