package longthread.core.sql;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.regex.Pattern;
import longthread.core.event.Flow;
import net.sf.jsqlparser.expression.Alias;
import net.sf.jsqlparser.expression.AnalyticExpression;
import net.sf.jsqlparser.expression.CaseExpression;
import net.sf.jsqlparser.expression.CastExpression;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.Function;
import net.sf.jsqlparser.expression.JsonTableFunction;
import net.sf.jsqlparser.expression.LongValue;
import net.sf.jsqlparser.expression.WindowDefinition;
import net.sf.jsqlparser.expression.operators.relational.EqualsTo;
import net.sf.jsqlparser.expression.operators.relational.ExpressionList;
import net.sf.jsqlparser.expression.operators.relational.ParenthesedExpressionList;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.select.AllColumns;
import net.sf.jsqlparser.statement.select.AllTableColumns;
import net.sf.jsqlparser.statement.select.ExceptOp;
import net.sf.jsqlparser.statement.select.FromItem;
import net.sf.jsqlparser.statement.select.GroupByElement;
import net.sf.jsqlparser.statement.select.IntersectOp;
import net.sf.jsqlparser.statement.select.Join;
import net.sf.jsqlparser.statement.select.LateralSubSelect;
import net.sf.jsqlparser.statement.select.LateralView;
import net.sf.jsqlparser.statement.select.MinusOp;
import net.sf.jsqlparser.statement.select.OrderByElement;
import net.sf.jsqlparser.statement.select.ParenthesedFromItem;
import net.sf.jsqlparser.statement.select.ParenthesedSelect;
import net.sf.jsqlparser.statement.select.Pivot;
import net.sf.jsqlparser.statement.select.PlainSelect;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.select.SelectItem;
import net.sf.jsqlparser.statement.select.SetOperation;
import net.sf.jsqlparser.statement.select.SetOperationList;
import net.sf.jsqlparser.statement.select.TableFunction;
import net.sf.jsqlparser.statement.select.TableStatement;
import net.sf.jsqlparser.statement.select.UnPivot;
import net.sf.jsqlparser.statement.select.Values;
import net.sf.jsqlparser.statement.select.WithItem;
import org.jspecify.annotations.Nullable;

/** Reads queries into relations, and what stands in FROM into the scope of their names. */
final class QueryReader {
  /** The common table expressions that a name may mean, nearest first. */
  private record Ctes(@Nullable Ctes outer, Map<String, Relation> own) {
    @Nullable Relation find(Ident name) {
      Relation found = own.get(name.name().toLowerCase(Locale.ROOT));
      return found != null ? found : outer == null ? null : outer.find(name);
    }
  }

  private final Context context;
  private final ExpressionReader expressions;
  private final Modifying modifying;
  private @Nullable Ctes ctes;

  /** Takes the statements that change data from within a WITH; answers with what they return. */
  interface Modifying {
    @Nullable Relation read(WithItem<?> item, String name);
  }

  QueryReader(Context context, Modifying modifying) {
    this.context = context;
    this.modifying = modifying;
    this.expressions = new ExpressionReader(context, this);
  }

  ExpressionReader expressions() {
    return expressions;
  }

  // ------------------------------------------------------------------- WITH

  /** Makes the expressions of a WITH known until {@link #leave}. */
  void enter(@Nullable List<WithItem<?>> items) {
    ctes = new Ctes(ctes, new HashMap<>());
    if (items != null) {
      boolean recursive = items.stream().anyMatch(WithItem::isRecursive);
      items.forEach(item -> define(item, recursive));
    }
  }

  void leave() {
    ctes = Objects.requireNonNull(ctes).outer();
  }

  private void define(WithItem<?> item, boolean recursive) {
    Ident name = context.ident(item.getAliasName());
    Map<String, Relation> own = Objects.requireNonNull(ctes).own();
    String key = name.name().toLowerCase(Locale.ROOT);
    if (item.getWithFunctionDeclaration() != null) {
      context.problem("A function defined within WITH is not looked into.", null);
      return;
    }
    if (!(item.getParenthesedStatement() instanceof ParenthesedSelect body)) {
      Relation returned = modifying.read(item, name.name());
      if (returned != null) {
        own.put(key, returned);
      }
      return;
    }
    List<Ident> columns = columnNames(item);
    Select inside = unwrapped(body);
    if (inside instanceof SetOperationList list
        && list.getWithItemsList() == null
        && (recursive || namesItself(list, name))) {
      own.put(key, recursive(name.name(), columns, list, own, key));
    } else {
      own.put(key, read(body, null, Relation.Kind.CTE, name.name(), columns));
    }
  }

