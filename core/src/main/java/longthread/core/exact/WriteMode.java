package longthread.core.exact;

/** What a write does to what was there before. */
public enum WriteMode {
  /** It takes the place of what the part held. */
  REPLACES,
  /** It adds to what is there. */
  ADDS,
  /** It changes rows in place: of what was there, anything may remain. */
  CHANGES,
  /** It was not reported: it replaced or added. */
  UNKNOWN;

  /** Whether what was there before may be gone afterwards. */
  boolean mayErase() {
    return this != ADDS;
  }

  public String word() {
    return name().toLowerCase(java.util.Locale.ROOT);
  }
}
