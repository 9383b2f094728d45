package longthread.core.impact;

/** How sure a verdict is. */
public enum Certainty {
  /** All lineage on the way is known to the column, and nothing is masked. */
  CERTAIN("certain"),
  /** Some of the lineage on the way is coarse, incomplete or masked. */
  POSSIBLE("possible");

  private final String word;

  Certainty(String word) {
    this.word = word;
  }

  public String word() {
    return word;
  }

  static Certainty of(boolean certain) {
    return certain ? CERTAIN : POSSIBLE;
  }
}
