package longthread.service.sql;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.core.sql.Constant;
import longthread.core.sql.Dialect;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.KnownTables;
import longthread.core.sql.SqlProblem;
import longthread.core.sql.SqlReader;
import longthread.core.sql.SqlStatement;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;

/** Column lineage of SQL text, as answers show it; nothing is stored and no asset is made. */
@Service
public class SqlLineage {
  private static final int MAX_LENGTH = 4_000_000;

  public record SqlColumn(String name, @Nullable String type) {}

  /**
   * A text to read.
   *
   * @param dialect ansi, postgres, backtick or bracket; ansi if it is left out
   * @param defaultNamespace put before the names of tables in the answer's references
   * @param defaultSchema where unqualified names are looked up
   * @param schemas the columns of tables, by their names
   */
  public record SqlRequest(
      @Nullable String sql,
      @Nullable String dialect,
      @Nullable String defaultNamespace,
      @Nullable String defaultSchema,
      @Nullable Map<String, List<SqlColumn>> schemas) {}

  /** A stretch of the text in UTF-16 units, the end excluded, and the step it belongs to. */
  public record SqlSpan(int start, int end, @Nullable String step, @Nullable String column) {}

  /**
   * A column of a table.
   *
   * @param ref its reference, if a default namespace was given
   * @param possible whether it is one of several that a name may mean
   */
  public record SqlSource(
      String table,
      String column,
      String subtype,
      String how,
      boolean masked,
      boolean possible,
      @Nullable String ref) {}

  public record SqlConstant(String text, int start, int end) {}

  /**
   * An output column.
   *
   * @param constant the values it has on branches that come from no table; null if there are none
   * @param fromRows the tables whose rows it counts or ranks; of a constant, those it stands beside
   */
  public record SqlOutput(
      String name,
      List<SqlSource> direct,
      List<SqlSource> indirect,
      @Nullable String constant,
      List<SqlConstant> constants,
      List<String> fromRows,
      List<SqlSpan> spans) {}

  public record SqlStepUse(
      String of, boolean step, String column, String subtype, String how, boolean masked) {}

  /**
   * A column of a step.
   *
   * @param expression the text that computes it, where the steps have no common text
   * @param inPlace whether it is computed under the very name of a column it is made of
   */
  public record SqlStepColumn(
      String name,
      @Nullable SqlSpan span,
      @Nullable String expression,
      List<SqlStepUse> direct,
      List<SqlStepUse> indirect,
      List<SqlConstant> constants,
      boolean inPlace) {}

  public record SqlStep(
      String name,
      String kind,
      @Nullable SqlSpan span,
      List<SqlStepColumn> columns,
      List<SqlStepUse> rows,
      List<String> from) {}

  public record SqlNote(String detail, int start, int end) {}

  /** What a statement says; see the contract for each member. */
  public record SqlStatementLineage(
      int statement,
      int start,
      int end,
      String kind,
      @Nullable String target,
      boolean temporary,
      List<SqlOutput> outputs,
      List<SqlSource> rows,
      List<String> reads,
      List<SqlStep> steps,
      boolean complete,
      List<SqlNote> problems) {}

  private final SqlReader reader;

  SqlLineage(SqlReader reader) {
    this.reader = reader;
  }

  /** Reads a text, statement by statement; there is always at least one entry. */
  public List<SqlStatementLineage> read(SqlRequest request) {
    String sql = request.sql();
    if (sql == null || sql.isBlank()) {
      throw ProblemException.badRequest(
          "no-sql", "the body has no sql; send {\"sql\": \"select …\"}");
    }
    if (sql.length() > MAX_LENGTH) {
      throw ProblemException.badRequest(
          "sql-too-long",
          "the text has " + sql.length() + " characters; send at most " + MAX_LENGTH + " at once");
    }
    Dialect dialect = dialect(request.dialect());
    Map<String, List<KnownColumn>> known = new LinkedHashMap<>();
    if (request.schemas() != null) {
      request
          .schemas()
          .forEach(
              (table, columns) ->
                  known.put(
                      table,
                      columns.stream().map(c -> new KnownColumn(c.name(), c.type())).toList()));
    }
    String schema = request.defaultSchema();
    var tables =
        new KnownTables(known, schema == null || schema.isBlank() ? List.of() : List.of(schema));
    List<SqlStatementLineage> statements =
        reader.read(sql, dialect, tables).stream()
            .map(statement -> statement(statement, request.defaultNamespace()))
            .toList();
    return statements.isEmpty() ? List.of(withoutData(sql)) : statements;
  }

