package longthread.core.sql;

/**
 * A value that comes from no table: a literal, a parameter, the moment of the run.
 *
 * @param text as it stands in the SQL
 */
public record Constant(String text, Span span) {}
