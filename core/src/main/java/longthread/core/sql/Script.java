package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import longthread.core.sql.Lexer.Sort;
import longthread.core.sql.Lexer.Token;

/**
 * A text of several statements, cut apart. Bodies of procedures are cut into their statements too,
 * and the words that steer a procedure (IF … THEN, LOOP, BEGIN, END) are left out.
 */
final class Script {
  /**
   * A statement.
   *
   * @param tokens without comments
   * @param routine whether it stands in the body of a procedure
   */
  record Piece(Span span, List<Token> tokens, boolean routine) {}

  private static final Set<String> ENDS_CONDITION = Set.of("then", "loop", "do");
  private static final Set<String> ROUTINES = Set.of("procedure", "function", "trigger", "package");
  private static final Set<String> AFTER_BEGIN = Set.of("try", "catch", "atomic");

  private static final Set<String> AFTER_TRANSACTION =
      Set.of("transaction", "work", "tran", "isolation", "read", "deferrable", "immediate");

  /** How deep bodies may stand in bodies; what lies deeper stays a part of its statement. */
  private static final int MAX_BODIES = 50;

  private final String text;
  private final Dialect dialect;
  private final List<Piece> pieces = new ArrayList<>();
  private final StatementStarts starts;
  private int bodies; // around what is being cut

  private Script(String text, Dialect dialect) {
    this.text = text;
    this.dialect = dialect;
    this.starts = new StatementStarts(text);
  }

  /** The statements of a text in order, in time linear in its length. */
  static List<Piece> pieces(String text, Dialect dialect) {
    var script = new Script(text, dialect);
    script.cut(0, text.length(), false);
    return script.pieces;
  }

  private void cut(int start, int end, boolean routine) {
    var current = new Statement();
    int depth = 0;
    boolean routineHead = false;
    boolean inRoutine = routine;
    int cases = 0; // CASE without its END
    List<Token> tokens = Lexer.tokens(text, start, end, dialect);
    for (int i = 0; i < tokens.size(); i++) {
      Token token = tokens.get(i);
      if (token.sort() == Sort.COMMENT) {
        continue;
      }
      String word = token.word();
      if (token.sort() == Sort.SYMBOL) {
        char symbol = text.charAt(token.start());
        depth = symbol == '(' ? depth + 1 : symbol == ')' ? Math.max(0, depth - 1) : depth;
        boolean slash = symbol == '/' && isAlone(token);
        if (symbol == ';' || slash) {
          emit(current, inRoutine);
          current = new Statement();
          depth = 0;
          cases = 0;
          routineHead = false;
          continue;
        }
      }
      if (word.equals("go") && isAlone(token)) {
        emit(current, inRoutine);
        current = new Statement();
        routineHead = false;
        inRoutine = routine;
        continue;
      }
      routineHead |= ROUTINES.contains(word) && isCreate(current);
      boolean loose = dialect == Dialect.BRACKET && depth == 0;
      cases += word.equals("case") ? 1 : word.equals("end") && cases > 0 ? -1 : 0;
      boolean closesCase = word.equals("end") && current.isCase();
      if (loose && cases == 0 && !current.isEmpty() && !closesCase && parts(current, tokens, i)) {
        emit(current, inRoutine);
        current = new Statement();
      }
      if (depth == 0
          && word.equals("begin")
          && (current.isEmpty() || routineHead || isSteering(current))) {
        if (!opensTransaction(tokens, i)) {
          current = new Statement();
          inRoutine = inRoutine || routineHead;
          routineHead = false;
          boolean atomic = i + 1 < tokens.size() && AFTER_BEGIN.contains(tokens.get(i + 1).word());
          i += atomic ? 1 : 0;
          continue;
        }
      }
      if (depth == 0 && ENDS_CONDITION.contains(word) && isSteering(current)) {
        if (current.get(0).word().equals("for") && word.equals("loop")) {
          emit(current, inRoutine); // the rows that the loop goes through
        }
        current = new Statement();
        continue;
      }
      if (current.isEmpty()
          && (word.equals("else") || word.equals("loop") || word.equals("repeat"))) {
        continue;
      }
      if (loose && word.equals("end") && !closesCase) {
        // BEGIN and END only hold statements together.
        emit(current, inRoutine);
        current = new Statement();
        boolean named = i + 1 < tokens.size() && AFTER_BEGIN.contains(tokens.get(i + 1).word());
        i += named ? 1 : 0;
        continue;
      }
      current.add(token);
    }
    emit(current, inRoutine);
  }

  /** The tokens of a statement so far, and how many of its CASE expressions are open. */
  private static final class Statement extends ArrayList<Token> {
    private static final long serialVersionUID = 1;
    private int cases;

    @Override
    public boolean add(Token token) {
      cases += token.word().equals("case") ? 1 : token.word().equals("end") ? -1 : 0;
      return super.add(token);
    }

