package longthread.core.sql;

import java.util.Locale;
import java.util.Optional;

/** How a family of databases spells names and strings. */
public enum Dialect {
  /** The ISO standard: double quotes around names, unquoted names in any case. */
  ANSI,
  /** PostgreSQL: unquoted names are lower case, quoted ones are exact. */
  POSTGRES,
  /** Names in backticks, backslash escapes in strings, names in any case. */
  BACKTICK,
  /** Names in square brackets, names in any case. */
  BRACKET;

  /** The dialect's word in the interface. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** The dialect that a word or a common name of a database family means; empty if none. */
  public static Optional<Dialect> of(String word) {
    String plain = word.strip().toLowerCase(Locale.ROOT);
    return switch (plain) {
      case "" -> Optional.empty();
      case "ansi", "iso", "sql", "standard" -> Optional.of(ANSI);
      case "postgres", "postgresql", "psql", "greenplum" -> Optional.of(POSTGRES);
      case "backtick", "mysql", "mariadb", "spark", "sparksql", "hive", "bigquery" ->
          Optional.of(BACKTICK);
      case "bracket", "mssql", "tsql", "t-sql", "sqlserver" -> Optional.of(BRACKET);
      default -> Optional.empty();
    };
  }

  boolean backslashEscapes() {
    return this == BACKTICK;
  }

  /** Whether a name in quotes matches only its exact spelling. */
  boolean quotedIsExact() {
    return this == POSTGRES || this == ANSI;
  }

  /** An unquoted name as it is shown. */
  String folded(String name) {
    return this == POSTGRES || this == ANSI ? name.toLowerCase(Locale.ROOT) : name;
  }
}
