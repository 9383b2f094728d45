package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.regex.Pattern;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.statement.select.ParenthesedSelect;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.select.SelectItem;
import net.sf.jsqlparser.statement.select.SetOperationList;
import net.sf.jsqlparser.statement.select.WithItem;
import org.jspecify.annotations.Nullable;

/** Reads WITH: its expressions are known to the query they stand before, and to those inside it. */
final class WithReader {
  private final Context context;
  private final QueryReader queries;
  private final QueryReader.Modifying modifying;
  private @Nullable Names names;

  WithReader(Context context, QueryReader queries, QueryReader.Modifying modifying) {
    this.context = context;
    this.queries = queries;
    this.modifying = modifying;
  }

  /** The relation that a name in sight means; null if none has it. */
  @Nullable Relation find(Ident name) {
    return names == null ? null : names.find(name);
  }

  /** Makes the expressions of a WITH known until {@link #leave}. */
  void enter(@Nullable List<WithItem<?>> items) {
    names = new Names(names, new HashMap<>());
    if (items != null) {
      boolean recursive = items.stream().anyMatch(WithItem::isRecursive);
      items.forEach(item -> define(item, recursive));
    }
  }

  void leave() {
    names = Objects.requireNonNull(names).outer();
  }

  private void define(WithItem<?> item, boolean recursive) {
    Ident name = context.ident(item.getAliasName());
    Map<String, Relation> own = Objects.requireNonNull(names).own();
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
    if (inside instanceof SetOperationList list && (recursive || namesItself(list, name))) {
      // A WITH inside of the recursive expression is in sight of its branches.
      Relation whole =
          queries.within(
              list.getWithItemsList(), () -> recursive(name.name(), columns, list, own, key));
      own.put(key, whole);
    } else {
      own.put(key, queries.read(body, null, Relation.Kind.CTE, name.name(), columns));
    }
    addColumns(own.get(key), item);
  }

  /** The columns that SEARCH or CYCLE adds: they are reckoned from those these name. */
  private void addColumns(Relation made, WithItem<?> item) {
    Span span = context.spanOf(item.getParenthesedStatement());
    if (span == null) {
      return;
    }
    for (StatementForms.Added added : context.parserInput().addedBehind(span.end())) {
      var uses = new Uses();
      for (String by : added.by()) {
        Field field = made.find(context.ident(by));
        if (field != null) {
          uses.direct(field, Uses.How.of(Flow.TRANSFORMATION));
        }
      }
      added
          .made()
          .forEach(column -> made.add(context.ident(column).name(), null, uses.copy(), span));
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
    Relation anchor = queries.branch(list.getSelects().get(0), null, name, 1);
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
      Relation next = queries.branch(list.getSelects().get(i), null, name, i + 1);
      branches.add(next);
      for (int c = 0; c < Math.min(whole.fields().size(), next.fields().size()); c++) {
        whole.fields().get(c).uses().add(Uses.of(next.fields().get(c), Flow.IDENTITY));
      }
      whole.from.add(next);
    }
    union.decideRows(whole, branches);
    return whole;
  }

  /** The common table expressions that a name may mean, nearest first. */
  private record Names(@Nullable Names outer, Map<String, Relation> own) {
    @Nullable Relation find(Ident name) {
      Relation found = own.get(name.name().toLowerCase(Locale.ROOT));
      return found != null ? found : outer == null ? null : outer.find(name);
    }
  }
}
