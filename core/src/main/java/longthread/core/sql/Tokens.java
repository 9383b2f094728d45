package longthread.core.sql;

import java.util.List;
import longthread.core.sql.Lexer.Sort;
import longthread.core.sql.Lexer.Token;
import org.jspecify.annotations.Nullable;

/**
 * Tokens by their place, with the text they stand in. Beyond both ends there is nothing: no word,
 * no symbol, so that looking ahead and back needs no bounds.
 */
record Tokens(String text, List<Token> list) {
  int size() {
    return list.size();
  }

  Token at(int i) {
    return list.get(i);
  }

  private boolean has(int i) {
    return i >= 0 && i < list.size();
  }

  /** The word at a place, in lower case; empty for anything else. */
  String word(int i) {
    return has(i) ? list.get(i).word() : "";
  }

  boolean isSymbol(int i, char symbol) {
    return has(i)
        && list.get(i).sort() == Sort.SYMBOL
        && text.charAt(list.get(i).start()) == symbol;
  }

  /** The text of the token at a place. */
  String textOf(int i) {
    return text.substring(list.get(i).start(), list.get(i).end());
  }

  /** The word or quoted name at a place, as an identifier; null for anything else. */
  @Nullable Ident identifier(int i, Dialect dialect) {
    boolean name = has(i) && (at(i).sort() == Sort.NAME || at(i).sort() == Sort.WORD);
    return name ? Ident.of(textOf(i), dialect) : null;
  }

  /** How a symbol changes the depth of nesting: 1 where it opens, -1 where it closes, else 0. */
  int nesting(int i) {
    if (isSymbol(i, '(') || isSymbol(i, '[')) {
      return 1;
    }
    return isSymbol(i, ')') || isSymbol(i, ']') ? -1 : 0;
  }

  /** Where what opens at a place closes; the last place if it never does. */
  int closing(int open) {
    int depth = 0;
    for (int i = open; i < list.size(); i++) {
      depth += nesting(i);
      if (depth == 0) {
        return i;
      }
    }
    return list.size() - 1;
  }
}
