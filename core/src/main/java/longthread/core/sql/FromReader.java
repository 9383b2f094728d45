package longthread.core.sql;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.Alias;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.Function;
import net.sf.jsqlparser.expression.JsonTableFunction;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.select.AllColumns;
import net.sf.jsqlparser.statement.select.FromItem;
import net.sf.jsqlparser.statement.select.Join;
import net.sf.jsqlparser.statement.select.LateralSubSelect;
import net.sf.jsqlparser.statement.select.LateralView;
import net.sf.jsqlparser.statement.select.ParenthesedFromItem;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.select.TableFunction;
import net.sf.jsqlparser.statement.select.Values;
import org.jspecify.annotations.Nullable;

/** Reads what stands in FROM into the scope of its names, and joins it. */
final class FromReader {
  private final Context context;
  private final ExpressionReader expressions;
  private final QueryReader queries;
  private final SelectList outputs;
  private final PivotReader pivots;

  FromReader(
      Context context, ExpressionReader expressions, QueryReader queries, SelectList outputs) {
    this.context = context;
    this.expressions = expressions;
    this.queries = queries;
    this.outputs = outputs;
    this.pivots = new PivotReader(context, expressions);
  }

  /**
   * Reads an item of FROM.
   *
   * @param result takes what decides its rows
   * @param lateral whether it may name what stands before it
   */
  void from(FromItem item, Scope scope, Relation result, boolean lateral) {
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
      entry = pivots.pivoted(entry, item.getPivot(), scope);
    }
    if (item.getUnPivot() != null) {
      entry = pivots.unpivoted(entry, item.getUnPivot(), scope);
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
      List<Ident> parts = queries.nameOf(table);
      Scope.Entry around = parts.size() > 1 ? scope.named(parts.subList(0, 1)) : null;
      if (around != null && isAlias(around)) {
        return arrayOf(parts, alias, scope, result, context.spanOf(table));
      }
      Relation relation = relabelled(queries.relation(table), alias);
      return new Scope.Entry(named.isEmpty() ? parts : named, relation);
    }
    if (item instanceof Select select) {
      // Only a lateral query may name what stands before it.
      Scope around = lateral || item instanceof LateralSubSelect ? scope : scope.outer();
      String name = named.isEmpty() ? "subquery " + context.nextUnnamed() : named.get(0).name();
      Relation.Kind kind = item instanceof Values ? Relation.Kind.VALUES : Relation.Kind.SUBQUERY;
      return new Scope.Entry(named, queries.read(select, around, kind, name, columnsOf(alias)));
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
      outputs.star(new AllColumns(), inner.entries(), inner, wrapped, columnsOf(alias));
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
    outputs.star(labelled, new Scope.Entry(List.of(), relation), names);
    if (relation.open()) {
      context.problem(
          "The columns of "
              + relation.name()
              + " are not known, so those of its alias "
              + "cannot be distinguished.",
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
      if (functions.size() > 1) {
        arguments.add(ofFunction(function, scope)); // each of them yields columns of its own
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
    Uses made = all.computed(Flow.TRANSFORMATION, false, at, () -> context.textOf(at));
    if (made.direct.isEmpty() && made.constants.isEmpty()) {
      made.constants.add(new Constant(context.textOf(at), at));
    }
    String function =
        functions.get(0) == null ? "" : FunctionReader.plainName(functions.get(0).getName());
    Ident name =
        alias == null || alias.getName() == null
            ? new Ident(function, false)
            : context.ident(alias.getName());
    var relation = new Relation(Relation.Kind.FUNCTION, name.name(), at);
    List<Ident> columns = columnsOf(alias);
    boolean numbered =
        item.getWithClause() != null
            && item.getWithClause().toUpperCase(Locale.ROOT).contains("ORDINALITY");
    boolean rowsFrom = functions.size() > 1 && columns.size() >= functions.size();
    boolean side =
        rowsFrom
            || (function.equals("unnest")
                && arguments.size() > 1
                && columns.size() >= arguments.size());
    for (int i = 0; i < columns.size(); i++) {
      Uses uses =
          side && i < arguments.size()
              ? arguments.get(i).computed(Flow.TRANSFORMATION, false, at, () -> context.textOf(at))
              : made;
      if (numbered && i > 0 && i == columns.size() - 1) {
        uses = new Uses(); // the number of the row: of the argument, only how long it is
        uses.addDeciding(made, Flow.WINDOW);
      }
      relation.add(columns.get(i).name(), null, uses.copy(), at);
    }
    if (columns.isEmpty()) {
      if (Functions.expands(function)) {
        relation.add(name.name(), null, made.copy(), at);
      }
      relation.openWith(made);
    }
    result.rows.addDeciding(all, Flow.JOIN);
    return new Scope.Entry(List.of(name), relation);
  }

  private Uses ofFunction(Function function, Scope scope) {
    var uses = new Uses();
    if (function.getParameters() != null) {
      for (Object argument : function.getParameters()) {
        if (argument instanceof Expression one) {
          uses.add(expressions.read(one, scope));
        }
      }
    }
    Span at = context.spanOrWhole(function);
    if (uses.direct.isEmpty() && uses.constants.isEmpty()) {
      uses.constants.add(new Constant(context.textOf(at), at));
    }
    return uses;
  }

  /** Reads a view made of the values of a row, with the names it gives them. */
  void lateralView(LateralView view, Scope scope, Relation result) {
    Uses arguments = new Uses();
    Function generator = view.getGeneratorFunction();
    if (generator.getParameters() != null) {
      for (Object argument : generator.getParameters()) {
        arguments.add(expressions.read((Expression) argument, scope));
      }
    }
    Span at = context.spanOrWhole(generator);
    Uses made = arguments.computed(Flow.TRANSFORMATION, false, at, () -> context.textOf(at));
    String name =
        view.getTableAlias() == null
            ? "view " + context.nextUnnamed()
            : context.ident(view.getTableAlias().getName()).name();
    var relation = new Relation(Relation.Kind.FUNCTION, name, at);
    Alias columns = view.getColumnAlias();
    if (columns != null) {
      if (columns.getName() != null) {
        for (String column : columns.getName().split("\\s*,\\s*")) {
          relation.add(context.ident(column).name(), null, made.copy(), at);
        }
      }
      columnsOf(columns).forEach(c -> relation.add(c.name(), null, made.copy(), at));
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
    List<Scope.Entry> left = scope.entries().subList(0, before);
    List<Scope.Entry> right = scope.entries().subList(before, scope.entries().size());
    Collection<Expression> conditions = join.getOnExpressions();
    if (conditions != null) {
      conditions.forEach(
          condition -> result.rows.addDeciding(expressions.read(condition, scope), Flow.JOIN));
    }
    var names = new ArrayList<Ident>();
    if (join.getUsingColumns() != null && !join.getUsingColumns().isEmpty()) {
      join.getUsingColumns().forEach(c -> names.add(context.ident(c.getColumnName())));
    } else if (join.isNatural()) {
      names.addAll(inOrderOf(left, scope, common(left, right, join)));
    }
    for (Ident name : names) {
      merge(name, left, right, join, scope, result);
    }
    scope.mergedFirst(names.stream().map(Ident::name).toList());
    if (join.isSemi() || context.parserInput().isSemiJoin(context.spanOf(join))) {
      right.forEach(Scope.Entry::hide);
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

  /** The names in the order in which a star shows them on the left. */
  private static List<Ident> inOrderOf(List<Scope.Entry> left, Scope scope, List<Ident> names) {
    Map<String, Integer> places = new HashMap<>();
    scope.merged().keySet().forEach(name -> places.putIfAbsent(name, places.size()));
    for (Scope.Entry entry : left) {
      Budget.step(1 + entry.relation().fields().size());
      for (Field field : entry.relation().fields()) {
        places.putIfAbsent(field.name().toLowerCase(Locale.ROOT), places.size());
      }
    }
    return names.stream()
        .sorted(
            Comparator.comparingInt(
                name -> places.getOrDefault(name.name().toLowerCase(Locale.ROOT), -1)))
        .toList();
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
    Budget.keep((long) scope.entries().size() * all.size() / 4);
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
}
