package longthread.core.impact;

/** What a change does to an asset, the most urgent first. */
public enum Verdict {
  BREAKS("breaks"),
  GOES_STALE("goes-stale"),
  VALUES_SHIFT("values-shift"),
  ROWS_SHIFT("rows-shift"),
  UNTOUCHED("untouched");

  private final String word;

  Verdict(String word) {
    this.word = word;
  }

  public String word() {
    return word;
  }
}
