package longthread.core.sql;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import longthread.core.sql.Lexer.Sort;
import longthread.core.sql.Lexer.Token;
import net.sf.jsqlparser.JSQLParserException;
import net.sf.jsqlparser.parser.CCJSqlParser;
import net.sf.jsqlparser.parser.CCJSqlParserUtil;
import net.sf.jsqlparser.parser.ParseException;
import net.sf.jsqlparser.parser.TokenMgrException;
import net.sf.jsqlparser.statement.Statement;
import org.jspecify.annotations.Nullable;

/**
 * Reads SQL scripts. Safe for use by many threads; each statement is worked at on a thread with a
 * large stack, for at most a given time.
 *
 * <p>Takes time linear in the length of the text, but for the parser, whose cost grows fast with
 * nested parentheses: statements nested deeper than {@link Limits#nesting} are only scanned for
 * their tables.
 */
public final class SqlReader implements AutoCloseable {
  /**
   * The version of the rules by which text is read; a higher one may find more in the same text.
   */
  public static final int VERSION = 2;

  private static final long STACK = 16L << 20;

  /**
   * How much a statement may ask for.
   *
   * @param time for each statement
   * @param nesting how deep its parentheses may be nested
   * @param length of a statement, in UTF-16 units
   */
  public record Limits(Duration time, int nesting, int length) {
    public static final Limits USUAL = new Limits(Duration.ofSeconds(2), 200, 1_000_000);
  }

  /** First words of statements that neither read nor write data, or whose reading is all there. */
  private static final Set<String> WITHOUT_LINEAGE =
      Set.of(
          "begin",
          "commit",
          "rollback",
          "start",
          "savepoint",
          "release",
          "abort",
          "grant",
          "revoke",
          "analyze",
          "analyse",
          "vacuum",
          "comment",
          "lock",
          "unlock",
          "reset",
          "discard",
          "show",
          "describe",
          "desc",
          "explain",
          "declare",
          "fetch",
          "close",
          "open",
          "raise",
          "return",
          "print",
          "notify",
          "listen",
          "deallocate",
          "prepare",
          "msck",
          "optimize",
          "cluster",
          "reindex",
          "checkpoint",
          "pragma",
          "leave",
          "iterate",
          "exit",
          "continue",
          "null",
          "signal",
          "kill",
          "cache",
          "uncache",
          "attach",
          "detach",
          "list",
          "put",
          "remove",
          "refresh",
          "delimiter",
          "waitfor");

  private static final Set<String> HELD =
      Set.of("select", "with", "insert", "update", "delete", "merge", "values");

  private final Functions functions;
  private final Limits limits;
  private final ExecutorService workers;

  public SqlReader(Functions functions, Limits limits) {
    this.functions = functions;
    this.limits = limits;
    this.workers =
        Executors.newCachedThreadPool(
            work -> {
              var thread = new Thread(null, work, "sql-reader", STACK);
              thread.setDaemon(true);
              return thread;
            });
  }

  public SqlReader() {
    this(new Functions(Set.of()), Limits.USUAL);
  }

  @Override
  public void close() {
    workers.shutdownNow();
  }

  /**
   * What a script says of lineage: in order, one entry for each table that a statement writes, and
   * for each query.
   *
   * <p>Never fails: what is not understood stands in the problems of an entry.
   *
   * @param text one or more statements
   * @param known the tables whose columns are known
   */
  public List<SqlStatement> read(String sql, Dialect dialect, KnownTables known) {
    // A byte-order mark is no part of the text; places stay where they are.
    String text = sql.indexOf('\uFEFF') == 0 ? " " + sql.substring(1) : sql;
    List<Script.Piece> pieces = Script.pieces(text, dialect);
    var tables = new ScriptTables(known, Script.temporaryTables(text, pieces));
    var results = new ArrayList<SqlStatement>();
    for (int i = 0; i < pieces.size(); i++) {
      results.addAll(statement(text, i, pieces.get(i), dialect, tables));
    }
    return results.stream()
        .map(
            s ->
                s.target() == null || s.temporary()
                    ? s
                    : s.named(tables.nameAtEnd(s.number(), s.target())))
        .toList();
  }

