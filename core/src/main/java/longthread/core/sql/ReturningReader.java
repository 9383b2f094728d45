package longthread.core.sql;

import java.util.List;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.statement.ReturningClause;
import net.sf.jsqlparser.statement.select.SelectItem;
import org.jspecify.annotations.Nullable;

/** Reads RETURNING clauses. */
final class ReturningReader {
  private final QueryReader queries;

  ReturningReader(QueryReader queries) {
    this.queries = queries;
  }

  /**
   * What RETURNING yields: the columns of the table as they stand after the change.
   *
   * @param table the rows as they stood before; null if there were none
   * @param around the other relations that it may name
   */
  @Nullable Relation read(
      @Nullable ReturningClause clause,
      @Nullable Relation table,
      List<Ident> named,
      Relation written,
      Scope around) {
    if (clause == null || clause.isEmpty()) {
      return null;
    }
    var after =
        new Relation(Relation.Kind.SUBQUERY, named.get(named.size() - 1).name(), written.span());
    for (Field field : written.fields()) {
      after.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
    }
    after.rows.addDeciding(written.rows, Flow.FILTER);
    after.from.addAll(written.from);
    if (table != null) {
      for (Field field : table.fields()) {
        if (table.isKnown(field) && after.find(new Ident(field.name(), true)) == null) {
          after.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
        }
      }
      if (table.open()) {
        after.addStar(table);
      }
      after.from.add(table);
    }
    var scope = new Scope(null);
    scope.add(new Scope.Entry(named, after));
    for (Scope.Entry entry : around.entries()) {
      if (entry.relation() != table) {
        scope.add(entry);
      }
    }
    var result = new Relation(Relation.Kind.SUBQUERY, "returned", written.span());
    for (SelectItem<?> item : clause) {
      queries.outputs().output(item, scope, result, List.of());
    }
    result.from.add(after);
    return result;
  }
}