    /** Whether an END would close a CASE. */
    boolean isCase() {
      return cases > 0;
    }
  }

  private boolean parts(List<Token> current, List<Token> tokens, int at) {
    String word = tokens.get(at).word();
    return !word.isEmpty()
        && (starts.begins(current, tokens, at)
            || (word.equals("else") && !current.get(0).word().equals("if")));
  }

  private boolean opensTransaction(List<Token> tokens, int begin) {
    for (int i = begin + 1; i < tokens.size(); i++) {
      Token next = tokens.get(i);
      if (next.sort() == Sort.COMMENT) {
        continue;
      }
      boolean semicolon = next.sort() == Sort.SYMBOL && text.charAt(next.start()) == ';';
      return semicolon || AFTER_TRANSACTION.contains(next.word());
    }
    return true;
  }

  private boolean isCreate(List<Token> current) {
    return !current.isEmpty() && (is(current.get(0), "create") || is(current.get(0), "alter"));
  }

  /** Whether a statement so far is the condition of an IF, a loop or a handler. */
  private boolean isSteering(List<Token> current) {
    if (current.isEmpty()) {
      return false;
    }
    return switch (current.get(0).word()) {
      case "if", "elsif", "elseif", "while", "for", "foreach", "exception", "when" -> true;
      default -> false;
    };
  }

  private boolean isAlone(Token token) {
    return blankUntil(token.start() - 1, -1) && blankUntil(token.end(), 1);
  }

  private boolean blankUntil(int from, int step) {
    for (int i = from; i >= 0 && i < text.length(); i += step) {
      char c = text.charAt(i);
      if (c == '\n') {
        return true;
      }
      if (!Character.isWhitespace(c)) {
        return false;
      }
    }
    return true;
  }

  private void emit(List<Token> tokens, boolean routine) {
    boolean bare =
        !tokens.isEmpty()
            && (is(tokens.get(0), "end")
                || (dialect == Dialect.BRACKET
                    && StatementStarts.isCondition(tokens.get(0).word())));
    if (tokens.isEmpty() || bare) {
      return;
    }
    boolean holder = is(tokens.get(0), "do") || isCreate(tokens);
    for (Token token : holder && bodies < MAX_BODIES ? tokens : List.<Token>of()) {
      if (token.sort() == Sort.BODY) {
        int tag = text.indexOf('$', token.start() + 1) + 1 - token.start();
        bodies++;
        cut(token.start() + tag, Math.max(token.start() + tag, token.end() - tag), true);
        bodies--;
        return;
      }
    }
    int start = tokens.get(0).start();
    pieces.add(
        new Piece(
            new Span(start, tokens.get(tokens.size() - 1).end()), List.copyOf(tokens), routine));
  }

  private static boolean is(Token token, String word) {
    return token.word().equals(word);
  }

  /**
   * The tables, in lower case, that a script makes and later drops without making them again: they
   * are steps on the way and hold nothing afterwards.
   */
  static Set<String> temporaryTables(String text, List<Piece> pieces) {
    var made = new HashSet<String>();
    var temporary = new HashSet<String>();
    for (Piece piece : pieces) {
      List<Token> tokens = piece.tokens();
      String first = tokens.get(0).word();
      if (first.equals("create") || first.equals("drop")) {
        int at = 1;
        while (at < tokens.size()
            && Set.of(
                    "or",
                    "replace",
                    "table",
                    "view",
                    "if",
                    "not",
                    "exists",
                    "temporary",
                    "temp",
                    "unlogged",
                    "materialized",
                    "local",
                    "global",
                    "transient",
                    "external")
                .contains(tokens.get(at).word())) {
          at++;
        }
        boolean table =
            tokens.subList(1, Math.min(at, tokens.size())).stream()
                .anyMatch(t -> Set.of("table", "view").contains(t.word()));
        String name = table ? name(text, tokens, at) : "";
        if (first.equals("create") && !name.isEmpty()) {
          made.add(name);
          temporary.remove(name);
        } else if (made.remove(name)) {
          temporary.add(name);
        }
      }
    }
    return temporary;
  }

  private static String name(String text, List<Token> tokens, int from) {
    var name = new StringBuilder();
    for (int i = from; i < tokens.size(); i++) {
      Token token = tokens.get(i);
      boolean dot = token.sort() == Sort.SYMBOL && text.charAt(token.start()) == '.';
      boolean part = token.sort() == Sort.WORD || token.sort() == Sort.NAME;
      boolean expected = name.isEmpty() || name.charAt(name.length() - 1) == '.' ? part : dot;
      if (!expected) {
        break;
      }
      String piece = text.substring(token.start(), token.end());
      name.append(
          token.sort() == Sort.NAME && piece.length() > 1
              ? piece.substring(1, piece.length() - 1)
              : piece);
    }
    return name.toString().toLowerCase(Locale.ROOT);
  }
}
