package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.Supplier;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.LongValue;
import net.sf.jsqlparser.expression.WindowDefinition;
import net.sf.jsqlparser.expression.operators.relational.ExpressionList;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.select.GroupByElement;
import net.sf.jsqlparser.statement.select.OrderByElement;
import net.sf.jsqlparser.statement.select.ParenthesedSelect;
import net.sf.jsqlparser.statement.select.PlainSelect;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.select.SelectItem;
import net.sf.jsqlparser.statement.select.SetOperationList;
import net.sf.jsqlparser.statement.select.TableStatement;
import net.sf.jsqlparser.statement.select.Values;
import net.sf.jsqlparser.statement.select.WithItem;
import org.jspecify.annotations.Nullable;

/** Reads queries into relations. */
final class QueryReader {
  private final Context context;
  private final ExpressionReader expressions;
  private final SelectList outputs;
  private final FromReader from;
  private final WithReader with;
  private final Map<String, Relation> stored = new HashMap<>();

  /** Takes the statements that change data from within a WITH; answers with what they return. */
  interface Modifying {
    @Nullable Relation read(WithItem<?> item, String name);
  }

  QueryReader(Context context, Modifying modifying) {
    this.context = context;
    this.with = new WithReader(context, this, modifying);
    this.expressions = new ExpressionReader(context, this);
    this.outputs = new SelectList(context, expressions, this);
    this.from = new FromReader(context, expressions, this, outputs);
  }

  ExpressionReader expressions() {
    return expressions;
  }

  SelectList outputs() {
    return outputs;
  }

  FromReader from() {
    return from;
  }

  /** Reads what stands after a WITH, with its expressions known. */
  <T extends @Nullable Object> T within(@Nullable List<WithItem<?>> items, Supplier<T> body) {
    with.enter(items);
    try {
      return body.get();
    } finally {
      with.leave();
    }
  }

  Relation branch(Select select, @Nullable Scope outer, String of, int number) {
    return read(select, outer, Relation.Kind.BRANCH, of + " branch " + number, List.of());
  }

  // ------------------------------------------------------------------- queries

  /** A query that stands within an expression. */
  Relation scalar(Select select, Scope around) {
    Map<String, WindowDefinition> before = expressions.functions().use(null);
    try {
      String name = "subquery " + context.nextUnnamed();
      return read(select, around, Relation.Kind.SCALAR, name, List.of());
    } finally {
      expressions.functions().restore(before);
    }
  }

  /**
   * Reads a query.
   *
   * @param outer the scope around it, if its names may mean something there
   * @param as names that replace those of its first columns
   */
  Relation read(
      Select select, @Nullable Scope outer, Relation.Kind kind, String name, List<Ident> as) {
    return within(select.getWithItemsList(), () -> body(select, outer, kind, name, as));
  }

  private Relation body(
      Select select, @Nullable Scope outer, Relation.Kind kind, String name, List<Ident> as) {
    if (select instanceof ParenthesedSelect inner) {
      return parenthesed(inner, outer, kind, name, as);
    }
    if (select instanceof PlainSelect plain) {
      return plain(plain, outer, kind, name, as);
    }
    if (select instanceof SetOperationList list) {
      return setOperation(list, outer, kind, name, as);
    }
    if (select instanceof Values values) {
      return values(values, outer, kind, name, as);
    }
    var result = new Relation(kind, name, context.spanOf(select));
    if (select instanceof TableStatement table) {
      Relation source = relation(table.getTable());
      result.from.add(source);
      outputs.star(result, new Scope.Entry(List.of(), source), as);
    } else {
      context.problem(
          "A query of this form is not understood: " + select.getClass().getSimpleName() + ".",
          context.spanOf(select));
    }
    return result;
  }

  private Relation parenthesed(
      ParenthesedSelect outerSelect,
      @Nullable Scope outer,
      Relation.Kind kind,
      String name,
      List<Ident> as) {
    boolean limited = isLimited(outerSelect) && outerSelect.getOrderByElements() != null;
    Relation result = read(outerSelect.getSelect(), outer, kind, name, as);
    if (limited) {
      sortRows(result, outerSelect.getOrderByElements(), new Scope(outer), result);
    }
    return result;
  }

  private static boolean isLimited(Select select) {
    return select.getLimit() != null || select.getFetch() != null || select.getOffset() != null;
  }

