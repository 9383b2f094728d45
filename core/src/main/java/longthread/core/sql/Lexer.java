package longthread.core.sql;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;

/**
 * Cuts SQL text into words, names, strings and comments: just enough to find statements and to
 * leave what is quoted alone. Linear in the length of the text.
 */
final class Lexer {
  enum Sort {
    WORD,
    NAME,
    STRING,
    /** A string between dollar signs, as PostgreSQL writes the bodies of functions. */
    BODY,
    NUMBER,
    SYMBOL,
    COMMENT,
    /** What a templating language left in the text. */
    TEMPLATE
  }

  /**
   * A token.
   *
   * @param word a word in lower case; empty for anything else
   */
  record Token(Sort sort, int start, int end, String word) {}

  private final String text;
  private final Dialect dialect;
  private final int end;
  private int at;

  private Lexer(String text, int start, int end, Dialect dialect) {
    this.text = text;
    this.at = start;
    this.end = end;
    this.dialect = dialect;
  }

  /** The tokens of {@code text} from {@code start} to {@code end}, white space left out. */
  static List<Token> tokens(String text, int start, int end, Dialect dialect) {
    var lexer = new Lexer(text, start, end, dialect);
    var tokens = new ArrayList<Token>();
    while (lexer.at < end) {
      if (Character.isWhitespace(text.charAt(lexer.at))) {
        lexer.at++;
      } else {
        int from = lexer.at;
        Sort sort = lexer.next();
        String word =
            sort == Sort.WORD ? text.substring(from, lexer.at).toLowerCase(Locale.ROOT) : "";
        tokens.add(new Token(sort, from, lexer.at, word));
      }
    }
    return tokens;
  }

  private Sort next() {
    char c = text.charAt(at);
    char after = at + 1 < end ? text.charAt(at + 1) : ' ';
    if (c == '-' && after == '-') {
      return line(Sort.COMMENT);
    }
    if (c == '#' && dialect == Dialect.BACKTICK && after != '>' && after != '-') {
      return line(Sort.COMMENT);
    }
    if (c == '/' && after == '*') {
      return blockComment();
    }
    if (c == '{' && (after == '{' || after == '%' || after == '#')) {
      return until(after == '{' ? "}}" : after == '%' ? "%}" : "#}", Sort.TEMPLATE);
    }
    if (c == '$' && after == '{') {
      return until("}", Sort.TEMPLATE);
    }
    if (c == '\'') {
      return quoted('\'', dialect.backslashEscapes(), Sort.STRING);
    }
    if ((c == 'E' || c == 'e') && after == '\'') {
      at++;
      return quoted('\'', true, Sort.STRING);
    }
    if (c == '"') {
      return quoted('"', false, dialect == Dialect.BACKTICK ? Sort.STRING : Sort.NAME);
    }
    if (c == '`') {
      return quoted('`', false, Sort.NAME);
    }
    if (c == '[' && dialect == Dialect.BRACKET) {
      return quoted(']', false, Sort.NAME);
    }
    if (c == '$' && dollarTag() > 0) {
      return body(dollarTag());
    }
    if (isWordStart(c)) {
      return word();
    }
    if (Character.isDigit(c)) {
      return number();
    }
    at++;
    return Sort.SYMBOL;
  }

  private static boolean isWordStart(char c) {
    return Character.isLetter(c) || c == '_' || c == '@' || c == '#';
  }

  private Sort word() {
    while (at < end) {
      char c = text.charAt(at);
      if (!Character.isLetterOrDigit(c) && c != '_' && c != '$' && c != '@' && c != '#') {
        break;
      }
      at++;
    }
    return Sort.WORD;
  }

  private Sort number() {
    while (at < end && (Character.isLetterOrDigit(text.charAt(at)) || text.charAt(at) == '.')) {
      at++;
    }
    return Sort.NUMBER;
  }

  private Sort line(Sort sort) {
    int newline = text.indexOf('\n', at);
    at = newline < 0 || newline > end ? end : newline;
    return sort;
  }

  private Sort blockComment() {
    int depth = 0;
    while (at < end) {
      if (text.startsWith("/*", at)) {
        depth++;
        at += 2;
      } else if (text.startsWith("*/", at)) {
        depth--;
        at += 2;
        if (depth == 0) {
          break;
        }
      } else {
        at++;
      }
    }
    at = Math.min(at, end);
    return Sort.COMMENT;
  }

  private Sort until(String close, Sort sort) {
    int found = text.indexOf(close, at + 2);
    at = found < 0 ? end : Math.min(end, found + close.length());
    return sort;
  }

  private Sort quoted(char close, boolean backslash, Sort sort) {
    at++;
    while (at < end) {
      char c = text.charAt(at++);
      if (backslash && c == '\\' && at < end) {
        at++;
      } else if (c == close) {
        if (at < end && text.charAt(at) == close) {
          at++;
        } else {
          break;
        }
      }
    }
    return sort;
  }

  /** The length of the tag that opens a dollar-quoted string here; 0 if none does. */
  private int dollarTag() {
    int i = at + 1;
    while (i < end && (Character.isLetterOrDigit(text.charAt(i)) || text.charAt(i) == '_')) {
      i++;
    }
    boolean number = i > at + 1 && Character.isDigit(text.charAt(at + 1));
    return i < end && text.charAt(i) == '$' && !number ? i + 1 - at : 0;
  }

  private Sort body(int tag) {
    String close = text.substring(at, at + tag);
    int found = text.indexOf(close, at + tag);
    at = found < 0 ? end : Math.min(end, found + tag);
    return Sort.BODY;
  }
}
