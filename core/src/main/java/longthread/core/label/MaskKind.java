package longthread.core.label;

import java.util.Locale;

/** What is shown of a value that a caller may not see whole, from all of it to nothing. */
public enum MaskKind {
  /** As it is. */
  SHOWN,
  /** Numbers and times in coarse steps, texts by their first letter. */
  GENERALISED,
  /** The last letters, the others replaced. */
  PARTIAL,
  /** A word that is the same for equal values, and from which the value cannot be found. */
  HASHED,
  /** Nothing but that there is a value. */
  HIDDEN;

  /** The word in the interface. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** The stricter of two. */
  public MaskKind and(MaskKind other) {
    return compareTo(other) >= 0 ? this : other;
  }
}