  private Relation plain(
      PlainSelect select, @Nullable Scope outer, Relation.Kind kind, String name, List<Ident> as) {
    var scope = new Scope(outer);
    var result = new Relation(kind, name, context.spanOf(select));
    if (select.getFromItem() != null) {
      from.from(select.getFromItem(), scope, result, false);
    }
    if (select.getJoins() != null) {
      select.getJoins().forEach(join -> from.join(join, scope, result));
    }
    if (select.getLateralViews() != null) {
      select.getLateralViews().forEach(view -> from.lateralView(view, scope, result));
    }
    Map<String, WindowDefinition> windows =
        expressions.functions().use(select.getWindowDefinitions());
    try {
      decideRows(result, select.getWhere(), scope, Flow.FILTER);
      decideRows(result, select.getPreWhere(), scope, Flow.FILTER);
      if (select.getOracleHierarchical() != null) {
        decideRows(result, select.getOracleHierarchical().getStartExpression(), scope, Flow.FILTER);
        decideRows(result, select.getOracleHierarchical().getConnectExpression(), scope, Flow.JOIN);
      }
      outputs.outputs(select.getSelectItems(), scope, result, as);
      group(select.getGroupBy(), scope, result);
      scope.preferGiven(true);
      decideRows(result, select.getHaving(), scope, Flow.FILTER);
      decideRows(result, select.getQualify(), scope, Flow.FILTER);
      scope.preferGiven(false);
      distinct(select, scope, result);
      boolean first =
          select.getDistinct() != null && select.getDistinct().getOnSelectItems() != null;
      boolean limited =
          isLimited(select)
              || select.getLimitBy() != null
              || select.getTop() != null
              || select.getFirst() != null
              || first;
      limitRows(result, select, new Scope(outer));
      if (limited && select.getOrderByElements() != null) {
        sortRows(result, select.getOrderByElements(), scope, result);
      }
      if (select.getLimitBy() != null && select.getLimitBy().getByExpressions() != null) {
        select
            .getLimitBy()
            .getByExpressions()
            .forEach(e -> decideRows(result, (Expression) e, scope, Flow.GROUP_BY));
      }
    } finally {
      expressions.functions().restore(windows);
    }
    return result;
  }

  /** What a limit or an offset is reckoned from decides how many rows there are. */
  private void limitRows(Relation result, Select select, Scope scope) {
    if (select.getLimit() != null) {
      decideRows(result, select.getLimit().getRowCount(), scope, Flow.FILTER);
      decideRows(result, select.getLimit().getOffset(), scope, Flow.FILTER);
    }
    if (select.getOffset() != null) {
      decideRows(result, select.getOffset().getOffset(), scope, Flow.FILTER);
    }
    if (select.getFetch() != null) {
      decideRows(result, select.getFetch().getExpression(), scope, Flow.FILTER);
    }
  }

  private void decideRows(
      Relation result, @Nullable Expression expression, Scope scope, Flow flow) {
    if (expression != null) {
      result.rows.addDeciding(expressions.read(expression, scope), flow);
    }
  }

  // --------------------------------------------------------- grouping, sorting

  private void group(@Nullable GroupByElement group, Scope scope, Relation result) {
    if (group == null) {
      return;
    }
    if (group.getGroupByExpressionList() != null) {
      if (group.getGroupByExpressionList().size() == 1
          && "ALL".equalsIgnoreCase(group.getGroupByExpressionList().get(0).toString())) {
        for (Field field : List.copyOf(result.fields())) {
          if (field.uses().counted.isEmpty()
              && field.uses().direct.values().stream()
                  .noneMatch(how -> how.flow() == Flow.AGGREGATION)) {
            result.rows.addDeciding(field.uses(), Flow.GROUP_BY);
          }
        }
        return;
      }
      for (Object expression : group.getGroupByExpressionList()) {
        groupBy((Expression) expression, scope, result);
      }
    }
    if (group.getGroupingSets() != null) {
      for (ExpressionList<?> set : group.getGroupingSets()) {
        for (Object expression : set) {
          groupBy((Expression) expression, scope, result);
        }
      }
    }
  }

  private void groupBy(Expression expression, Scope scope, Relation result) {
    Field output = positioned(expression, result);
    if (output == null && expression instanceof Column column && column.getTable() == null) {
      List<Ident> name = List.of(context.ident(column.getColumnName()));
      if (scope.resolveKnown(name) == null) {
        output = scope.givenAs(name.get(0));
      }
    }
    Uses uses = output != null ? output.uses() : expressions.read(expression, scope);
    result.rows.addDeciding(uses, Flow.GROUP_BY);
  }

  /** The output that a number in GROUP BY or ORDER BY means; null if it is none. */
  private static @Nullable Field positioned(Expression expression, Relation result) {
    if (expression instanceof LongValue number) {
      long position = number.getValue();
      if (position >= 1 && position <= result.fields().size()) {
        return result.fields().get((int) position - 1);
      }
    }
    return null;
  }

  private void distinct(PlainSelect select, Scope scope, Relation result) {
    if (select.getDistinct() == null) {
      return;
    }
    if (select.getDistinct().getOnSelectItems() == null) {
      result.fields().forEach(f -> result.rows.addDeciding(f.uses(), Flow.GROUP_BY));
    } else {
      for (SelectItem<?> item : select.getDistinct().getOnSelectItems()) {
        groupBy(item.getExpression(), scope, result);
      }
    }
  }

  private void sortRows(
      Relation result, List<OrderByElement> elements, Scope scope, Relation outputs) {
    for (OrderByElement element : elements) {
      Field output = positioned(element.getExpression(), outputs);
      if (output == null
          && element.getExpression() instanceof Column column
          && column.getTable() == null) {
        output = outputs.find(context.ident(column.getColumnName()));
      }
      Uses uses = output != null ? output.uses() : expressions.read(element.getExpression(), scope);
      result.rows.addDeciding(uses, Flow.SORT);
    }
  }

