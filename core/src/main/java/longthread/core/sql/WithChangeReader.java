package longthread.core.sql;

import java.util.List;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.statement.delete.Delete;
import net.sf.jsqlparser.statement.delete.ParenthesedDelete;
import net.sf.jsqlparser.statement.insert.Insert;
import net.sf.jsqlparser.statement.insert.ParenthesedInsert;
import net.sf.jsqlparser.statement.select.WithItem;
import net.sf.jsqlparser.statement.update.ParenthesedUpdate;
import net.sf.jsqlparser.statement.update.Update;
import org.jspecify.annotations.Nullable;

/**
 * Reads statements that change data from within a WITH; what they return is a table to the query.
 */
final class WithChangeReader implements QueryReader.Modifying {
  private final Context context;
  private final QueryReader queries;
  private final Assignments assignments;
  private final InsertReader inserts;
  private final ChangeReader changes;
  private final ReturningReader returning;

  WithChangeReader(
      Context context,
      QueryReader queries,
      Assignments assignments,
      InsertReader inserts,
      ChangeReader changes,
      ReturningReader returning) {
    this.context = context;
    this.queries = queries;
    this.assignments = assignments;
    this.inserts = inserts;
    this.changes = changes;
    this.returning = returning;
  }

  @Override
  public @Nullable Relation read(WithItem<?> item, String name) {
    Relation returned = returnedBy(item.getParenthesedStatement(), name);
    if (returned == null) {
      return null;
    }
    var cte = new Relation(Relation.Kind.CTE, name, returned.span());
    for (Field field : returned.fields()) {
      if (returned.isKnown(field)) {
        cte.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
      }
    }
    returned.stars().forEach(cte::addStar);
    cte.from.add(returned);
    return cte;
  }

  private @Nullable Relation returnedBy(@Nullable Object statement, String name) {
    if (statement instanceof Insert outer) {
      Insert insert =
          outer instanceof ParenthesedInsert p && p.getInsert() != null ? p.getInsert() : outer;
      Relation rows = queries.within(insert.getWithItemsList(), () -> inserts.insert(insert));
      List<Ident> target =
          assignments.aliased(insert.getTable(), queries.nameOf(insert.getTable()));
      return rows == null
          ? null
          : returning.read(insert.getReturningClause(), null, target, rows, new Scope(null));
    }
    if (statement instanceof Update outer) {
      Update update =
          outer instanceof ParenthesedUpdate p && p.getUpdate() != null ? p.getUpdate() : outer;
      return queries.within(update.getWithItemsList(), () -> changes.update(update));
    }
    if (statement instanceof Delete outer) {
      Delete delete =
          outer instanceof ParenthesedDelete p && p.getDelete() != null ? p.getDelete() : outer;
      return queries.within(delete.getWithItemsList(), () -> changes.delete(delete));
    }
    context.problem("What " + name + " does within WITH is not understood.", null);
    return null;
  }
}