  /** Some databases know a recursive expression by its naming itself, without the word. */
  private boolean namesItself(SetOperationList list, Ident name) {
    if (context.dialect() == Dialect.POSTGRES || context.dialect() == Dialect.ANSI) {
      return false;
    }
    var word = Pattern.compile("(?i)(?<![\\w.])" + Pattern.quote(name.name()) + "(?!\\w)");
    for (Select branch : list.getSelects().subList(1, list.getSelects().size())) {
      Span span = context.spanOf(branch);
      if (span != null && word.matcher(context.textOf(span)).find()) {
        return true;
      }
    }
    return false;
  }

  private static Select unwrapped(Select select) {
    Select inner = select;
    while (inner instanceof ParenthesedSelect outer
        && outer.getWithItemsList() == null
        && outer.getSelect() != null) {
      inner = outer.getSelect();
    }
    return inner;
  }

  private List<Ident> columnNames(WithItem<?> item) {
    var names = new ArrayList<Ident>();
    if (item.getWithItemList() != null) {
      for (SelectItem<?> column : item.getWithItemList()) {
        if (column.getExpression() instanceof Column named) {
          names.add(context.ident(named.getColumnName()));
        }
      }
    }
    return names;
  }

  /**
   * A recursive expression stands on its first branch, and its later branches stand on it: they are
   * read with the relation already known by the first branch's columns.
   */
  private Relation recursive(
      String name,
      List<Ident> columns,
      SetOperationList list,
      Map<String, Relation> own,
      String key) {
    var whole = new Relation(Relation.Kind.CTE, name, context.spanOf(list));
    var union = new SetOperations(list.getOperations());
    Relation anchor = branch(list.getSelects().get(0), null, name, 1);
    for (int i = 0; i < anchor.fields().size(); i++) {
      Field field = anchor.fields().get(i);
      String as = i < columns.size() ? columns.get(i).name() : field.name();
      whole.add(as, field.type(), Uses.of(field, Flow.IDENTITY), null);
    }
    anchor.stars().forEach(whole::addStar);
    whole.from.add(anchor);
    own.put(key, whole);
    var branches = new ArrayList<Relation>(List.of(anchor));
    for (int i = 1; i < list.getSelects().size(); i++) {
      Relation next = branch(list.getSelects().get(i), null, name, i + 1);
      branches.add(next);
      for (int c = 0; c < Math.min(whole.fields().size(), next.fields().size()); c++) {
        whole.fields().get(c).uses().add(Uses.of(next.fields().get(c), Flow.IDENTITY));
      }
      whole.from.add(next);
    }
    union.decideRows(whole, branches);
    return whole;
  }

  private Relation branch(Select select, @Nullable Scope outer, String of, int number) {
    return read(select, outer, Relation.Kind.BRANCH, of + " branch " + number, List.of());
  }

  // ---------------------------------------------------------------- queries

  /** A query that stands within an expression. */
  Relation scalar(Select select, Scope around) {
    Map<String, WindowDefinition> before = expressions.use(null);
    try {
      String name = "subquery " + context.nextUnnamed();
      return read(select, around, Relation.Kind.SCALAR, name, List.of());
    } finally {
      expressions.restore(before);
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
    enter(select.getWithItemsList());
    try {
      Relation result;
      if (select instanceof ParenthesedSelect inner) {
        result = parenthesed(inner, outer, kind, name, as);
      } else if (select instanceof PlainSelect plain) {
        result = plain(plain, outer, kind, name, as);
      } else if (select instanceof SetOperationList list) {
        result = setOperation(list, outer, kind, name, as);
      } else if (select instanceof Values values) {
        result = values(values, outer, kind, name, as);
      } else if (select instanceof TableStatement table) {
        result = new Relation(kind, name, context.spanOf(select));
        Relation source = relation(table.getTable());
        result.from.add(source);
        star(result, new Scope.Entry(List.of(), source), as);
      } else {
        result = new Relation(kind, name, context.spanOf(select));
        context.problem(
            "A query of this form is not understood: " + select.getClass().getSimpleName() + ".",
            context.spanOf(select));
      }
      return result;
    } finally {
      leave();
    }
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
      from(select.getFromItem(), scope, result, false);
    }
    if (select.getJoins() != null) {
      select.getJoins().forEach(join -> join(join, scope, result));
    }
    if (select.getLateralViews() != null) {
      select.getLateralViews().forEach(view -> lateralView(view, scope, result));
    }
    Map<String, WindowDefinition> windows = expressions.use(select.getWindowDefinitions());
    try {
      decideRows(result, select.getWhere(), scope, Flow.FILTER);
      decideRows(result, select.getPreWhere(), scope, Flow.FILTER);
      if (select.getOracleHierarchical() != null) {
        decideRows(result, select.getOracleHierarchical().getStartExpression(), scope, Flow.FILTER);
        decideRows(result, select.getOracleHierarchical().getConnectExpression(), scope, Flow.JOIN);
      }
      outputs(select.getSelectItems(), scope, result, as);
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
      expressions.restore(windows);
    }
    return result;
  }