  /** Said of a text in which nothing reads or writes data: an empty answer could be a failure. */
  private static SqlStatementLineage withoutData(String sql) {
    return new SqlStatementLineage(
        0,
        0,
        sql.length(),
        "no-data",
        null,
        false,
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        true,
        List.of(new SqlNote("Nothing in this text reads or writes data.", 0, sql.length())));
  }

  private static Dialect dialect(@Nullable String word) {
    if (word == null || word.isBlank()) {
      return Dialect.ANSI;
    }
    return Dialect.of(word)
        .orElseThrow(
            () ->
                ProblemException.badRequest(
                    "unknown-dialect",
                    word + " is not a dialect; use ansi, postgres, backtick or bracket"));
  }

  /**
   * A statement as it is answered.
   *
   * @param namespace put before tables to make references; null to leave those out
   */
  public static SqlStatementLineage statement(SqlStatement statement, @Nullable String namespace) {
    return new SqlStatementLineage(
        statement.number(),
        statement.span().start(),
        statement.span().end(),
        statement.kind(),
        statement.target(),
        statement.temporary(),
        statement.outputs().stream().map(output -> output(output, namespace)).toList(),
        sources(statement.rows(), namespace),
        statement.reads(),
        statement.steps().stream().map(SqlLineage::step).toList(),
        statement.complete(),
        statement.problems().stream().map(SqlLineage::problem).toList());
  }

  private static SqlNote problem(SqlProblem problem) {
    return new SqlNote(problem.what(), problem.span().start(), problem.span().end());
  }

  private static SqlOutput output(SqlStatement.Output output, @Nullable String namespace) {
    List<SqlConstant> constants = constants(output.constants());
    return new SqlOutput(
        output.name(),
        sources(output.direct(), namespace),
        sources(output.indirect(), namespace),
        constants.isEmpty()
            ? null
            : String.join(" or ", constants.stream().map(SqlConstant::text).toList()),
        constants,
        output.fromRows(),
        output.spans().stream()
            .map(s -> new SqlSpan(s.span().start(), s.span().end(), s.step(), s.column()))
            .toList());
  }

  private static List<SqlConstant> constants(List<Constant> constants) {
    return constants.stream()
        .map(c -> new SqlConstant(c.text(), c.span().start(), c.span().end()))
        .toList();
  }

  private static List<SqlSource> sources(
      List<SqlStatement.Source> sources, @Nullable String namespace) {
    var list = new ArrayList<SqlSource>();
    for (SqlStatement.Source source : sources) {
      list.add(
          new SqlSource(
              source.table(),
              source.column(),
              source.flow().name(),
              source.flow().words(),
              source.masked(),
              source.possible(),
              namespace == null || namespace.isBlank()
                  ? null
                  : namespace + "/" + source.table() + "#" + source.column()));
    }
    return list;
  }

  private static SqlStep step(SqlStatement.Step step) {
    return new SqlStep(
        step.name(),
        step.kind(),
        step.span() == null
            ? null
            : new SqlSpan(step.span().start(), step.span().end(), step.name(), null),
        step.columns().stream().map(column -> column(step.name(), column)).toList(),
        uses(step.rows()),
        step.from());
  }

  private static SqlStepColumn column(String step, SqlStatement.StepColumn column) {
    return new SqlStepColumn(
        column.name(),
        column.span() == null
            ? null
            : new SqlSpan(column.span().start(), column.span().end(), step, column.name()),
        null,
        uses(column.direct()),
        uses(column.indirect()),
        constants(column.constants()),
        column.inPlace());
  }

  private static List<SqlStepUse> uses(List<SqlStatement.StepUse> uses) {
    return uses.stream()
        .map(
            u ->
                new SqlStepUse(
                    u.of(), u.isStep(), u.column(), u.flow().name(), u.flow().words(), u.masked()))
        .toList();
  }
}
