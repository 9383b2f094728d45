package longthread.core.sql;

import java.util.Arrays;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import net.sf.jsqlparser.expression.BinaryExpression;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.parser.ASTNodeAccess;
import net.sf.jsqlparser.parser.Node;
import net.sf.jsqlparser.parser.Token;
import net.sf.jsqlparser.schema.Column;
import org.jspecify.annotations.Nullable;

/** What the readers of one statement share: its text, the dialect, and what was found so far. */
final class Context {
  private final String text;
  private final Span span;
  private final Dialect dialect;
  private final Functions functions;
  private final ScriptTables tables;
  private final ParserInput parserInput;
  private final Set<SqlProblem> problems = new LinkedHashSet<>();
  private final Set<SqlStatement.Named> named = new LinkedHashSet<>();
  private int unnamed;

  /**
   * @param text the whole script as given
   * @param span where in it the statement stands
   */
  Context(
      String text,
      Span span,
      Dialect dialect,
      Functions functions,
      ScriptTables tables,
      ParserInput parserInput) {
    this.text = text;
    this.span = span;
    this.dialect = dialect;
    this.functions = functions;
    this.tables = tables;
    this.parserInput = parserInput;
  }

  Dialect dialect() {
    return dialect;
  }

  Functions functions() {
    return functions;
  }

  ScriptTables tables() {
    return tables;
  }

  ParserInput parserInput() {
    return parserInput;
  }

  /** Where the statement stands in the script. */
  Span span() {
    return span;
  }

  List<SqlProblem> problems() {
    return List.copyOf(problems);
  }

  /** Notes that the text names a column; of steps it is what they are made of that counts. */
  void name(Field field) {
    if (field.of().isTable()) {
      named.add(new SqlStatement.Named(field.of().name(), field.name()));
    }
  }

  /** The columns of tables that the statement has named so far. */
  List<SqlStatement.Named> named() {
    return List.copyOf(named);
  }

  int nextUnnamed() {
    return ++unnamed;
  }

  void problem(String what, @Nullable Span at) {
    if (problems.add(new SqlProblem(what, at == null ? span : at))) {
      Budget.keep(1);
    }
  }

  String textOf(Span at) {
    Budget.keep(1 + (at.end() - at.start()) / 100);
    return at.of(text);
  }

  Ident ident(String raw) {
    return Ident.of(raw, dialect);
  }

  List<Ident> idents(String... names) {
    return Arrays.stream(names).map(this::ident).toList();
  }

  List<Ident> idents(@Nullable List<Column> columns) {
    return columns == null
        ? List.of()
        : columns.stream().map(column -> ident(column.getColumnName())).toList();
  }

  /** Where a node stands in the script; the whole statement if the parser did not note it. */
  Span spanOrWhole(@Nullable Object node) {
    Span span = spanOf(node);
    return span == null ? this.span : span;
  }

  /** Where a node stands in the script; null if the parser did not note it. */
  @Nullable Span spanOf(@Nullable Object node) {
    if (node instanceof ASTNodeAccess access && access.getASTNode() != null) {
      Node ast = access.getASTNode();
      Token first = ast.jjtGetFirstToken();
      Token last = ast.jjtGetLastToken();
      if (first != null && last != null && last.absoluteEnd >= first.absoluteBegin) {
        // The parser counts from 1, and its end is the one after the last character.
        int start = first.absoluteBegin - 1;
        int end = last.absoluteEnd - 1;
        if (start >= 0 && end >= start) {
          int from = parserInput.toSource(start);
          return new Span(from, Math.max(from, parserInput.toSource(end)));
        }
      }
    }
    if (node instanceof BinaryExpression both) {
      Span left = spanOf(both.getLeftExpression());
      Span right = spanOf(both.getRightExpression());
      return left == null ? right : right == null ? left : left.or(right);
    }
    if (node instanceof Iterable<?> list) {
      Span all = null;
      for (Object item : list) {
        Span one = item instanceof Expression ? spanOf(item) : null;
        all = all == null ? one : one == null ? all : all.or(one);
      }
      return all;
    }
    return null;
  }
}