  private List<SqlStatement> statement(
      String text, int number, Script.Piece piece, Dialect dialect, ScriptTables tables) {
    String first = piece.tokens().get(0).word();
    Script.Piece held = heldStatement(text, piece);
    if (held != null) {
      return statement(text, number, held, dialect, tables);
    }
    boolean fills = VariableForms.of(new Tokens(text, piece.tokens())) != null;
    if (first.equals("declare") && declaredTable(text, piece, tables, dialect)) {
      return List.of();
    }
    if (WITHOUT_LINEAGE.contains(first) && !fills) {
      return List.of();
    }
    var scan = new TokenScan(text, piece.tokens(), tables, dialect);
    if (first.equals("call") || first.startsWith("exec")) {
      return List.of(
          bare(number, piece, "What the called procedure does cannot be seen from here."));
    }
    if (first.equals("set") && !fills) {
      searchPath(text, piece, tables, dialect);
      return List.of();
    }
    if (piece.span().end() - piece.span().start() > limits.length()) {
      return List.of(
          scan.read(
              number,
              piece.span(),
              "The statement is longer than "
                  + limits.length()
                  + " characters, so only its"
                  + " tables were looked for."));
    }
    if (depth(new Tokens(text, piece.tokens())) > limits.nesting()) {
      return List.of(
          scan.read(
              number,
              piece.span(),
              "The statement is nested deeper than "
                  + limits.nesting()
                  + " levels, so only its"
                  + " tables were looked for."));
    }
    var work = new ParseTask();
    Future<List<SqlStatement>> done =
        workers.submit(() -> understood(text, number, piece, dialect, tables, work));
    try {
      if (limits.time().isZero()) {
        throw new TimeoutException(); // no time is none, however quick the worker was
      }
      return done.get(limits.time().toMillis(), TimeUnit.MILLISECONDS);
    } catch (TimeoutException e) {
      work.stop();
      done.cancel(true);
      String late =
          "The statement was not understood within "
              + limits.time().toMillis()
              + " ms, so only its tables were looked for.";
      return List.of(scan.read(number, piece.span(), new SqlProblem(late, piece.span(), true)));
    } catch (ExecutionException e) {
      return List.of(scan.read(number, piece.span(), unforeseen(e.getCause())));
    } catch (InterruptedException e) {
      work.stop();
      Thread.currentThread().interrupt();
      var stopped = new SqlProblem("The reading was interrupted.", piece.span(), true);
      return List.of(scan.read(number, piece.span(), stopped));
    }
  }

  private static String unforeseen(Throwable cause) {
    if (cause instanceof Origins.TooManyPairsException) {
      return "The statement has more than "
          + Origins.MAX_PAIRS
          + " pairs of columns where one is made from the other, so only its tables were looked"
          + " for.";
    }
    return "The statement is of a form that is not understood ("
        + cause.getClass().getSimpleName()
        + "), so only its tables were looked for.";
  }

  private static SqlStatement bare(int number, Script.Piece piece, String problem) {
    return new SqlStatement(
        number,
        piece.span(),
        "call",
        null,
        false,
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        false,
        List.of(new SqlProblem(problem, piece.span())));
  }

  /**
   * The query or change that a cursor is declared for, or that is prepared under a name; null if a
   * statement holds none.
   */
  private static Script.@Nullable Piece heldStatement(String text, Script.Piece piece) {
    var tokens = new Tokens(text, piece.tokens());
    String before =
        switch (tokens.word(0)) {
          case "declare", "cursor", "open" -> "for";
          case "prepare", "cache" -> "as";
          default -> "";
        };
    if (before.isEmpty()) {
      return null;
    }
    for (int i = 1; i + 1 < tokens.size(); i++) {
      boolean begins = tokens.word(i).equals(before) || tokens.word(i).equals("is");
      if (begins && HELD.contains(tokens.word(i + 1))) {
        List<Token> rest = piece.tokens().subList(i + 1, piece.tokens().size());
        return new Script.Piece(
            new Span(rest.get(0).start(), piece.span().end()), rest, piece.routine());
      }
    }
    return null;
  }

  /** {@code DECLARE @t TABLE (a int, …)}: a temporary table with these columns. */
  private static boolean declaredTable(
      String text, Script.Piece piece, ScriptTables tables, Dialect dialect) {
    var tokens = new Tokens(text, piece.tokens());
    int table = tokens.word(2).equals("as") ? 3 : 2;
    if (!tokens.word(table).equals("table") || !tokens.isSymbol(table + 1, '(')) {
      return false;
    }
    Ident name = tokens.identifier(1, dialect);
    if (name == null) {
      return false;
    }
    var relation = new Relation(Relation.Kind.TEMPORARY, name.name(), piece.span());
    int close = tokens.closing(table + 1);
    for (int i = table + 2, depth = 0; i < close; i++) {
      boolean first =
          depth == 0 && (tokens.isSymbol(i - 1, ',') || i == table + 2) && !isKey(tokens.word(i));
      Ident column = first ? tokens.identifier(i, dialect) : null;
      if (column != null) {
        relation.add(column.name(), null, new Uses(), null);
      }
      depth += tokens.nesting(i);
    }
    tables.putTemporary(List.of(name), relation);
    return true;
  }

  private static boolean isKey(String word) {
    return Set.of("primary", "unique", "check", "index", "constraint", "foreign").contains(word);
  }

