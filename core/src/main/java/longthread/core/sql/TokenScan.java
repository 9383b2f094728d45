package longthread.core.sql;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.sql.Lexer.Sort;
import longthread.core.sql.Lexer.Token;

/**
 * Finds the tables of a statement that could not be parsed, by the words before their names. It
 * knows nothing of columns, and what it finds is marked as partial.
 */
final class TokenScan {
  private static final Set<String> BEFORE_READ = Set.of("from", "join", "using");
  private static final Set<String> BEFORE_WRITE = Set.of("into", "update", "table", "overwrite");
  private static final Set<String> NOT_NAMES =
      Set.of(
          "select", "values", "set", "where", "if", "not", "exists", "only", "lateral", "unnest",
          "table", "into", "as", "on", "with");

  private final Tokens tokens;
  private final ScriptTables tables;
  private final Dialect dialect;

  TokenScan(String text, List<Token> tokens, ScriptTables tables, Dialect dialect) {
    this.tokens = new Tokens(text, tokens);
    this.tables = tables;
    this.dialect = dialect;
  }

  SqlStatement read(int number, Span span, String problem) {
    return read(number, span, new SqlProblem(problem, span));
  }

  SqlStatement read(int number, Span span, SqlProblem problem) {
    Set<String> own = withNames();
    var reads = new TreeSet<String>();
    String target = null;
    String first = tokens.word(0);
    var queries = new ArrayDeque<Boolean>(); // of each open parenthesis: whether it holds a query
    for (int i = 0; i + 1 < tokens.size(); i++) {
      String word = tokens.word(i);
      if (tokens.isSymbol(i, '(')) {
        queries.push(!isCall(i) || Set.of("select", "with").contains(tokens.word(i + 1)));
      } else if (tokens.isSymbol(i, ')') && !queries.isEmpty()) {
        queries.pop();
      }
      if (!queries.isEmpty() && !queries.peek()) {
        continue; // as in substring(a from 2)
      }
      boolean names = BEFORE_READ.contains(word) || BEFORE_WRITE.contains(word);
      if (!names) {
        continue;
      }
      int at = i + 1;
      while (at < tokens.size() && NOT_NAMES.contains(tokens.word(at))) {
        String next = tokens.word(at);
        if (next.equals("select") || next.equals("values") || next.equals("where")) {
          break;
        }
        at++;
      }
      List<Ident> name = name(at);
      if (name.isEmpty() || (name.size() == 1 && own.contains(name.get(0).name()))) {
        continue;
      }
      boolean function = at + width(at) < tokens.size() && tokens.isSymbol(at + width(at), '(');
      if (BEFORE_READ.contains(word) && !function) {
        boolean deleted = word.equals("from") && first.equals("delete") && target == null;
        if (deleted) {
          target = fullName(name);
        } else {
          reads.add(fullName(name));
        }
      } else if (BEFORE_WRITE.contains(word) && target == null) {
        target = fullName(name);
      }
    }
    if (target != null && tables.temporary(List.of(new Ident(target, false))) == null) {
      reads.remove(target);
    }
    return new SqlStatement(
        number,
        span,
        target == null ? "select" : first.isEmpty() ? "other" : first,
        target,
        false,
        List.of(),
        List.of(),
        List.of(),
        List.copyOf(reads),
        List.of(),
        false,
        List.of(problem));
  }

  private boolean isCall(int open) {
    return open > 0
        && !tokens.word(open - 1).isEmpty()
        && !BEFORE_READ.contains(tokens.word(open - 1))
        && !NOT_NAMES.contains(tokens.word(open - 1));
  }

  private String fullName(List<Ident> name) {
    Relation temporary = tables.temporary(name);
    return temporary != null ? temporary.name() : tables.fullName(name).name();
  }

  private Set<String> withNames() {
    var names = new HashSet<String>();
    for (int i = 0; i + 2 < tokens.size(); i++) {
      if (tokens.word(i + 1).equals("as") && tokens.isSymbol(i + 2, '(')) {
        Ident name = tokens.identifier(i, dialect);
        if (name != null) {
          names.add(name.name());
        }
      }
    }
    return names;
  }

  private List<Ident> name(int from) {
    var parts = new ArrayList<Ident>();
    int at = from;
    while (at < tokens.size()) {
      Ident part = tokens.identifier(at, dialect);
      boolean word = part != null && tokens.at(at).sort() == Sort.WORD;
      if (part == null || (word && parts.isEmpty() && NOT_NAMES.contains(part.name()))) {
        break;
      }
      parts.add(part);
      if (at + 1 >= tokens.size() || !tokens.isSymbol(at + 1, '.')) {
        break;
      }
      at += 2;
    }
    return parts;
  }

  private int width(int from) {
    return Math.max(1, name(from).size() * 2 - 1);
  }
}
