package longthread.service.storage.rebuild;

import java.util.UUID;
import java.util.function.Consumer;
import longthread.service.storage.facts.FacetRole;
import longthread.service.storage.facts.SubjectKind;
import longthread.service.storage.runs.RunQueries;
import org.hibernate.StatelessSession;
import org.hibernate.query.SelectionQuery;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/**
 * The facts of the live catalog that came from blocks whose bytes are aged. A rebuild cannot read
 * those again, so it takes the facts over. All are handed over a thousand at a time.
 */
@Repository
@Transactional // cursors need a transaction
public class AgedFacts {
  /** A facet of the dataset or job with a reference. */
  public record Facet(
      int kind,
      String ref,
      String key,
      long atS,
      int atN,
      boolean far,
      byte[] body,
      String digest,
      long block) {
    public SubjectKind subjectKind() {
      return SubjectKind.of(kind);
    }
  }

  /** The times of a run of the job with a reference. */
  public record Run(
      UUID run,
      long jobId,
      long startS,
      int startN,
      long reportedS,
      int reportedN,
      @Nullable Long begunS,
      @Nullable Integer begunN,
      @Nullable Long runningS,
      @Nullable Integer runningN,
      @Nullable Long completedS,
      @Nullable Integer completedN,
      @Nullable Long abortedS,
      @Nullable Integer abortedN,
      @Nullable Long failedS,
      @Nullable Integer failedN,
      long block,
      String job) {
    public RunQueries.Times times() {
      return new RunQueries.StoredTimes(
              run,
              jobId,
              startS,
              startN,
              reportedS,
              reportedN,
              begunS,
              begunN,
              runningS,
              runningN,
              completedS,
              completedN,
              abortedS,
              abortedN,
              failedS,
              failedN,
              block,
              block)
          .times();
    }
  }

  /** A facet of a run; the dataset is null where it is about none. */
  public record RunFacet(
      UUID run,
      String job,
      int roleCode,
      @Nullable String dataset,
      String key,
      long atS,
      int atN,
      boolean far,
      byte[] body,
      String digest,
      long block) {
    public FacetRole role() {
      return FacetRole.of(roleCode);
    }
  }

  /** The lineage that a run reported, with the start of the run. */
  public record RunLineage(
      UUID run, String job, byte[] body, long startS, int startN, long block) {}

  /** The lineage that a dataset or job declares. */
  public record Declaration(
      int kind, String ref, byte[] body, long atS, int atN, boolean far, long block) {
    public SubjectKind ownerKind() {
      return SubjectKind.of(kind);
    }
  }

  /** A dataset or job that is more than mentioned. */
  public record Described(int kind, String ref, long block) {
    public SubjectKind subjectKind() {
      return SubjectKind.of(kind);
    }
  }

  /** A rename. */
  public record Rename(String from, String to, long atS, int atN, long block) {}

  private static final String FACETS =
      "select cast(f.subject_kind as int), coalesce(d.ref, j.ref) as ref, f.key, f.at_s, f.at_n,"
          + " f.far, b.body, encode(f.digest, 'hex'), f.block from catalog.facet f"
          + " join catalog.facet_body b using (digest)"
          + " left join catalog.dataset d on f.subject_kind = 1 and d.id = f.subject_id"
          + " left join catalog.job j on f.subject_kind = 2 and j.id = f.subject_id"
          + " where f.block in (select id from event_block where aged)";

  private static final String RUNS =
      "select r.run_id, r.job_id, r.start_s, r.start_n, r.heard_s, r.heard_n, r.begun_s, r.begun_n, r.running_s,"
          + " r.running_n, r.completed_s, r.completed_n, r.aborted_s, r.aborted_n, r.failed_s,"
          + " r.failed_n, r.block, j.ref from catalog.run r join catalog.job j on j.id = r.job_id"
          + " where r.block <= (select max(id) from event_block where aged)";

  private static final String RUN_FACETS =
      "select f.run_id, j.ref as job, cast(f.role as int), d.ref as dataset, f.key, f.at_s, f.at_n,"
          + " f.far, b.body, encode(f.digest, 'hex'), f.block from catalog.run_facet f"
          + " join catalog.facet_body b using (digest) join catalog.job j on j.id = f.job_id"
          + " left join catalog.dataset d on d.id = f.dataset_id where f.block in (select id from"
          + " event_block where aged)";

  private static final String RUN_LINEAGES =
      "select s.run_id, j.ref, b.body, r.start_s, r.start_n, s.block"
          + " from catalog.run_shape s join catalog.shape b using (digest)"
          + " join catalog.job j on j.id = s.job_id join catalog.run r on r.run_id = s.run_id"
          + " and r.job_id = s.job_id where s.block in (select id from event_block"
          + " where aged)";

  private static final String DECLARATIONS =
      "select cast(d.owner_kind as int), coalesce(s.ref, j.ref) as ref, b.body, d.at_s, d.at_n,"
          + " d.far, d.block from catalog.declared d join catalog.shape b using (digest)"
          + " left join catalog.dataset s on d.owner_kind = 1 and s.id = d.owner_id"
          + " left join catalog.job j on d.owner_kind = 2 and j.id = d.owner_id"
          + " where d.block in (select id from event_block where aged)";

  private static final String DESCRIBED =
      "select cast(s.subject_kind as int), coalesce(d.ref, j.ref) as ref, s.block"
          + " from catalog.described s"
          + " left join catalog.dataset d on s.subject_kind = 1 and d.id = s.subject_id"
          + " left join catalog.job j on s.subject_kind = 2 and j.id = s.subject_id"
          + " where s.block in (select id from event_block where aged)";

  private static final String RENAMES =
      "select f.ref as old, t.ref as new, r.at_s, r.at_n, r.block from catalog.renamed r"
          + " join catalog.dataset f on f.id = r.from_dataset"
          + " join catalog.dataset t on t.id = r.to_dataset where r.block in (select id from"
          + " event_block where aged)";

  private final StatelessSession session;

  public AgedFacts(StatelessSession session) {
    this.session = session;
  }

  public void forEachFacet(Consumer<Facet> consumer) {
    each(session.createNativeQuery(FACETS, Facet.class), consumer);
  }

  public void forEachRun(Consumer<Run> consumer) {
    each(session.createNativeQuery(RUNS, Run.class), consumer);
  }

  public void forEachRunFacet(Consumer<RunFacet> consumer) {
    each(session.createNativeQuery(RUN_FACETS, RunFacet.class), consumer);
  }

  public void forEachRunLineage(Consumer<RunLineage> consumer) {
    each(session.createNativeQuery(RUN_LINEAGES, RunLineage.class), consumer);
  }

  public void forEachDeclaration(Consumer<Declaration> consumer) {
    each(session.createNativeQuery(DECLARATIONS, Declaration.class), consumer);
  }

  public void forEachDescribed(Consumer<Described> consumer) {
    each(session.createNativeQuery(DESCRIBED, Described.class), consumer);
  }

  public void forEachRename(Consumer<Rename> consumer) {
    each(session.createNativeQuery(RENAMES, Rename.class), consumer);
  }

  private static <R> void each(SelectionQuery<R> query, Consumer<R> consumer) {
    try (var rows = query.setFetchSize(1_000).getResultStream()) {
      rows.forEach(consumer);
    }
  }
}
