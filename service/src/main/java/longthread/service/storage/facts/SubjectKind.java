package longthread.service.storage.facts;

/** What a fact is about. */
public enum SubjectKind {
  DATASET(1),
  JOB(2);

  private final short code;

  SubjectKind(int code) {
    this.code = (short) code;
  }

  /** The number that the tables hold. */
  public short code() {
    return code;
  }

  /** The kind that the tables hold as this number. */
  public static SubjectKind of(int code) {
    return code == DATASET.code ? DATASET : JOB;
  }
}
