package longthread.core.search;

/** Where a word stands in a thing that is found by words: the better places count more. */
public enum Place {
  NAME(90, 100),
  TITLE(85, 100),
  COLUMN(70, 80),
  COLUMN_TEXT(60, 60),
  OWNER(60, 60),
  LABEL(60, 60),
  ADDRESS(55, 55),
  TEXT(50, 50);

  private final int part;
  private final int whole;

  Place(int part, int whole) {
    this.part = part;
    this.whole = whole;
  }

  /** What a word counts there, from 0 to 100, if it is only a part of what stands there. */
  public int part() {
    return part;
  }

  /** What a word counts there if it is all that stands there. */
  public int whole() {
    return whole;
  }
}
