package longthread.core.sql;

import java.util.List;
import longthread.core.lineage.Flow;
import org.jspecify.annotations.Nullable;

/**
 * What one statement says of lineage.
 *
 * @param number which statement of the script it belongs to, from 0; a statement that writes to
 *     several tables yields several of these
 * @param span where the statement stands in the script
 * @param target the table or file that is written; null for a query
 * @param temporary whether the target is a step within the script and nothing outside it
 * @param outputs the columns that are written or shown, in order
 * @param rows which columns decide which rows there are
 * @param named which columns of tables the text names, whether anything of them lands or not
 * @param reads the tables that are read, sorted
 * @param steps what lies between: each common table expression, subquery, temporary table
 * @param complete whether every output column is accounted for, for certain
 */
public record SqlStatement(
    int number,
    Span span,
    String kind,
    @Nullable String target,
    boolean temporary,
    List<Output> outputs,
    List<Source> rows,
    List<Named> named,
    List<String> reads,
    List<Step> steps,
    boolean complete,
    List<SqlProblem> problems) {

  /** A column of a table that the text names. */
  public record Named(String table, String column) {}

  /** The statement as a part of another one, without places of its own. */
  SqlStatement within(Span whole) {
    return new SqlStatement(
        number,
        whole,
        kind,
        target,
        temporary,
        outputs.stream()
            .map(
                output ->
                    new Output(
                        output.name(),
                        output.direct(),
                        output.indirect(),
                        output.constants().stream()
                            .map(c -> new Constant(c.text(), whole))
                            .toList(),
                        output.fromRows(),
                        output.countsRows(),
                        List.of()))
            .toList(),
        rows,
        named,
        reads,
        List.of(),
        complete,
        problems.stream().map(p -> new SqlProblem(p.what(), whole, p.retryable())).toList());
  }

  /** The statement with its target under another name. */
  SqlStatement named(String newTarget) {
    return new SqlStatement(
        number, span, kind, newTarget, temporary, outputs, rows, named, reads, steps, complete,
        problems);
  }

  /**
   * A column of a table, and how it is used.
   *
   * @param masked whether its value cannot be read back
   * @param possible whether it is one of several columns that a name may mean
   */
  public record Source(String table, String column, Flow flow, boolean masked, boolean possible) {}

  /**
   * A column that is written or shown.
   *
   * @param direct where its value comes from
   * @param indirect what decides its value without being part of it
   * @param constants the values it has on branches that come from no table
   * @param fromRows the tables whose rows it counts or ranks; of a constant, those it stands beside
   * @param countsRows whether it really counts or ranks them
   * @param spans the text that computes it, with the step each stretch belongs to
   */
  public record Output(
      String name,
      List<Source> direct,
      List<Source> indirect,
      List<Constant> constants,
      List<String> fromRows,
      boolean countsRows,
      List<StepSpan> spans) {}

  /**
   * A stretch of text that takes part in computing a column.
   *
   * @param step the step's name; the statement's own list is {@code result}
   */
  public record StepSpan(String step, String column, Span span) {}

  /**
   * A common table expression, a subquery, a branch, a temporary table, or the statement's result.
   *
   * @param kind cte, subquery, branch, temporary, function, values, pivot or result
   * @param span where it stands; null if it has no text of its own here
   * @param from what it reads: names of steps and of tables
   */
  public record Step(
      String name,
      String kind,
      @Nullable Span span,
      List<StepColumn> columns,
      List<StepUse> rows,
      List<String> from) {}

  /**
   * A column of a step, with what it is made of one step back.
   *
   * @param inPlace whether it is computed under the very name of a column it is made of
   */
  public record StepColumn(
      String name,
      @Nullable Span span,
      List<StepUse> direct,
      List<StepUse> indirect,
      List<Constant> constants,
      boolean inPlace) {}

  /**
   * The use of a column by a later step.
   *
   * @param of a step's or a table's name
   * @param isStep whether {@code of} is a step of this statement
   */
  public record StepUse(String of, boolean isStep, String column, Flow flow, boolean masked) {}
}
