package longthread.core.sql;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import longthread.core.sql.Lexer.Sort;
import org.jspecify.annotations.Nullable;

/**
 * Statements that fill variables, written as the query that yields their values: {@code SET @m =
 * e}, {@code DECLARE @m int = e}, {@code SELECT @m = e FROM t}, {@code v := e}, and the query of a
 * FOR loop.
 */
final class VariableForms {
  private static final int MAX_TYPE_TOKENS = 12;

  private final Tokens tokens;
  private final List<String> names = new ArrayList<>();
  private int from; // the first token of the value; those before are left out
  private boolean record;

  private VariableForms(Tokens tokens) {
    this.tokens = tokens;
  }

  /** The form that a statement has; null if it fills no variable. */
  static @Nullable VariableForms of(Tokens tokens) {
    var forms = new VariableForms(tokens);
    return forms.loop() || forms.set() || forms.assigned() || forms.selected() ? forms : null;
  }

  /** The variables, in the order of the query's columns, in lower case. */
  List<String> names() {
    return names;
  }

  /** Whether the one variable stands for a whole row of the query. */
  boolean isRecord() {
    return record;
  }

  /** Writes the statement as a query. */
  void rewrite(ParserInput input) {
    if (from > 0) {
      input.blank(0, from - 1);
      boolean query = tokens.word(from).equals("select") || tokens.word(from).equals("with");
      if (!query) {
        input.replace(0, "select");
      }
      return;
    }
    int depth = 0;
    for (int i = 1; i + 1 < tokens.size() && !tokens.word(i).equals("from"); i++) {
      depth += tokens.nesting(i);
      if (depth == 0 && isVariable(i) && tokens.isSymbol(i + 1, '=') && startsItem(i)) {
        input.blank(i, i + 1);
      }
    }
  }

  private boolean loop() {
    boolean query = tokens.word(3).equals("select") || tokens.word(3).equals("with");
    if (!tokens.word(0).equals("for") || !tokens.word(2).equals("in") || !query) {
      return false;
    }
    names.add(tokens.word(1));
    record = true;
    from = 3;
    return true;
  }

  private boolean set() {
    boolean set = tokens.word(0).equals("set") || tokens.word(0).equals("declare");
    if (!set || !isVariable(1)) {
      return false;
    }
    for (int i = 2; i < Math.min(tokens.size() - 1, MAX_TYPE_TOKENS); i++) {
      if (tokens.isSymbol(i, '=')) {
        names.add(tokens.word(1));
        from = i + 1;
        return true;
      }
    }
    return false;
  }

  /** {@code v := e}, also with a type between, as where it is declared. */
  private boolean assigned() {
    int first = tokens.word(0).equals("declare") ? 1 : 0;
    if (first >= tokens.size() || tokens.at(first).sort() != Sort.WORD) {
      return false;
    }
    for (int i = first + 1; i + 2 < Math.min(tokens.size(), first + MAX_TYPE_TOKENS); i++) {
      boolean here =
          tokens.isSymbol(i, ':')
              && tokens.isSymbol(i + 1, '=')
              && tokens.at(i).end() == tokens.at(i + 1).start();
      if (here) {
        names.add(tokens.word(first));
        from = i + 2;
        return true;
      }
    }
    return false;
  }

  private boolean selected() {
    if (!tokens.word(0).equals("select")) {
      return false;
    }
    int depth = 0;
    for (int i = 1; i + 1 < tokens.size() && !(depth == 0 && tokens.word(i).equals("from")); i++) {
      depth += tokens.nesting(i);
      if (depth == 0 && isVariable(i) && tokens.isSymbol(i + 1, '=') && startsItem(i)) {
        names.add(tokens.word(i));
      }
    }
    return !names.isEmpty();
  }

  private boolean startsItem(int i) {
    return tokens.isSymbol(i - 1, ',')
        || tokens.word(i - 1).equals("select")
        || tokens.isSymbol(i - 1, ')');
  }

  private boolean isVariable(int i) {
    String word = tokens.word(i).toLowerCase(Locale.ROOT);
    return word.startsWith("@") && !word.startsWith("@@") && word.length() > 1;
  }
}
