package longthread.service.intake;

/** A dataset or a job by its id. */
record Subject(int kind, long id) {
  static final int DATASET = 1;
  static final int JOB = 2;

  static Subject dataset(long id) {
    return new Subject(DATASET, id);
  }

  static Subject job(long id) {
    return new Subject(JOB, id);
  }

  boolean isJob() {
    return kind == JOB;
  }
}