  private void decideRows(
      Relation result, @Nullable Expression expression, Scope scope, Flow flow) {
    if (expression != null) {
      result.rows.addDeciding(expressions.read(expression, scope), flow);
    }
  }

  // ---------------------------------------------------------------- outputs

  private void outputs(List<SelectItem<?>> items, Scope scope, Relation result, List<Ident> as) {
    for (SelectItem<?> item : items) {
      output(item, scope, result, as);
    }
    scope.relations().forEach(result.from::add);
  }

  /** Adds what one item of a select list yields to {@code result}. */
  void output(SelectItem<?> item, Scope scope, Relation result, List<Ident> as) {
    Expression expression = item.getExpression();
    if (context.dialect() == Dialect.BRACKET
        && expression instanceof EqualsTo named
        && named.getLeftExpression() instanceof Column alias
        && item.getAlias() == null) {
      // There, name = value gives the output its name.
      var labelled = new SelectItem<Expression>(named.getRightExpression());
      labelled.setAlias(new Alias(alias.getColumnName()));
      output(labelled, scope, result, as);
      return;
    }
    if (expression instanceof AllTableColumns all) {
      Scope.Entry entry = scope.named(nameOf(all.getTable()));
      if (entry == null) {
        starOfStruct(all, scope, result);
      } else {
        star(all, List.of(entry), scope, result, as);
      }
      return;
    }
    if (expression instanceof AllColumns all) {
      star(all, scope.entries(), scope, result, as);
      return;
    }
    Uses uses = expressions.readOutput(expression, scope, result.rows);
    int position = result.fields().size();
    String name =
        position < as.size()
            ? as.get(position).name()
            : item.getAlias() != null && item.getAlias().getName() != null
                ? context.ident(item.getAlias().getName()).name()
                : impliedName(expression, position + 1);
    Span span = context.spanOf(expression);
    Field field =
        result.add(
            name, typeOf(expression, uses), uses, span == null ? context.spanOf(item) : span);
    if (item.getAlias() != null) {
      scope.give(field);
    }
  }

  private static @Nullable String typeOf(Expression expression, Uses uses) {
    if (expression instanceof CastExpression cast && cast.getColDataType() != null) {
      return cast.getColDataType().toString();
    }
    if (expression instanceof Column && uses.direct.size() == 1) {
      return uses.direct.keySet().iterator().next().type();
    }
    return null;
  }

  private String impliedName(Expression expression, int position) {
    if (expression instanceof Column column) {
      return context.ident(column.getColumnName()).name();
    }
    if (context.dialect() == Dialect.POSTGRES || context.dialect() == Dialect.ANSI) {
      if (expression instanceof Function function) {
        return ExpressionReader.plainName(function.getName());
      }
      if (expression instanceof AnalyticExpression call) {
        return ExpressionReader.plainName(call.getName());
      }
      if (expression instanceof CaseExpression) {
        return "case";
      }
      if (expression instanceof CastExpression cast) {
        String inner = impliedName(cast.getLeftExpression(), position);
        boolean none = inner.equals("column" + position);
        return none && cast.getColDataType() != null
            ? cast.getColDataType().getDataType().toLowerCase(Locale.ROOT)
            : inner;
      }
      if (expression instanceof ParenthesedExpressionList<?> list && list.size() == 1) {
        return impliedName((Expression) list.get(0), position);
      }
      if (expression instanceof ParenthesedSelect inner
          && inner.getSelect() instanceof PlainSelect plain
          && plain.getSelectItems().size() == 1) {
        SelectItem<?> item = plain.getSelectItems().get(0);
        return item.getAlias() != null && item.getAlias().getName() != null
            ? context.ident(item.getAlias().getName()).name()
            : impliedName(item.getExpression(), position);
      }
    }
    return "column" + position;
  }

