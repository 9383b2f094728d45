package longthread.core.sql;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import longthread.core.lineage.Flow;
import longthread.core.sql.Lexer.Sort;
import longthread.core.sql.Lexer.Token;
import longthread.core.sql.SqlStatement.Output;
import longthread.core.sql.SqlStatement.Source;
import org.jspecify.annotations.Nullable;

/**
 * Statements that move data between tables and files: COPY, UNLOAD, LOAD DATA, INSERT OVERWRITE
 * DIRECTORY. A file stands as a table under its own address; {@code stdin} and {@code stdout} stand
 * for whatever the client sends and takes.
 */
final class FileMoves {
  private static final Set<String> LOADING = Set.of("infile", "inpath");

  private final SqlReader reader;
  private final String text;
  private final int number;
  private final Dialect dialect;
  private final ScriptTables tables;

  FileMoves(SqlReader reader, String text, int number, Dialect dialect, ScriptTables tables) {
    this.reader = reader;
    this.text = text;
    this.number = number;
    this.dialect = dialect;
    this.tables = tables;
  }

  /** What the piece moves; null if it is a statement of another sort. */
  @Nullable List<SqlStatement> read(Script.Piece piece, ParseTask work) {
    var tokens = new Tokens(text, piece.tokens());
    return switch (tokens.word(0)) {
      case "copy" -> copy(piece, work);
      case "unload" -> unload(piece, work);
      case "load" -> load(piece);
      case "insert" -> directory(piece, work);
      default -> null;
    };
  }

  /** Something data can be copied from or to, and the tokens it takes. */
  private record End(
      @Nullable List<Ident> table,
      List<Ident> columns,
      @Nullable String file,
      @Nullable List<Token> query,
      int next) {}

  private End end(Tokens tokens, int from) {
    if (tokens.isSymbol(from, '(')) {
      int close = tokens.closing(from);
      return new End(null, List.of(), null, tokens.list().subList(from + 1, close), close + 1);
    }
    Token first = tokens.at(Math.min(from, tokens.size() - 1));
    String raw = text.substring(first.start(), first.end());
    if (first.sort() == Sort.STRING) {
      return new End(null, List.of(), raw.substring(1, raw.length() - 1), null, from + 1);
    }
    if (Set.of("stdin", "stdout", "program").contains(tokens.word(from))) {
      return new End(null, List.of(), tokens.word(from), null, from + 1);
    }
    if (raw.startsWith("@")) {
      int next = from + 1;
      int end = first.end();
      while (next < tokens.size() && tokens.at(next).start() == end) {
        end = tokens.at(next++).end();
      }
      return new End(null, List.of(), text.substring(first.start(), end), null, next);
    }
    var name = new ArrayList<Ident>();
    int at = from;
    while (at < tokens.size()) {
      name.add(Ident.of(tokens.textOf(at), dialect));
      at++;
      if (!tokens.isSymbol(at, '.')) {
        break;
      }
      at++;
    }
    var columns = new ArrayList<Ident>();
    if (tokens.isSymbol(at, '(')) {
      int close = tokens.closing(at);
      for (Token token : tokens.list().subList(at + 1, close)) {
        if (token.sort() == Sort.WORD || token.sort() == Sort.NAME) {
          columns.add(Ident.of(text.substring(token.start(), token.end()), dialect));
        }
      }
      at = close + 1;
    }
    return new End(name, columns, null, null, at);
  }

  private @Nullable List<SqlStatement> copy(Script.Piece piece, ParseTask work) {
    var tokens = new Tokens(text, piece.tokens());
    boolean into = tokens.word(1).equals("into");
    End first = end(tokens, into ? 2 : 1);
    boolean from = tokens.word(first.next()).equals("from");
    boolean to = tokens.word(first.next()).equals("to");
    if ((!from && !to) || first.next() + 1 >= tokens.size()) {
      return null;
    }
    End second = end(tokens, first.next() + 1);
    return to ? moved(piece, first, second, work) : moved(piece, second, first, work);
  }

  private @Nullable List<SqlStatement> moved(Script.Piece piece, End from, End to, ParseTask work) {
    if (from.query() != null) {
      var inner = new Script.Piece(piece.span(), from.query(), piece.routine());
      return renamed(reader.parsed(text, number, inner, dialect, tables, work), to);
    }
    if (from.table() != null && to.file() != null) {
      return List.of(fromTable(piece, from, to.file()));
    }
    if (from.file() != null && to.table() != null) {
      return List.of(fromFile(piece, from.file(), to));
    }
    return null;
  }

  /** The columns of a query under the name of what they are copied to. */
  private List<SqlStatement> renamed(List<SqlStatement> query, End to) {
    var results = new ArrayList<SqlStatement>();
    for (SqlStatement one : query) {
      String target = to.file() != null ? to.file() : fullName(to);
      var outputs = new ArrayList<Output>();
      for (int i = 0; i < one.outputs().size(); i++) {
        Output output = one.outputs().get(i);
        String name = i < to.columns().size() ? to.columns().get(i).name() : output.name();
        outputs.add(
            new Output(
                name,
                output.direct(),
                output.indirect(),
                output.constants(),
                output.fromRows(),
                output.countsRows(),
                output.spans()));
      }
      results.add(
          new SqlStatement(
              number,
              one.span(),
              "copy",
              target,
              false,
              outputs,
              one.rows(),
              one.named(),
              one.reads(),
              one.steps(),
              one.complete(),
              one.problems()));
    }
    return results;
  }