  private static void searchPath(
      String text, Script.Piece piece, ScriptTables tables, Dialect dialect) {
    List<Token> tokens = piece.tokens();
    int at = 1;
    while (at < tokens.size() && Set.of("local", "session").contains(tokens.get(at).word())) {
      at++;
    }
    if (at >= tokens.size() || !tokens.get(at).word().equals("search_path")) {
      return;
    }
    var schemas = new ArrayList<String>();
    for (Token token : tokens.subList(at + 1, tokens.size())) {
      boolean name =
          token.sort() == Sort.WORD || token.sort() == Sort.NAME || token.sort() == Sort.STRING;
      String raw = text.substring(token.start(), token.end());
      if (name && !raw.equalsIgnoreCase("to")) {
        schemas.add(Ident.of(raw, dialect).name());
      }
    }
    tables.searchPath(schemas);
  }

  private static int depth(Tokens tokens) {
    int depth = 0;
    int deepest = 0;
    for (int i = 0; i < tokens.size(); i++) {
      depth += tokens.nesting(i);
      deepest = Math.max(deepest, depth);
    }
    return deepest;
  }

  private List<SqlStatement> understood(
      String text,
      int number,
      Script.Piece piece,
      Dialect dialect,
      ScriptTables tables,
      ParseTask work) {
    List<SqlStatement> moved = new FileMoves(this, text, number, dialect, tables).read(piece, work);
    if (moved != null) {
      return moved;
    }
    var several = new ArrayList<SqlStatement>();
    for (Script.Piece part : FromFirst.parts(text, piece)) {
      several.addAll(parsed(text, number, part, dialect, tables, work));
    }
    return several;
  }

  List<SqlStatement> parsed(
      String text,
      int number,
      Script.Piece piece,
      Dialect dialect,
      ScriptTables tables,
      ParseTask work) {
    String problem = "";
    for (boolean lossy : new boolean[] {false, true}) {
      ParserInput input = ParserInput.of(text, piece.tokens(), lossy);
      for (boolean brackets :
          dialect == Dialect.BRACKET ? new boolean[] {true} : new boolean[] {false, true}) {
        try {
          Statement statement = parse(input.text(), dialect, brackets, work);
          var all =
              new ArrayList<>(resolved(text, number, piece, dialect, tables, input, statement));
          for (String other : input.others()) {
            all.addAll(besides(other, number, piece, dialect, tables, work));
          }
          return all;
        } catch (ParseException | TokenMgrException | JSQLParserException e) {
          problem = problem.isEmpty() ? brief(e, piece.span(), input, text) : problem;
        }
        if (work.stopped()) {
          break;
        }
      }
    }
    return List.of(
        new TokenScan(text, piece.tokens(), tables, dialect).read(number, piece.span(), problem));
  }

  /** What a statement writes besides, as one of its own; its places are those of the whole. */
  private List<SqlStatement> besides(
      String other,
      int number,
      Script.Piece piece,
      Dialect dialect,
      ScriptTables tables,
      ParseTask work) {
    List<Script.Piece> pieces = Script.pieces(other, dialect);
    return pieces.isEmpty()
        ? List.of()
        : parsed(other, number, pieces.get(0), dialect, tables, work).stream()
            .map(statement -> statement.within(piece.span()))
            .toList();
  }

  private static Statement parse(String text, Dialect dialect, boolean brackets, ParseTask work)
      throws ParseException, JSQLParserException {
    CCJSqlParser parser =
        CCJSqlParserUtil.newParser(text)
            .withAllowComplexParsing(true)
            .withSquareBracketQuotation(brackets)
            .withDoubleQuotedStrings(dialect == Dialect.BACKTICK);
    work.parseWith(parser);
    return parser.Statement();
  }

  private static String brief(Exception e, Span span, ParserInput input, String text) {
    String where = "";
    if (e instanceof ParseException parse
        && parse.currentToken != null
        && parse.currentToken.next != null
        && parse.currentToken.next.absoluteBegin > 0) {
      int at = input.toSource(parse.currentToken.next.absoluteBegin - 1);
      int line =
          1
              + (int)
                  text.substring(0, Math.min(at, text.length()))
                      .chars()
                      .filter(c -> c == '\n')
                      .count();
      where = " from «" + parse.currentToken.next.image + "» in line " + line + " on";
    }
    return "The statement could not be parsed" + where + ", so only its tables were looked for.";
  }

  private List<SqlStatement> resolved(
      String text,
      int number,
      Script.Piece piece,
      Dialect dialect,
      ScriptTables tables,
      ParserInput input,
      Statement statement) {
    var context = new Context(text, piece.span(), dialect, functions, tables, input);
    if (input.templated()) {
      context.problem(
          "The text holds residue of a template, which stands for something not seen here.",
          piece.span());
    }
    input.problems().forEach(problem -> context.problem(problem.what(), problem.span()));
    return new StatementReader(number, piece.routine(), context).read(statement);
  }
}