  /** {@code t.s.*}: all fields of a struct column. */
  private void starOfStruct(AllTableColumns all, Scope scope, Relation result) {
    Scope.Found found = scope.resolve(nameOf(all.getTable()));
    if (found == null || found.fields().isEmpty()) {
      context.problem("No table here is named " + all.getTable() + ".", context.spanOf(all));
      return;
    }
    var uses = new Uses();
    found.fields().forEach(f -> uses.direct(f, Uses.How.of(Flow.TRANSFORMATION)));
    result.openWith(uses);
    result.add("*", null, uses, context.spanOf(all));
    context.problem(
        "The fields of " + all.getTable() + " are not known, so its * is not expanded.",
        context.spanOf(all));
  }

  private void star(
      AllColumns all, List<Scope.Entry> entries, Scope scope, Relation result, List<Ident> as) {
    var leftOut = new HashSet<String>();
    if (all.getExceptColumns() != null) {
      all.getExceptColumns()
          .forEach(
              c -> leftOut.add(context.ident(c.getColumnName()).name().toLowerCase(Locale.ROOT)));
    }
    Map<String, SelectItem<?>> replaced = new HashMap<>();
    Map<String, String> renamed = new HashMap<>();
    if (all.getReplaceExpressions() != null) {
      for (SelectItem<?> item : all.getReplaceExpressions()) {
        if (item.getAlias() == null) {
          continue;
        }
        String alias = context.ident(item.getAlias().getName()).name();
        if (context.repaired().isRename(context.spanOf(all))
            && item.getExpression() instanceof Column column) {
          renamed.put(context.ident(column.getColumnName()).name().toLowerCase(Locale.ROOT), alias);
        } else {
          replaced.put(alias.toLowerCase(Locale.ROOT), item);
        }
      }
    }
    Span span = context.spanOf(all);
    boolean every = entries == scope.entries();
    if (every) {
      scope
          .merged()
          .values()
          .forEach(
              sources -> {
                Field first = sources.get(0);
                var uses = new Uses();
                sources.forEach(f -> uses.direct(f, Uses.How.of(Flow.IDENTITY)));
                addStarred(first.name(), first.type(), uses, span, result, as);
              });
    }
    for (Scope.Entry entry : entries) {
      for (Field field : List.copyOf(entry.relation().fields())) {
        String key = field.name().toLowerCase(Locale.ROOT);
        boolean shown = entry.relation().isKnown(field) || !entry.relation().open();
        boolean hidden = every && entry.hidden().contains(field);
        if (!shown || hidden || leftOut.contains(key)) {
          continue;
        }
        SelectItem<?> other = replaced.get(key);
        if (other != null) {
          Uses uses = expressions.read(other.getExpression(), scope);
          addStarred(field.name(), null, uses, context.spanOf(other.getExpression()), result, as);
        } else {
          addStarred(
              renamed.getOrDefault(key, field.name()),
              field.type(),
              Uses.of(field, Flow.IDENTITY),
              span,
              result,
              as);
        }
      }
      if (entry.relation().open() && !isHiddenWhole(entry)) {
        result.addStar(entry.relation());
      }
    }
  }

  private static boolean isHiddenWhole(Scope.Entry entry) {
    return entry.hidden().contains(HIDDEN);
  }

  private void addStarred(
      String name,
      @Nullable String type,
      Uses uses,
      @Nullable Span span,
      Relation result,
      List<Ident> as) {
    int position = result.fields().size();
    result.add(position < as.size() ? as.get(position).name() : name, type, uses, span);
  }

  /** Marks, among the hidden fields of an entry, that none of it is to be seen. */
  private static final Field HIDDEN =
      new Field(new Relation(Relation.Kind.VALUES, "", null), "", null, new Uses(), null);

  private void star(Relation result, Scope.Entry entry, List<Ident> as) {
    for (Field field : List.copyOf(entry.relation().fields())) {
      if (entry.relation().isKnown(field)) {
        addStarred(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null, result, as);
      }
    }
    if (entry.relation().open()) {
      result.addStar(entry.relation());
    }
  }

  // ------------------------------------------------------- grouping, sorting

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

  // ---------------------------------------------------------- set operations

  /** How the branches of a set operation come together; INTERSECT binds tighter than the others. */
  private static final class SetOperations {
    private final List<SetOperation> operations;

    SetOperations(List<SetOperation> operations) {
      this.operations = operations;
    }

    /** Whether the values of that branch arrive in the result. */
    boolean yields(int branch) {
      for (int i = branch - 1; i >= 0; i--) {
        SetOperation operation = operations.get(i);
        if (isMinus(operation)) {
          return false;
        }
        if (!(operation instanceof IntersectOp)) {
          return true;
        }
        if (i == branch - 1) {
          return false;
        }
      }
      return true;
    }

