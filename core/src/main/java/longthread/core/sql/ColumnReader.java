package longthread.core.sql;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.ArrayConstructor;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.schema.Table;

/** Reads what a column's name means where it stands. */
final class ColumnReader {
  private static final Set<String> MOMENT_WORDS =
      Set.of(
          "current_date",
          "current_time",
          "current_timestamp",
          "localtime",
          "localtimestamp",
          "current_user",
          "session_user",
          "user",
          "current_schema",
          "current_catalog",
          "sysdate",
          "systimestamp",
          "default",
          "unknown",
          "true",
          "false",
          "null",
          "rownum",
          "ctid",
          "xmin",
          "xmax",
          "cmin",
          "cmax",
          "tableoid",
          "rowid",
          "ora_rowscn",
          "level",
          "connect_by_isleaf",
          "sqlcode");

  private final Context context;
  private final ExpressionReader expressions;

  ColumnReader(Context context, ExpressionReader expressions) {
    this.context = context;
    this.expressions = expressions;
  }

  Uses read(Column column, Scope scope) {
    ArrayConstructor brackets = column.getArrayConstructor();
    if (brackets == null) {
      return named(column, scope);
    }
    var uses = new Uses();
    Span at = context.spanOrWhole(column);
    if (column.getTable() == null && column.getColumnName().equalsIgnoreCase("array")) {
      brackets.getExpressions().forEach(e -> uses.add(expressions.read((Expression) e, scope)));
      return uses.computed(Flow.TRANSFORMATION, false, at, () -> context.textOf(at));
    }
    // An element or a slice of an array: which one it is depends on the index.
    uses.add(
        named(column, scope).computed(Flow.TRANSFORMATION, false, at, () -> context.textOf(at)));
    for (Object index : brackets.getExpressions()) {
      uses.addDeciding(expressions.read((Expression) index, scope), Flow.CONDITIONAL);
    }
    return uses;
  }

  private Uses named(Column column, Scope scope) {
    List<Ident> parts = nameOf(column);
    String last = parts.get(parts.size() - 1).name();
    boolean operatorEnd = last.length() > 1 && last.endsWith("#") && parts.size() < 3;
    Field output = scope.prefersGiven(parts) ? scope.givenAs(parts.get(0)) : null;
    if (output != null) {
      return output.uses();
    }
    Scope.Found found = scope.resolve(parts);
    if (found == null && operatorEnd) {
      // A JSON operator such as #> right behind the name is taken for its last character.
      parts.set(parts.size() - 1, new Ident(last.substring(0, last.length() - 1), false));
      found = scope.resolve(parts);
    }
    if (found == null) {
      return unresolved(column, parts, scope);
    }
    if (found.whole() != null) {
      return wholeRow(found.whole(), Flow.TRANSFORMATION);
    }
    Flow flow = found.nested() || operatorEnd ? Flow.TRANSFORMATION : Flow.IDENTITY;
    var uses = new Uses();
    for (Field field : found.fields()) {
      if (found.certain()) {
        context.name(field);
      }
      uses.direct(field, new Uses.How(flow, false, !found.certain()));
    }
    if (!found.certain()) {
      context.problem(
          "It is not certain which table " + last + " belongs to; its sources are only possible.",
          context.spanOf(column));
    }
    return uses;
  }

  private Uses unresolved(Column column, List<Ident> parts, Scope scope) {
    Ident last = parts.get(parts.size() - 1);
    Span at = context.spanOrWhole(column);
    Field filled = context.tables().filled(parts);
    if (filled != null) {
      return valueOf(filled);
    }
    VariableForms filling = context.parserInput().variables();
    boolean itself = // a variable that nothing filled before
        parts.size() == 1
            && filling != null
            && filling.names().contains(last.name().toLowerCase(Locale.ROOT));
    boolean word =
        itself || parts.size() <= 2 && MOMENT_WORDS.contains(last.name().toLowerCase(Locale.ROOT));
    boolean text = column.getColumnName().startsWith("\"") && !context.dialect().quotedIsExact();
    boolean template = context.textOf(at).contains("{");
    if (word || text || template || last.name().startsWith("@")) {
      var uses = new Uses();
      uses.constants.add(new Constant(context.textOf(at), at));
      return uses;
    }
    Field given = parts.size() == 1 ? scope.givenAs(last) : null;
    if (given != null) {
      return given.uses();
    }
    context.problem("No table here has a column " + context.textOf(at) + ".", at);
    return new Uses();
  }

  /** The value of a variable that an earlier statement filled, with what decided it. */
  static Uses valueOf(Field filled) {
    Uses uses = Uses.of(filled, Flow.IDENTITY);
    uses.rowsOf.add(filled.of());
    return uses;
  }

  private List<Ident> nameOf(Column column) {
    var parts = new ArrayList<Ident>();
    Table table = column.getTable();
    if (table != null) {
      List<String> names = table.getNameParts();
      for (int i = names.size() - 1; i >= 0; i--) {
        if (names.get(i) != null && !names.get(i).isEmpty()) {
          parts.add(context.ident(names.get(i)));
        }
      }
    }
    parts.add(context.ident(column.getColumnName()));
    return parts;
  }

  /** All columns of a relation, as a value that is made of its whole row. */
  static Uses wholeRow(Relation relation, Flow flow) {
    var uses = new Uses();
    for (Field field : List.copyOf(relation.fields())) {
      uses.direct(field, Uses.How.of(flow));
    }
    if (relation.open()) {
      Field all = relation.findOrMake(new Ident("*", true));
      uses.direct(all, Uses.How.of(flow));
    }
    return uses;
  }
}
