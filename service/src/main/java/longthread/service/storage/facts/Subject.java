package longthread.service.storage.facts;

/** A dataset or a job by its internal id. */
public record Subject(SubjectKind kind, long id) {
  public static Subject dataset(long id) {
    return new Subject(SubjectKind.DATASET, id);
  }

  public static Subject job(long id) {
    return new Subject(SubjectKind.JOB, id);
  }

  public boolean isJob() {
    return kind == SubjectKind.JOB;
  }

  /** The number that the tables hold for its kind. */
  public short kindCode() {
    return kind.code();
  }
}