  private String fullName(End table) {
    return tables.fullName(table.table() == null ? List.of() : table.table()).name();
  }

  private SqlStatement fromTable(Script.Piece piece, End from, String file) {
    String table = fullName(from);
    List<String> columns = columns(from, table);
    var outputs = new ArrayList<Output>();
    for (String column : columns) {
      outputs.add(copied(table, column, column, false, piece.span()));
    }
    return statement(piece, file, outputs, table, columns.isEmpty() ? table : null);
  }

  private SqlStatement fromFile(Script.Piece piece, String file, End to) {
    String table = fullName(to);
    List<String> columns = columns(to, table);
    List<KnownColumn> inFile = tables.columns(file);
    var outputs = new ArrayList<Output>();
    for (int i = 0; i < columns.size(); i++) {
      String column = columns.get(i);
      String source = column;
      boolean known = KnownTables.has(inFile, column);
      if (!known && i < inFile.size() && inFile.size() == columns.size()) {
        source = inFile.get(i).name();
        known = true;
      }
      outputs.add(copied(file, source, column, !known && !inFile.isEmpty(), piece.span()));
    }
    return statement(piece, table, outputs, file, columns.isEmpty() ? table : null);
  }

  private List<String> columns(End end, String table) {
    return end.columns().isEmpty()
        ? tables.columns(table).stream().map(KnownColumn::name).toList()
        : end.columns().stream().map(Ident::name).toList();
  }

  private static Output copied(
      String table, String column, String as, boolean possible, Span span) {
    return new Output(
        as,
        List.of(new Source(table, column, Flow.IDENTITY, false, possible)),
        List.of(),
        List.of(),
        List.of(),
        false,
        List.of(new SqlStatement.StepSpan("result", as, span)));
  }

  private SqlStatement statement(
      Script.Piece piece,
      String target,
      List<Output> outputs,
      String read,
      @Nullable String unknown) {
    List<SqlProblem> problems =
        unknown == null
            ? List.of()
            : List.of(
                new SqlProblem(
                    "The columns of " + unknown + " are not known, so which are copied is not.",
                    piece.span()));
    return new SqlStatement(
        number,
        piece.span(),
        "copy",
        target,
        false,
        outputs,
        List.of(),
        List.of(),
        List.of(read),
        List.of(),
        problems.isEmpty(),
        problems);
  }

  private @Nullable List<SqlStatement> unload(Script.Piece piece, ParseTask work) {
    var tokens = new Tokens(text, piece.tokens());
    if (!tokens.isSymbol(1, '(')) {
      return null;
    }
    int close = tokens.closing(1);
    if (!tokens.word(close + 1).equals("to") || close + 2 >= tokens.size()) {
      return null;
    }
    End to = end(tokens, close + 2);
    Token inner = tokens.at(2);
    if (inner.sort() != Sort.STRING && inner.sort() != Sort.BODY) {
      return moved(piece, end(tokens, 1), to, work);
    }
    // The query is a string; its doubled quotes are single ones, at the same places.
    int tag =
        inner.sort() == Sort.BODY ? text.indexOf('$', inner.start() + 1) + 1 - inner.start() : 1;
    String plain =
        text.substring(0, inner.start())
            + text.substring(inner.start(), inner.end()).replace("''", "' ")
            + text.substring(inner.end());
    List<Token> query =
        Lexer.tokens(plain, inner.start() + tag, inner.end() - tag, dialect).stream()
            .filter(token -> token.sort() != Sort.COMMENT)
            .toList();
    if (query.isEmpty()) {
      return null;
    }
    var part = new Script.Piece(piece.span(), query, false);
    return renamed(reader.parsed(plain, number, part, dialect, tables, work), to);
  }

  private @Nullable List<SqlStatement> load(Script.Piece piece) {
    var tokens = new Tokens(text, piece.tokens());
    String file = null;
    for (int i = 1; i + 1 < tokens.size(); i++) {
      if (LOADING.contains(tokens.word(i)) && tokens.at(i + 1).sort() == Sort.STRING) {
        Token name = tokens.at(i + 1);
        file = text.substring(name.start() + 1, name.end() - 1);
      }
      if (tokens.word(i).equals("table") && file != null) {
        return List.of(fromFile(piece, file, end(tokens, i + 1)));
      }
    }
    return null;
  }

  private @Nullable List<SqlStatement> directory(Script.Piece piece, ParseTask work) {
    var tokens = new Tokens(text, piece.tokens());
    for (int i = 1; i + 1 < Math.min(tokens.size(), 6); i++) {
      if (tokens.word(i).equals("directory") && tokens.at(i + 1).sort() == Sort.STRING) {
        int query = i + 2;
        while (query < tokens.size() && !Set.of("select", "with").contains(tokens.word(query))) {
          query++;
        }
        var part =
            new Script.Piece(
                piece.span(), tokens.list().subList(query, tokens.size()), piece.routine());
        return part.tokens().isEmpty()
            ? null
            : renamed(reader.parsed(text, number, part, dialect, tables, work), end(tokens, i + 1));
      }
    }
    return null;
  }
}
