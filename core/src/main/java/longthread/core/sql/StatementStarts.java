package longthread.core.sql;

import java.util.List;
import java.util.Set;
import longthread.core.sql.Lexer.Token;

/**
 * Where a statement begins that no semicolon parts from the one before, as in procedures of
 * databases that ask for none: at the words that only begin statements, and at those that do so
 * unless the statement so far asks for them.
 */
final class StatementStarts {
  private static final Set<String> ALWAYS =
      Set.of(
          "declare",
          "print",
          "raiserror",
          "throw",
          "truncate",
          "commit",
          "rollback",
          "while",
          "waitfor",
          "deallocate",
          "goto");

  private static final Set<String> VERBS = Set.of("select", "insert", "update", "delete", "merge");

  /** Words behind which a query or a verb goes on with the same statement. */
  private static final Set<String> ASKS_FOR_MORE =
      Set.of(
          "union",
          "all",
          "except",
          "intersect",
          "as",
          "for",
          "then",
          "on",
          "after",
          "before",
          "of",
          "or",
          "explain",
          "distinct",
          "not",
          "exists",
          "in",
          "any",
          "some",
          "with",
          "into");

  private static final Set<String> OBJECTS =
      Set.of(
          "table",
          "view",
          "procedure",
          "proc",
          "function",
          "column",
          "index",
          "trigger",
          "database",
          "schema",
          "constraint",
          "type",
          "sequence",
          "synonym",
          "user",
          "role");

  private final String text;

  StatementStarts(String text) {
    this.text = text;
  }

  /**
   * Whether a word outside of parentheses and of CASE begins another statement.
   *
   * @param current the statement so far, which is not empty
   * @param tokens all, the word among them at {@code at}
   */
  boolean begins(List<Token> current, List<Token> tokens, int at) {
    String word = tokens.get(at).word();
    String first = current.get(0).word();
    Token last = current.get(current.size() - 1);
    String before = last.word();
    if (text.charAt(last.start()) == ',' || text.charAt(last.start()) == '.' || isGrant(first)) {
      return false;
    }
    if (isCondition(first) && VERBS.contains(word) && current.size() > 1) {
      return !isAfter(before);
    }
    if (isDefinition(current) && !hasAs(current)) {
      return false;
    }
    return switch (word) {
      case "select" -> !isAfter(before) && !awaitsQuery(current, first);
      case "insert", "delete", "merge" -> !isAfter(before) && !awaitsVerb(current, first);
      case "update" -> !isAfter(before) && !awaitsVerb(current, first);
      case "set" -> !awaitsSet(current, first, before);
      case "with" -> isWithOfQuery(tokens, at) && !isAfter(before) && !awaitsQuery(current, first);
      case "exec", "execute" -> !before.equals("as") && !awaitsQuery(current, first);
      case "if" -> !OBJECTS.contains(before);
      case "create" -> !before.equals("or");
      case "drop", "alter" -> !first.equals("alter");
      case "return" -> !isDefinition(current);
      case "begin" -> isCondition(first) || hasAs(current);
      default -> ALWAYS.contains(word) && !isAfter(before);
    };
  }

  private static boolean isAfter(String before) {
    return ASKS_FOR_MORE.contains(before);
  }

  static boolean isCondition(String first) {
    return first.equals("if") || first.equals("while");
  }

  private static boolean isGrant(String first) {
    return first.equals("grant") || first.equals("revoke") || first.equals("deny");
  }

  private static boolean isDefinition(List<Token> current) {
    boolean create =
        current.get(0).word().equals("create") || current.get(0).word().equals("alter");
    return create
        && current.stream()
            .limit(5)
            .anyMatch(t -> Set.of("procedure", "proc", "function", "trigger").contains(t.word()));
  }

  private static boolean hasAs(List<Token> current) {
    return current.stream().anyMatch(t -> t.word().equals("as"));
  }

  /** Whether what stands so far is not complete without a query: INSERT INTO t (a), WITH … */
  private boolean awaitsQuery(List<Token> current, String first) {
    return switch (first) {
      case "insert" -> !has(current, Set.of("select", "values", "exec", "execute", "default"));
      case "with" -> !has(current, VERBS) || awaitsInsertQuery(current);
      default -> false;
    };
  }

  private boolean awaitsInsertQuery(List<Token> current) {
    return has(current, Set.of("insert")) && !has(current, Set.of("select", "values"));
  }

  private boolean awaitsVerb(List<Token> current, String first) {
    return first.equals("with") && !has(current, VERBS);
  }

  private boolean awaitsSet(List<Token> current, String first, String before) {
    boolean update =
        first.equals("update") || (first.equals("with") && has(current, Set.of("update")));
    return before.equals("update")
        || first.equals("merge")
        || (update && !has(current, Set.of("set")))
        || first.equals("alter");
  }

  /** Whether any of the words stands outside of parentheses. */
  private boolean has(List<Token> current, Set<String> words) {
    int depth = 0;
    for (Token token : current) {
      if (token.sort() == Lexer.Sort.SYMBOL) {
        char symbol = text.charAt(token.start());
        depth += symbol == '(' ? 1 : symbol == ')' ? -1 : 0;
      }
      if (depth == 0 && words.contains(token.word())) {
        return true;
      }
    }
    return false;
  }

  private boolean isWithOfQuery(List<Token> tokens, int at) {
    return at + 2 < tokens.size()
        && !tokens.get(at + 1).word().isEmpty()
        && (tokens.get(at + 2).word().equals("as")
            || text.charAt(tokens.get(at + 2).start()) == '(')
        && !tokens.get(at + 1).word().equals("nolock");
  }
}
