package longthread.core.sql;

import org.jspecify.annotations.Nullable;

/**
 * A column as a catalog knows it.
 *
 * @param name nested fields with dots
 * @param type as the database spells it; null if unknown
 */
public record KnownColumn(String name, @Nullable String type) {}
