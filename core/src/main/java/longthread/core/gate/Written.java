package longthread.core.gate;

import java.util.Locale;
import longthread.core.sql.SqlStatement;

/** A statement that writes a table. */
record Written(String file, String text, SqlStatement statement) {
  String key() {
    return key(targetName());
  }

  int line() {
    return lineAt(text, statement.span().start());
  }

  String own() {
    return statement.span().of(text);
  }

  boolean creates() {
    return statement.kind().startsWith("create");
  }

  String targetName() {
    return String.valueOf(statement.target());
  }

  /** A name as others are compared with it. */
  static String key(String name) {
    return name.toLowerCase(Locale.ROOT);
  }

  /** The line that a place of a text is in, from 1. */
  static int lineAt(String text, int place) {
    int end = Math.min(place, text.length());
    return 1 + (int) text.substring(0, end).chars().filter(c -> c == '\n').count();
  }
}
