package longthread.core.exact;

import java.util.Locale;

/** Why it is not certain that a run's data is there. */
public enum Doubt {
  /** It wrote while the reader read: the reader saw what was there before, or after, or both. */
  WRITTEN_WHILE_READ("it wrote while this was read"),
  /** Another run wrote the same part at the same time, and either may have come last. */
  WRITTEN_TOGETHER("another run wrote the same part at the same time"),
  /** It failed or was aborted, and may have written a part before. */
  FAILED("it did not complete, and may have written a part before it ended"),
  /** It was still running. */
  RUNNING("it was still running"),
  /** A later run did not report whether it replaced or added. */
  MAYBE_REPLACED("a later run did not report whether it replaced the data or added to it"),
  /** A later run wrote the same part while the reader read. */
  REPLACED_WHILE_READ("a later run replaced it while this was read"),
  /** A later run changed rows in place, so that what is left of this one is not known. */
  CHANGED_LATER("a later run changed rows in place"),
  /** A later run that did not complete may have removed it. */
  FAILED_LATER("a later run that did not complete may have replaced it"),
  /** It did not report into which part it wrote, and only a part was read. */
  PART_NOT_REPORTED("it did not report which part it wrote"),
  /** The condition of the reader, or of a later run, is of a form that is not understood. */
  CONDITION_NOT_UNDERSTOOD("a condition on the part is not understood");

  private final String words;

  Doubt(String words) {
    this.words = words;
  }

  /** The doubt in words, to follow the name of the run. */
  public String words() {
    return words;
  }

  public String word() {
    return name().toLowerCase(Locale.ROOT).replace('_', '-');
  }
}
