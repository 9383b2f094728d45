package longthread.core.sql;

/**
 * A stretch of the text.
 *
 * @param start the first UTF-16 unit, from 0
 * @param end the unit after the last
 */
public record Span(int start, int end) implements Comparable<Span> {
  public Span {
    if (start < 0 || end < start) {
      throw new IllegalArgumentException("a span from " + start + " to " + end);
    }
  }

  Span moved(int by) {
    return new Span(start + by, end + by);
  }

  Span or(Span other) {
    return new Span(Math.min(start, other.start), Math.max(end, other.end));
  }

  /** The characters of {@code text} that this span covers. */
  public String of(String text) {
    return text.substring(Math.min(start, text.length()), Math.min(end, text.length()));
  }

  @Override
  public int compareTo(Span other) {
    int byStart = Integer.compare(start, other.start);
    return byStart != 0 ? byStart : Integer.compare(end, other.end);
  }
}