    private static boolean isMinus(SetOperation operation) {
      return operation instanceof ExceptOp || operation instanceof MinusOp;
    }

    /** Whether the values of the branch decide which rows stay. */
    void decideRows(Relation result, List<Relation> branches) {
      for (int i = 0; i < operations.size(); i++) {
        SetOperation operation = operations.get(i);
        boolean filters = isMinus(operation) || operation instanceof IntersectOp;
        if (!filters && operation.isAll()) {
          continue;
        }
        Flow flow = filters ? Flow.FILTER : Flow.GROUP_BY;
        for (int side = 0; side <= i + 1; side++) {
          boolean near = side >= i || !(operation instanceof IntersectOp);
          if (near) {
            for (Field field : branches.get(side).fields()) {
              result.rows.addDeciding(Uses.of(field, Flow.IDENTITY), flow);
            }
          }
        }
      }
    }
  }

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

  // ------------------------------------------------------------------- FROM

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
    if (parts.size() == 1 && ctes != null) {
      Relation cte = ctes.find(parts.get(0));
      if (cte != null) {
        return cte;
      }
    }
    Relation temporary = context.tables().temporary(parts);
    if (temporary != null) {
      return temporary;
    }
    return stored(parts, context.spanOf(table));
  }

  private final Map<String, Relation> stored = new HashMap<>();

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

  private void from(FromItem item, Scope scope, Relation result, boolean lateral) {
    if (item instanceof ParenthesedFromItem group && group.getAlias() == null) {
      from(group.getFromItem(), scope, result, lateral);
      if (group.getJoins() != null) {
        group.getJoins().forEach(join -> join(join, scope, result));
      }
      return;
    }
    scope.add(entry(item, scope, result, lateral));
  }

  private Scope.Entry entry(FromItem item, Scope scope, Relation result, boolean lateral) {
    Scope.Entry entry = plainEntry(item, scope, result, lateral);
    if (item.getPivot() != null) {
      entry = pivoted(entry, item.getPivot(), scope);
    }
    if (item.getUnPivot() != null) {
      entry = unpivoted(entry, item.getUnPivot(), scope);
    }
    return entry;
  }

  private Scope.Entry plainEntry(FromItem item, Scope scope, Relation result, boolean lateral) {
    Alias alias = item.getAlias();
    List<Ident> named =
        alias == null || alias.getName() == null
            ? List.of()
            : List.of(context.ident(alias.getName()));
    if (item instanceof Table table) {
      List<Ident> parts = nameOf(table);
      Scope.Entry around = parts.size() > 1 ? scope.named(parts.subList(0, 1)) : null;
      if (around != null && isAlias(around)) {
        return arrayOf(parts, alias, scope, result, context.spanOf(table));
      }
      Relation relation = relabelled(relation(table), alias);
      return new Scope.Entry(named.isEmpty() ? parts : named, relation);
    }
    if (item instanceof Select select) {
      // Only a lateral query may name what stands before it.
      Scope around = lateral || item instanceof LateralSubSelect ? scope : scope.outer();
      String name = named.isEmpty() ? "subquery " + context.nextUnnamed() : named.get(0).name();
      Relation.Kind kind = item instanceof Values ? Relation.Kind.VALUES : Relation.Kind.SUBQUERY;
      return new Scope.Entry(named, read(select, around, kind, name, columnsOf(alias)));
    }
    if (item instanceof ParenthesedFromItem group) {
      var inner = new Scope(scope.outer());
      var wrapped =
          new Relation(
              Relation.Kind.SUBQUERY,
              named.isEmpty() ? "join " + context.nextUnnamed() : named.get(0).name(),
              context.spanOf(item));
      from(group.getFromItem(), inner, wrapped, false);
      if (group.getJoins() != null) {
        group.getJoins().forEach(join -> join(join, inner, wrapped));
      }
      star(new AllColumns(), inner.entries(), inner, wrapped, columnsOf(alias));
      inner.relations().forEach(wrapped.from::add);
      return new Scope.Entry(named, wrapped);
    }
    if (item instanceof TableFunction function) {
      return function(function, alias, scope, result);
    }
    context.problem("This item of FROM is not understood.", context.spanOf(item));
    var unknown = new Relation(Relation.Kind.FUNCTION, item.toString(), context.spanOf(item));
    unknown.openWith(new Uses());
    return new Scope.Entry(named, unknown);
  }

  private static boolean isAlias(Scope.Entry entry) {
    return entry.names().size() == 1;
  }

  private List<Ident> columnsOf(@Nullable Alias alias) {
    var names = new ArrayList<Ident>();
    if (alias != null && alias.getAliasColumns() != null) {
      alias.getAliasColumns().forEach(column -> names.add(context.ident(column.name)));
    }
    return names;
  }

  /** A table under an alias that gives its columns other names too. */
  private Relation relabelled(Relation relation, @Nullable Alias alias) {
    List<Ident> names = columnsOf(alias);
    if (names.isEmpty()) {
      return relation;
    }
    var labelled = new Relation(Relation.Kind.SUBQUERY, relation.name(), null);
    star(labelled, new Scope.Entry(List.of(), relation), names);
    if (relation.open()) {
      context.problem(
          "The columns of "
              + relation.name()
              + " are not known, so those of its alias "
              + "cannot be told apart.",
          null);
      names.forEach(name -> labelled.findOrMake(name));
    }
    labelled.from.add(relation);
    return labelled;
  }

  private Scope.Entry arrayOf(
      List<Ident> column, @Nullable Alias alias, Scope scope, Relation result, @Nullable Span at) {
    Scope.Found found = scope.resolve(column);
    var uses = new Uses();
    if (found != null) {
      found.fields().forEach(f -> uses.direct(f, Uses.How.of(Flow.TRANSFORMATION)));
    }
    Ident name = alias == null ? column.get(column.size() - 1) : context.ident(alias.getName());
    var relation = new Relation(Relation.Kind.FUNCTION, name.name(), at);
    relation.add(name.name(), null, uses, at);
    relation.openWith(uses);
    result.rows.addDeciding(uses, Flow.JOIN);
    return new Scope.Entry(List.of(name), relation);
  }

  private Scope.Entry function(
      TableFunction item, @Nullable Alias alias, Scope scope, Relation result) {
    var arguments = new ArrayList<Uses>();
    var all = new Uses();
    List<Function> functions =
        item.isRowsFrom() && item.getFunctions() != null
            ? item.getFunctions()
            : List.of(item.getFunction());
    for (Function function : functions) {
      if (function == null) {
        continue;
      }
      if (function instanceof JsonTableFunction json) {
        json.getAllExpressions().forEach(e -> arguments.add(expressions.read(e, scope)));
      } else if (function.getParameters() != null) {
        for (Object argument : function.getParameters()) {
          if (argument instanceof Expression one) {
            arguments.add(expressions.read(one, scope));
          }
        }
      }
    }
    Span at = context.spanOrWhole(item);
    arguments.forEach(all::add);
    Uses made = all.computed(Flow.TRANSFORMATION, false, at, context.textOf(at));
    if (made.direct.isEmpty() && made.constants.isEmpty()) {
      made.constants.add(new Constant(context.textOf(at), at));
    }
    String function =
        functions.get(0) == null ? "" : ExpressionReader.plainName(functions.get(0).getName());
    Ident name =
        alias == null || alias.getName() == null
            ? new Ident(function, false)
            : context.ident(alias.getName());
    var relation = new Relation(Relation.Kind.FUNCTION, name.name(), at);
    List<Ident> columns = columnsOf(alias);
    boolean numbered =
        item.getWithClause() != null
            && item.getWithClause().toUpperCase(Locale.ROOT).contains("ORDINALITY");
    boolean side =
        function.equals("unnest") && arguments.size() > 1 && columns.size() >= arguments.size();
    for (int i = 0; i < columns.size(); i++) {
      Uses uses =
          side && i < arguments.size()
              ? arguments.get(i).computed(Flow.TRANSFORMATION, false, at, context.textOf(at))
              : made;
      if (numbered && i > 0 && i == columns.size() - 1) {
        uses = new Uses(); // the number of the row: of the argument, only how long it is
        uses.addDeciding(made, Flow.WINDOW);
      }
      relation.add(columns.get(i).name(), null, copy(uses), at);
    }
    if (columns.isEmpty()) {
      if (Functions.expands(function)) {
        relation.add(name.name(), null, copy(made), at);
      }
      relation.openWith(made);
    }
    result.rows.addDeciding(all, Flow.JOIN);
    return new Scope.Entry(List.of(name), relation);
  }

  private static Uses copy(Uses uses) {
    var copy = new Uses();
    copy.add(uses);
    return copy;
  }

  private void lateralView(LateralView view, Scope scope, Relation result) {
    Uses arguments = new Uses();
    Function generator = view.getGeneratorFunction();
    if (generator.getParameters() != null) {
      for (Object argument : generator.getParameters()) {
        arguments.add(expressions.read((Expression) argument, scope));
      }
    }
    Span at = context.spanOrWhole(generator);
    Uses made = arguments.computed(Flow.TRANSFORMATION, false, at, context.textOf(at));
    String name =
        view.getTableAlias() == null
            ? "view " + context.nextUnnamed()
            : context.ident(view.getTableAlias().getName()).name();
    var relation = new Relation(Relation.Kind.FUNCTION, name, at);
    Alias columns = view.getColumnAlias();
    if (columns != null) {
      if (columns.getName() != null) {
        for (String column : columns.getName().split("\\s*,\\s*")) {
          relation.add(context.ident(column).name(), null, copy(made), at);
        }
      }
      columnsOf(columns).forEach(c -> relation.add(c.name(), null, copy(made), at));
    }
    if (relation.fields().isEmpty()) {
      relation.openWith(made);
    }
    result.rows.addDeciding(arguments, Flow.JOIN);
    scope.add(new Scope.Entry(List.of(new Ident(name, false)), relation));
  }

  // ------------------------------------------------------------------- joins

  /** Reads a join: the relation it adds, and what decides which rows match. */
  void join(Join join, Scope scope, Relation result) {
    int before = scope.entries().size();
    from(join.getFromItem(), scope, result, join.isApply());
    List<Scope.Entry> left = List.copyOf(scope.entries().subList(0, before));
    List<Scope.Entry> right = List.copyOf(scope.entries().subList(before, scope.entries().size()));
    Collection<Expression> conditions = join.getOnExpressions();
    if (conditions != null) {
      conditions.forEach(condition -> decideRows(result, condition, scope, Flow.JOIN));
    }
    if (join.getUsingColumns() != null && !join.getUsingColumns().isEmpty()) {
      for (Column column : join.getUsingColumns()) {
        merge(context.ident(column.getColumnName()), left, right, join, scope, result);
      }
    } else if (join.isNatural()) {
      for (Ident name : common(left, right, join)) {
        merge(name, left, right, join, scope, result);
      }
    }
    if (join.isSemi() || context.repaired().isSemiJoin(context.spanOf(join))) {
      right.forEach(
          entry -> {
            entry.hidden().add(HIDDEN);
            entry.hidden().addAll(entry.relation().fields());
          });
    }
  }

  private List<Ident> common(List<Scope.Entry> left, List<Scope.Entry> right, Join join) {
    var names = new LinkedHashSet<String>();
    boolean open = false;
    for (Scope.Entry entry : right) {
      open |= entry.relation().open();
      for (Field field : entry.relation().fields()) {
        if (entry.relation().isKnown(field) && hasField(left, field.name())) {
          names.add(field.name());
        }
      }
    }
    open |= left.stream().anyMatch(entry -> entry.relation().open());
    if (open) {
      context.problem(
          "A NATURAL join needs the columns of both sides, and those of one are not known.",
          context.spanOf(join));
    }
    return names.stream().map(name -> new Ident(name, true)).toList();
  }

  private static boolean hasField(List<Scope.Entry> entries, String name) {
    return entries.stream()
        .anyMatch(
            entry -> {
              Field field = entry.relation().find(new Ident(name, true));
              return field != null && entry.relation().isKnown(field);
            });
  }

  /** Makes one column of those that USING or NATURAL holds equal. */
  private void merge(
      Ident name,
      List<Scope.Entry> left,
      List<Scope.Entry> right,
      Join join,
      Scope scope,
      Relation result) {
    List<Field> before = scope.mergedOf(name.name());
    List<Field> lefts = before != null ? before : side(name, left);
    List<Field> rights = side(name, right);
    var both = new ArrayList<>(lefts);
    both.addAll(rights);
    Set<Field> all = new LinkedHashSet<>(both);
    for (Field field : all) {
      result.rows.decides(field, Flow.JOIN, false);
    }
    scope.entries().forEach(entry -> entry.hidden().addAll(all));
    // Where no row of the left need match, its value is null and the right one is shown.
    List<Field> shown = join.isFull() ? both : join.isRight() ? rights : lefts;
    scope.merge(name.name(), shown.isEmpty() ? both : shown);
  }

  private List<Field> side(Ident name, List<Scope.Entry> entries) {
    for (Scope.Entry entry : entries) {
      Field field = entry.relation().find(name);
      if (field != null && entry.relation().isKnown(field)) {
        return List.of(field);
      }
    }
    for (Scope.Entry entry : entries) {
      if (entry.relation().open()) {
        return List.of(entry.relation().findOrMake(name));
      }
    }
    return List.of();
  }

  // ------------------------------------------------------------------- pivot

  private Scope.Entry pivoted(Scope.Entry entry, Pivot pivot, Scope around) {
    var inner = new Scope(around.outer());
    inner.add(entry);
    Ident name = pivotName(pivot.getAlias(), entry);
    var result = new Relation(Relation.Kind.PIVOT, name.name(), null);
    var used = new HashSet<Field>();
    var choosing = new Uses();
    for (Object column : pivot.getForColumns()) {
      choosing.add(expressions.read((Expression) column, inner));
    }
    used.addAll(choosing.direct.keySet());
    var aggregates = new ArrayList<SelectItem<Function>>(pivot.getFunctionItems());
    var values = new ArrayList<Uses>();
    for (SelectItem<Function> item : aggregates) {
      Uses uses = expressions.read(item.getExpression(), inner);
      used.addAll(uses.direct.keySet());
      var chosen = copy(uses);
      chosen.addDeciding(choosing, Flow.CONDITIONAL);
      values.add(chosen);
    }
    for (Field field : List.copyOf(entry.relation().fields())) {
      if (entry.relation().isKnown(field) && !used.contains(field)) {
        result.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
        result.rows.decides(field, Flow.GROUP_BY, false);
      }
    }
    if (entry.relation().open()) {
      result.addStar(entry.relation());
      context.problem(
          "The columns of "
              + entry.relation().name()
              + " are not known, so PIVOT's groups are not.",
          null);
    }
    List<?> in = pivot.getInItems() == null ? List.of() : pivot.getInItems();
    for (Object item : in) {
      if (item instanceof SelectItem<?> choice) {
        String label =
            choice.getAlias() != null
                ? context.ident(choice.getAlias().getName()).name()
                : context.ident(choice.getExpression().toString()).name();
        for (int i = 0; i < aggregates.size(); i++) {
          Alias own = aggregates.get(i).getAlias();
          String column =
              own == null || own.getName() == null
                  ? label
                  : label + "_" + context.ident(own.getName()).name();
          result.add(column, null, copy(values.get(i)), context.spanOf(aggregates.get(i)));
        }
      }
    }
    result.from.add(entry.relation());
    return new Scope.Entry(List.of(name), result);
  }

  private Ident pivotName(@Nullable Alias alias, Scope.Entry entry) {
    if (alias != null && alias.getName() != null) {
      return context.ident(alias.getName());
    }
    return entry.names().isEmpty()
        ? new Ident("pivot " + context.nextUnnamed(), false)
        : entry.names().get(entry.names().size() - 1);
  }

  private Scope.Entry unpivoted(Scope.Entry entry, UnPivot unpivot, Scope around) {
    var inner = new Scope(around.outer());
    inner.add(entry);
    Ident name = pivotName(unpivot.getAlias(), entry);
    var result = new Relation(Relation.Kind.PIVOT, name.name(), null);
    var values = new ArrayList<Uses>();
    var names = new Uses();
    var used = new HashSet<Field>();
    for (Column ignored : unpivot.getUnPivotClause()) {
      values.add(new Uses());
    }
    for (SelectItem<?> item : unpivot.getUnPivotInClause()) {
      Expression expression = item.getExpression();
      List<?> columns = expression instanceof ExpressionList<?> list ? list : List.of(expression);
      for (int i = 0; i < columns.size() && i < values.size(); i++) {
        Uses uses = expressions.read((Expression) columns.get(i), inner);
        used.addAll(uses.direct.keySet());
        values.get(i).add(uses);
      }
      Span at = context.spanOrWhole(item);
      names.constants.add(new Constant("'" + expression + "'", at));
    }
    for (Field field : List.copyOf(entry.relation().fields())) {
      if (entry.relation().isKnown(field) && !used.contains(field)) {
        result.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
      }
    }
    if (entry.relation().open()) {
      result.addStar(entry.relation());
    }
    for (int i = 0; i < values.size(); i++) {
      Column column = unpivot.getUnPivotClause().get(i);
      result.add(
          context.ident(column.getColumnName()).name(),
          null,
          values.get(i),
          context.spanOf(column));
      if (!unpivot.getIncludeNulls()) {
        result.rows.addDeciding(values.get(i), Flow.FILTER);
      }
    }
    for (Column column : unpivot.getUnPivotForClause()) {
      result.add(
          context.ident(column.getColumnName()).name(), null, copy(names), context.spanOf(column));
    }
    result.from.add(entry.relation());
    return new Scope.Entry(List.of(name), result);
  }
}
