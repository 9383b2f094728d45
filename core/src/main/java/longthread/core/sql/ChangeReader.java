package longthread.core.sql;

import java.util.List;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.delete.Delete;
import net.sf.jsqlparser.statement.update.Update;
import net.sf.jsqlparser.statement.update.UpdateSet;
import org.jspecify.annotations.Nullable;

/** Reads statements that change or delete rows that are there. */
final class ChangeReader {
  private final Context context;
  private final QueryReader queries;
  private final Writes writes;
  private final Assignments assignments;
  private final ReturningReader returning;

  ChangeReader(
      Context context,
      QueryReader queries,
      Writes writes,
      Assignments assignments,
      ReturningReader returning) {
    this.context = context;
    this.queries = queries;
    this.writes = writes;
    this.assignments = assignments;
    this.returning = returning;
  }

  /** What its RETURNING yields; null without one. */
  @Nullable Relation update(Update update) {
    List<Ident> target = queries.nameOf(update.getTable());
    if (throughWith("update", target, update.getTable())) {
      return null;
    }
    var scope = new Scope(null);
    var result = new Relation(Relation.Kind.RESULT, "result", context.span());
    Relation table = assignments.targetRelation(target, update.getTable());
    List<Ident> named = assignments.aliased(update.getTable(), target);
    if (update.getStartJoins() != null) {
      scope.add(new Scope.Entry(named, table));
      update.getStartJoins().forEach(join -> queries.from().join(join, scope, result));
    }
    assignments.joins(update.getFromItem(), update.getJoins(), scope, result);
    Scope.Entry own = scope.named(named);
    // UPDATE x … FROM t x names its target by an alias that stands in FROM.
    if (own != null && update.getStartJoins() == null && own.relation() != table) {
      table = own.relation();
      target = List.of(new Ident(table.name(), true));
    } else if (own == null) {
      scope.add(new Scope.Entry(named, table));
    }
    List<UpdateSet> sets = update.getUpdateSets();
    assignments.assign(result, sets == null ? List.of() : sets, scope, null);
    if (update.getWhere() != null) {
      result.rows.addDeciding(queries.expressions().read(update.getWhere(), scope), Flow.FILTER);
    }
    for (Relation relation : scope.relations()) {
      if (relation != table) {
        result.from.add(relation);
      }
    }
    writes.changed("update", target, table, result, false);
    return returning.read(update.getReturningClause(), table, named, result, scope);
  }

  /**
   * Whether a change goes through a WITH to the table that this is made of. Which of its columns
   * are which is not followed: the table is named, with what stays open.
   */
  private boolean throughWith(String kind, List<Ident> target, Table named) {
    Relation with = queries.with(target);
    if (with == null) {
      return false;
    }
    context.problem(
        "A change through WITH "
            + with.name()
            + " is followed to its tables only, not to their columns.",
        context.spanOf(named));
    List<Relation> tables = tablesBehind(with);
    String name = tables.size() == 1 ? tables.get(0).name() : null;
    var result = new Relation(Relation.Kind.RESULT, "result", context.span());
    result.from.add(with);
    result.rows.addDeciding(with.rows, Flow.FILTER);
    writes.emit(kind, name, false, result, List.of());
    return true;
  }

  private static List<Relation> tablesBehind(Relation relation) {
    var found = new java.util.LinkedHashSet<Relation>();
    var open = new java.util.ArrayDeque<Relation>(relation.from);
    while (!open.isEmpty()) {
      Relation next = open.poll();
      if (next.isTable()) {
        found.add(next);
      } else {
        open.addAll(next.from);
      }
    }
    return List.copyOf(found);
  }

  /** What its RETURNING yields; null without one. */
  @Nullable Relation delete(Delete delete) {
    Table named = delete.getTable();
    List<Ident> target = queries.nameOf(named);
    if (throughWith("delete", target, named)) {
      return null;
    }
    var scope = new Scope(null);
    var result = new Relation(Relation.Kind.RESULT, "result", context.span());
    Relation table = assignments.targetRelation(target, named);
    List<Ident> alias = assignments.aliased(named, target);
    scope.add(new Scope.Entry(alias, table));
    if (delete.getUsingFromItemList() != null) {
      delete.getUsingFromItemList().forEach(item -> assignments.joins(item, null, scope, result));
    } else if (delete.getUsingList() != null) {
      delete.getUsingList().forEach(item -> assignments.joins(item, null, scope, result));
    }
    assignments.joins(null, delete.getJoins(), scope, result);
    if (delete.getWhere() != null) {
      result.rows.addDeciding(queries.expressions().read(delete.getWhere(), scope), Flow.FILTER);
    }
    for (Relation relation : scope.relations()) {
      if (relation != table) {
        result.from.add(relation);
      }
    }
    if (delete.getTables() != null && !delete.getTables().isEmpty()) {
      Scope.Entry own = scope.named(queries.nameOf(delete.getTables().get(0)));
      if (own != null && own.relation().isTable()) {
        writes.emit("delete", own.relation().name(), false, result, List.of());
        return null;
      }
    }
    writes.changed("delete", target, table, result, true);
    return returning.read(delete.getReturningClause(), table, alias, result, scope);
  }
}