  // ------------------------------------------------------------ set operations

  private Relation setOperation(
      SetOperationList list,
      @Nullable Scope outer,
      Relation.Kind kind,
      String name,
      List<Ident> as) {
    var result = new Relation(kind, name, context.spanOf(list));
    var operations = new SetOperations(list.getOperations());
    var branches = new ArrayList<Relation>();
    for (int i = 0; i < list.getSelects().size(); i++) {
      branches.add(branch(list.getSelects().get(i), outer, name, i + 1));
    }
    boolean byName =
        list.getOperations().stream()
            .anyMatch(o -> o.toString().toUpperCase(Locale.ROOT).contains("BY NAME"));
    Relation first = branches.get(0);
    for (int c = 0; c < first.fields().size(); c++) {
      Field own = first.fields().get(c);
      var uses = new Uses();
      for (int b = 0; b < branches.size(); b++) {
        Field other = b == 0 ? own : sameColumn(branches.get(b), own, c, byName);
        if (other != null && operations.yields(b)) {
          uses.add(Uses.of(other, Flow.IDENTITY));
        }
      }
      result.add(c < as.size() ? as.get(c).name() : own.name(), own.type(), uses, null);
    }
    for (int b = 0; b < branches.size(); b++) {
      Relation branch = branches.get(b);
      result.from.add(branch);
      if (operations.yields(b) && branch.open()) {
        result.addStar(branch);
      }
      if (branch.fields().size() != first.fields().size() && !branch.open() && !first.open()) {
        context.problem(
            "The branches of this set operation have different numbers of columns.",
            context.spanOf(list));
      }
    }
    operations.decideRows(result, branches);
    limitRows(result, list, new Scope(outer));
    if (isLimited(list) && list.getOrderByElements() != null) {
      sortRows(result, list.getOrderByElements(), new Scope(outer), result);
    }
    return result;
  }

  private static @Nullable Field sameColumn(
      Relation branch, Field own, int position, boolean byName) {
    if (byName) {
      return branch.find(new Ident(own.name(), false));
    }
    return position < branch.fields().size() ? branch.fields().get(position) : null;
  }

  private Relation values(
      Values values, @Nullable Scope outer, Relation.Kind kind, String name, List<Ident> as) {
    var result = new Relation(kind, name, context.spanOf(values));
    var scope = new Scope(outer);
    var columns = new ArrayList<Uses>();
    var spans = new ArrayList<@Nullable Span>();
    ExpressionList<?> all = values.getExpressions();
    boolean rows = !all.isEmpty() && all.stream().allMatch(ExpressionList.class::isInstance);
    List<List<?>> lines = new ArrayList<>();
    if (rows) {
      all.forEach(line -> lines.add((List<?>) line));
    } else {
      lines.add(all);
    }
    for (List<?> line : lines) {
      for (int i = 0; i < line.size(); i++) {
        if (i == columns.size()) {
          columns.add(new Uses());
          spans.add(context.spanOf(line.get(i)));
        }
        columns.get(i).add(expressions.read((Expression) line.get(i), scope));
      }
    }
    for (int i = 0; i < columns.size(); i++) {
      String column = i < as.size() ? as.get(i).name() : "column" + (i + 1);
      result.add(column, null, columns.get(i), spans.get(i));
    }
    return result;
  }

  // -------------------------------------------------------------------- tables

  /** The parts of a table's name, last one last. */
  List<Ident> nameOf(Table table) {
    var parts = new ArrayList<Ident>();
    List<String> names = table.getNameParts();
    for (int i = names.size() - 1; i >= 0; i--) {
      String part = names.get(i);
      if (part == null || part.isEmpty()) {
        continue;
      }
      boolean several = part.length() > 2 && part.startsWith("`") && part.indexOf('.') > 0;
      if (several) {
        for (String inner : part.substring(1, part.length() - 1).split("\\.")) {
          parts.add(new Ident(inner, false));
        }
      } else {
        parts.add(context.ident(part));
      }
    }
    return parts;
  }

  /** The relation that a table's name means: a WITH, a temporary table, or a stored one. */
  Relation relation(Table table) {
    List<Ident> parts = nameOf(table);
    Relation cte = parts.size() == 1 ? with.find(parts.get(0)) : null;
    if (cte != null) {
      return cte;
    }
    Relation temporary = context.tables().temporary(parts);
    if (temporary != null) {
      return temporary;
    }
    return stored(parts, context.spanOf(table));
  }

  /** The WITH that a name means; null if it means none. */
  @Nullable Relation with(List<Ident> parts) {
    return parts.size() == 1 ? with.find(parts.get(0)) : null;
  }

  /** A stored table, one object for all its mentions in the statement. */
  Relation stored(List<Ident> parts, @Nullable Span at) {
    KnownTables.Found found = context.tables().fullName(parts);
    if (found.ambiguous()) {
      context.problem(
          "Several known tables end in " + found.name() + "; write its schema too.", at);
    }
    return stored.computeIfAbsent(
        found.name(), name -> Relation.table(name, context.tables().columns(name)));
  }
}
