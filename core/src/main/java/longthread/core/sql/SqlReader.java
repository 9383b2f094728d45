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
 * large stack. What it may take is bounded in the work itself: {@link Budget} counts columns and
 * pairs, {@link WorkRoom} the text that is parsed at one time, {@link WorkClock} the time of the
 * processor. Nothing works on behind an answer.
 *
 * <p>Takes time n log n in the length of the text and what it yields. Statements nested deeper than
 * {@link Limits#nesting}, or that ask for more than their budget, are only scanned for their
 * tables.
 */
public final class SqlReader implements AutoCloseable {
  /**
   * The version of the rules by which text is read; a higher one may find more in the same text.
   */
  public static final int VERSION = 2;

  private static final long STACK = 16L << 20;

  /** How often the time that a statement took is looked at, in milliseconds. */
  private static final int WAIT_MILLIS = 20;

  /**
   * How much a statement may ask for.
   *
   * @param time of a processor for each statement; the statements of a script may take {@value
   *     Budget#STATEMENTS_PER_SCRIPT} times as much together
   * @param nesting how deep its parentheses, and its CASE expressions, may be nested
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
    boolean entered = false;
    try {
      entered = WorkRoom.enter(sql.length());
      return entered
          ? readHere(sql, dialect, known)
          : List.of(
              unread(
                  sql,
                  "There was no room to"
                      + " read this text for half a minute, since other long texts were being read."));
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      return List.of(unread(sql, "The reading was interrupted."));
    } finally {
      if (entered) {
        WorkRoom.leave(sql.length());
      }
    }
  }

  private static SqlStatement unread(String sql, String why) {
    var all = new Span(0, sql.length());
    return new SqlStatement(
        0,
        all,
        "unread",
        null,
        false,
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        false,
        List.of(new SqlProblem(why, all, true)));
  }

  private List<SqlStatement> readHere(String sql, Dialect dialect, KnownTables known) {
    // A byte-order mark is no part of the text; places stay where they are.
    String text = sql.indexOf('\uFEFF') == 0 ? " " + sql.substring(1) : sql;
    List<Script.Piece> pieces = Script.pieces(text, dialect);
    var tables = new ScriptTables(known, Script.temporaryTables(text, pieces));
    var results = new ArrayList<SqlStatement>();
    var script = new ScriptWork();
    for (int i = 0; i < pieces.size(); i++) {
      results.addAll(statement(text, i, pieces.get(i), dialect, tables, script));
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
      String text,
      int number,
      Script.Piece piece,
      Dialect dialect,
      ScriptTables tables,
      ScriptWork script) {
    String first = piece.tokens().get(0).word();
    Script.Piece held = heldStatement(text, piece);
    if (held != null) {
      return statement(text, number, held, dialect, tables, script);
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
    int length = piece.span().end() - piece.span().start();
    if (length > limits.length()) {
      return onlyTables(scan, number, piece, "is longer than " + limits.length() + " characters");
    }
    if (length > WorkRoom.SIZE) {
      String large =
          "The statement is longer than the "
              + WorkRoom.SIZE
              + " characters that fit into this process's memory, so only its tables were looked"
              + " for.";
      return List.of(scan.read(number, piece.span(), new SqlProblem(large, piece.span(), true)));
    }
    if (depth(new Tokens(text, piece.tokens())) > limits.nesting()) {
      return onlyTables(
          scan, number, piece, "is nested deeper than " + limits.nesting() + " levels");
    }
    try {
      return worked(text, number, piece, dialect, tables, scan, script);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      var stopped = new SqlProblem("The reading was interrupted.", piece.span(), true);
      return List.of(scan.read(number, piece.span(), stopped));
    }
  }

  private static List<SqlStatement> onlyTables(
      TokenScan scan, int number, Script.Piece piece, String why) {
    String problem = "The statement " + why + ", so only its tables were looked for.";
    return List.of(scan.read(number, piece.span(), problem));
  }

  private SqlProblem late(Script.Piece piece) {
    String late =
        "The statement was not understood within "
            + limits.time().toMillis()
            + " ms, so only its tables were looked for.";
    return new SqlProblem(late, piece.span(), true);
  }

  /** Works at a statement on a thread of its own, and does not return before that has ended. */
  private List<SqlStatement> worked(
      String text,
      int number,
      Script.Piece piece,
      Dialect dialect,
      ScriptTables tables,
      TokenScan scan,
      ScriptWork script)
      throws InterruptedException {
    var budget = new Budget(script.budget);
    var work = new ParseTask(budget);
    var clock = new WorkClock();
    Future<List<SqlStatement>> done =
        workers.submit(
            () -> {
              clock.start();
              return budget.spend(() -> understood(text, number, piece, dialect, tables, work));
            });
    boolean interrupted = false;
    boolean outOfTime = limits.time().isZero(); // no time is none, however quick the worker was
    while (true) {
      outOfTime = outOfTime || clock.isOver(script.timeLeft(limits));
      if (outOfTime || interrupted) {
        work.stop();
      }
      try {
        List<SqlStatement> found = done.get(WAIT_MILLIS, TimeUnit.MILLISECONDS);
        script.took(clock);
        if (interrupted) {
          throw new InterruptedException();
        }
        return limits.time().isZero()
            ? List.of(scan.read(number, piece.span(), late(piece)))
            : found;
      } catch (TimeoutException e) {
        continue; // looks at the time again; a stopped worker ends at its next step
      } catch (InterruptedException e) {
        if (interrupted) {
          throw e;
        }
        interrupted = true; // what is begun is stopped before the caller hears of it
      } catch (ExecutionException e) {
        script.took(clock);
        if (interrupted) {
          throw new InterruptedException();
        }
        if (outOfTime || e.getCause() instanceof Budget.StoppedException) {
          return List.of(scan.read(number, piece.span(), late(piece)));
        }
        return onlyTables(scan, number, piece, unforeseen(e.getCause()));
      }
    }
  }

  private static String unforeseen(Throwable cause) {
    if (cause instanceof Budget.SpentException spent) {
      return spent.getMessage();
    }
    return "is of a form that is not understood (" + cause.getClass().getSimpleName() + ")";
  }

  /** What the statements of one script share: their budget, and the time they took so far. */
  private static final class ScriptWork {
    private final Budget.OfScript budget = new Budget.OfScript();
    private Duration taken = Duration.ZERO;

    void took(WorkClock clock) {
      taken = taken.plus(clock.taken());
    }

    /** The time for the next statement: its own, or what is left to the script. */
    Duration timeLeft(Limits limits) {
      Duration left = limits.time().multipliedBy(Budget.STATEMENTS_PER_SCRIPT).minus(taken);
      return left.compareTo(limits.time()) < 0 ? left : limits.time();
    }
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
    int cases = 0;
    int deepest = 0;
    for (int i = 0; i < tokens.size(); i++) {
      depth += tokens.nesting(i);
      String word = tokens.word(i);
      cases += word.equals("case") ? 1 : word.equals("end") && cases > 0 ? -1 : 0;
      deepest = Math.max(deepest, depth + cases);
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
          throw new Budget
              .StoppedException(); // a parser that was stopped calls it a fault of syntax
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
