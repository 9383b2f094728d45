package longthread.core.sql;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * What a statement does to the rows of a table, by its first words.
 *
 * @param table its name as written, without quotes, parts joined by dots
 */
public record TableChange(String table, Effect effect) {
  /** What happens to the rows that were there. */
  public enum Effect {
    /** The table is made anew or emptied. */
    EMPTIES,
    /** Rows that fulfil a condition are removed. */
    REMOVES,
    /** Rows are added. */
    ADDS,
    /** The table is emptied and filled. */
    REPLACES,
    /** Rows are changed, or added and changed. */
    CHANGES
  }

  private static final Set<String> FILLER =
      Set.of(
          "low_priority",
          "delayed",
          "high_priority",
          "ignore",
          "only",
          "into",
          "table",
          "or",
          "replace",
          "temporary",
          "temp",
          "unlogged",
          "external",
          "transient",
          "if",
          "not",
          "exists",
          "local",
          "global");

  /**
   * Returns what the statements of a text do to tables, in their order; statements that only read
   * give nothing. Takes time linear in the text.
   */
  public static List<TableChange> of(String sql, Dialect dialect) {
    var changes = new ArrayList<TableChange>();
    for (Script.Piece piece : Script.pieces(sql, dialect)) {
      TableChange change = of(new Tokens(sql, piece.tokens()), dialect);
      if (change != null) {
        changes.add(change);
      }
    }
    return changes;
  }

  /**
   * A statement that truncates a table.
   *
   * @param span where it stands
   */
  public record Truncation(String table, Span span) {}

  /** The statements of a text that truncate tables, in their order. */
  public static List<Truncation> truncations(String sql, Dialect dialect) {
    var truncations = new ArrayList<Truncation>();
    for (Script.Piece piece : Script.pieces(sql, dialect)) {
      var tokens = new Tokens(sql, piece.tokens());
      TableChange change = tokens.word(0).equals("truncate") ? of(tokens, dialect) : null;
      if (change != null) {
        truncations.add(new Truncation(change.table(), piece.span()));
      }
    }
    return truncations;
  }

  private static @Nullable TableChange of(Tokens tokens, Dialect dialect) {
    int verb = verb(tokens);
    if (verb < 0) {
      return null;
    }
    int at = verb + 1;
    return switch (tokens.word(verb)) {
      case "insert", "upsert" -> insert(tokens, at, dialect);
      case "replace" -> named(tokens, at, dialect, Effect.CHANGES);
      case "copy" -> has(tokens, "from") ? named(tokens, at, dialect, Effect.ADDS) : null;
      case "load" -> after(tokens, "into", dialect, Effect.ADDS);
      case "update", "merge" -> named(tokens, at, dialect, Effect.CHANGES);
      case "delete" ->
          named(
              tokens,
              tokens.word(at).equals("from") ? at + 1 : at,
              dialect,
              has(tokens, "where") || has(tokens, "using") ? Effect.REMOVES : Effect.EMPTIES);
      case "truncate" -> named(tokens, at, dialect, Effect.EMPTIES);
      case "create" -> create(tokens, at, dialect);
      case "refresh" -> after(tokens, "view", dialect, Effect.REPLACES);
      case "select" -> after(tokens, "into", dialect, Effect.REPLACES);
      default -> null;
    };
  }

  /**
   * Where the word stands that says what a statement does, behind any WITH; negative if nowhere.
   */
  private static int verb(Tokens tokens) {
    if (!tokens.word(0).equals("with")) {
      return tokens.size() == 0 ? -1 : 0;
    }
    int depth = 0;
    for (int i = 1; i < tokens.size(); i++) {
      depth += tokens.nesting(i);
      boolean says =
          Set.of("insert", "update", "delete", "merge", "select").contains(tokens.word(i));
      if (depth == 0 && says) {
        return i;
      }
    }
    return -1;
  }

  private static @Nullable TableChange insert(Tokens tokens, int at, Dialect dialect) {
    if (tokens.word(at).equals("overwrite")) {
      // With partitions named, those are replaced and the others stay.
      Effect effect = has(tokens, "partition") ? Effect.CHANGES : Effect.REPLACES;
      return named(tokens, at + 1, dialect, effect);
    }
    boolean changes = follows(tokens, "do", "update") || follows(tokens, "duplicate", "key");
    return named(tokens, at, dialect, changes ? Effect.CHANGES : Effect.ADDS);
  }

  private static @Nullable TableChange create(Tokens tokens, int at, Dialect dialect) {
    int table = at;
    while (FILLER.contains(tokens.word(table)) && !tokens.word(table).equals("table")) {
      table++;
    }
    boolean keeps = follows(tokens, "if", "not") && !has(tokens, "as");
    boolean makes = tokens.word(table).equals("table") && !keeps;
    return makes ? named(tokens, table, dialect, Effect.EMPTIES) : null;
  }

  private static boolean has(Tokens tokens, String word) {
    return place(tokens, word) >= 0;
  }

  /** Where a word stands outside of parentheses; negative if nowhere. */
  private static int place(Tokens tokens, String word) {
    int depth = 0;
    for (int i = 0; i < tokens.size(); i++) {
      depth += tokens.nesting(i);
      if (depth == 0 && tokens.word(i).equals(word)) {
        return i;
      }
    }
    return -1;
  }

  private static boolean follows(Tokens tokens, String first, String second) {
    for (int i = 0; i + 1 < tokens.size(); i++) {
      if (tokens.word(i).equals(first) && tokens.word(i + 1).equals(second)) {
        return true;
      }
    }
    return false;
  }

  private static @Nullable TableChange after(
      Tokens tokens, String word, Dialect dialect, Effect effect) {
    int at = place(tokens, word);
    return at < 0 ? null : named(tokens, at + 1, dialect, effect);
  }

  private static @Nullable TableChange named(
      Tokens tokens, int start, Dialect dialect, Effect effect) {
    int at = start;
    while (FILLER.contains(tokens.word(at))) {
      at++;
    }
    var parts = new ArrayList<String>();
    for (Ident part = tokens.identifier(at, dialect); part != null; ) {
      parts.add(part.name());
      boolean goesOn = at + 2 < tokens.size() && tokens.isSymbol(at + 1, '.');
      at += 2;
      part = goesOn ? tokens.identifier(at, dialect) : null;
    }
    return parts.isEmpty() ? null : new TableChange(String.join(".", parts), effect);
  }
}
