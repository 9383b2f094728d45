package longthread.core.sql;

/**
 * Something in the text that was not understood, or not for certain.
 *
 * @param what a sentence for the reader
 * @param span where
 */
public record SqlProblem(String what, Span span) {}
