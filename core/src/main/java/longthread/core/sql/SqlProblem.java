package longthread.core.sql;

/**
 * Something in the text that was not understood, or not for certain.
 *
 * @param what a sentence for the reader
 * @param span where
 * @param retryable whether another try may do better: the time ran out
 */
public record SqlProblem(String what, Span span, boolean retryable) {
  SqlProblem(String what, Span span) {
    this(what, span, false);
  }
}
