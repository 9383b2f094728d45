package longthread.core.sql;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.select.FromItem;
import net.sf.jsqlparser.statement.select.Join;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.update.UpdateSet;
import org.jspecify.annotations.Nullable;

/**
 * Reads the tables and assignments of statements that change rows: SET a = …, ON CONFLICT, MERGE.
 */
final class Assignments {
  private final Context context;
  private final QueryReader queries;

  Assignments(Context context, QueryReader queries) {
    this.context = context;
    this.queries = queries;
  }

  /** Adds the columns that assignments set; a column that is there gets another alternative. */
  void assign(Relation result, List<UpdateSet> sets, Scope scope, @Nullable Relation source) {
    assign(result, sets, scope, source, new Uses());
  }

  /** Assigns as above, where something decides whether that is done. */
  void assign(
      Relation result, List<UpdateSet> sets, Scope scope, @Nullable Relation source, Uses onlyIf) {
    Map<String, Uses> set = new LinkedHashMap<>();
    Map<String, @Nullable Span> spans = new LinkedHashMap<>();
    for (UpdateSet one : sets) {
      List<Column> columns = List.copyOf(one.getColumns());
      List<?> values = one.getValues();
      boolean query = values.size() == 1 && values.get(0) instanceof Select && columns.size() > 1;
      if (query) {
        Relation rows = queries.scalar((Select) values.get(0), scope);
        for (int i = 0; i < Math.min(columns.size(), rows.fields().size()); i++) {
          Uses uses = Uses.of(rows.fields().get(i), Flow.IDENTITY);
          uses.rowsOf.add(rows);
          put(columns.get(i), uses, context.spanOf(values.get(0)), set, spans);
        }
        continue;
      }
      if (values.size() == 1 && values.get(0) instanceof List<?> inner && columns.size() > 1) {
        values = inner;
      }
      for (int i = 0; i < Math.min(columns.size(), values.size()); i++) {
        if (columns.get(i).getColumnName().equals(ParserInput.ALL) && source != null) {
          source.fields().forEach(f -> set.put(f.name(), Uses.of(f, Flow.IDENTITY)));
          source.stars().forEach(result::addStar);
          if (source.isTable() && source.open()) {
            result.addStar(source);
          }
          continue;
        }
        Expression value = (Expression) values.get(i);
        Uses uses = queries.expressions().read(value, scope);
        put(columns.get(i), uses, context.spanOf(value), set, spans);
      }
    }
    set.forEach(
        (name, uses) -> {
          uses.add(onlyIf.copy());
          Field there = result.find(new Ident(name, false));
          if (there != null) {
            there.uses().add(uses);
          } else {
            result.add(name, null, uses, spans.get(name));
          }
        });
  }

  private void put(
      Column column,
      Uses uses,
      @Nullable Span span,
      Map<String, Uses> set,
      Map<String, @Nullable Span> spans) {
    String name = context.ident(column.getColumnName()).name();
    set.merge(
        name,
        uses,
        (one, other) -> {
          one.add(other);
          return one;
        });
    spans.putIfAbsent(name, span);
  }

  static void add(Relation result, String name, Uses uses, @Nullable Span span) {
    Field there = result.find(new Ident(name, false));
    if (there != null) {
      there.uses().add(uses);
    } else {
      result.add(name, null, uses, span);
    }
  }

  Relation targetRelation(List<Ident> target, Table table) {
    Relation temporary = context.tables().temporary(target);
    return temporary != null ? temporary : queries.stored(target, context.spanOf(table));
  }

  List<Ident> aliased(Table table, List<Ident> name) {
    return table.getAlias() == null ? name : List.of(context.ident(table.getAlias().getName()));
  }

  void joins(@Nullable FromItem item, @Nullable List<Join> joins, Scope scope, Relation result) {
    if (item != null) {
      var first = new Join();
      first.setSimple(true);
      first.setFromItem(item);
      queries.from().join(first, scope, result);
    }
    if (joins != null) {
      joins.forEach(join -> queries.from().join(join, scope, result));
    }
  }

  void onlyIf(@Nullable Expression condition, Scope scope, Relation result) {
    if (condition != null) {
      result.rows.addDeciding(queries.expressions().read(condition, scope), Flow.FILTER);
    }
  }
}
