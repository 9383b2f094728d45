package longthread.service.sql;

import java.util.ArrayList;
import java.util.List;

/** Makes queries over the dairy by chance, each valid for PostgreSQL and with one answer. */
final class RandomQuery {
  /** The sorts of values that expressions are made of. */
  private enum Type {
    NUMBER,
    TEXT,
    FLAG,
    TIME
  }

  /** A column that can be named at some point. */
  private record Name(String text, Type type) {}

  private record Source(String from, List<Name> columns) {}

  private record Table(String name, List<Name> columns) {}

  private static final List<Table> TABLES =
      List.of(
          table("farm", "farm_id N", "farm_name S", "iban S", "route_id N", "herd_size N"),
          table(
              "pickup",
              "pickup_id N",
              "farm_id N",
              "tanker_id N",
              "picked_at T",
              "litres N",
              "temperature_c N",
              "sample_no S"),
          table(
              "lab",
              "sample_no S",
              "fat N",
              "protein N",
              "cell_count N",
              "residue F",
              "measured_at T"),
          table("route", "route_id N", "route_name S", "length_km N", "closed F"),
          table("tanker", "tanker_id N", "own F", "capacity N"),
          table("price", "quality_class S", "cents N"));

  private static Table table(String name, String... columns) {
    var names = new ArrayList<Name>();
    for (String column : columns) {
      String[] words = column.split(" ");
      Type type =
          switch (words[1]) {
            case "N" -> Type.NUMBER;
            case "S" -> Type.TEXT;
            case "F" -> Type.FLAG;
            default -> Type.TIME;
          };
      names.add(new Name(words[0], type));
    }
    return new Table(name, names);
  }

  /** Words that some dialect or parser takes for something else than a name. */
  private static final List<String> WORDS =
      List.of(
          "day", "month", "year", "data", "name", "value", "map", "uuid", "sample", "statement");

  private final Choices choices;
  private final List<Table> known = new ArrayList<>(TABLES);
  private int aliases;

  private RandomQuery(Choices choices) {
    this.choices = choices;
  }

  static String of(Choices choices) {
    var query = new RandomQuery(choices);
    var with = new ArrayList<String>();
    for (int ctes = choices.below(3); ctes > 0; ctes--) {
      with.add(query.cte());
    }
    String body = query.select(List.of(), 2, false).text();
    return with.isEmpty() ? body : "with " + String.join(", ", with) + " " + body;
  }

  private String cte() {
    String name = "w" + ++aliases;
    Select select = select(List.of(), 1, false);
    known.add(new Table(name, select.columns()));
    return name + " as (" + select.text() + ")";
  }

  private record Select(String text, List<Name> columns) {}

  /**
   * @param outer names of the queries around, for correlated ones
   * @param grouped whether an aggregate is wanted
   */
  private Select select(List<Name> outer, int depth, boolean grouped) {
    var names = new ArrayList<Name>();
    String from = from(names, depth);
    boolean group = grouped || choices.below(4) == 3;
    var conditions = new ArrayList<String>();
    for (int i = choices.below(2) * (choices.below(2) + 1); i > 0; i--) {
      conditions.add(condition(names, outer, depth));
    }
    String where = conditions.isEmpty() ? "" : " where " + String.join(" and ", conditions);
    return group ? grouped(names, from + where, depth) : plain(names, outer, from + where, depth);
  }

  private Select plain(List<Name> names, List<Name> outer, String rest, int depth) {
    var items = new ArrayList<String>();
    var columns = new ArrayList<Name>();
    boolean windows = choices.below(4) == 3;
    for (int i = choices.below(3) + 1; i > 0; i--) {
      Type type = choices.of(List.of(Type.NUMBER, Type.NUMBER, Type.TEXT, Type.FLAG));
      String name = outputName(columns);
      String expression =
          windows && type == Type.NUMBER ? window(names) : expression(type, names, outer, depth);
      items.add(expression + " as " + name);
      columns.add(new Name(name, type));
    }
    String distinct = choices.below(6) == 5 ? "distinct " : "";
    String text = "select " + distinct + String.join(", ", items) + rest;
    if (choices.below(7) == 6 && distinct.isEmpty()) {
      text += " order by " + all(columns) + " limit " + (choices.below(6) + 1);
    } else if (choices.below(7) == 6) {
      String operation = choices.of(List.of("union all", "union", "except", "intersect"));
      var others = new ArrayList<String>();
      var own = new ArrayList<Name>();
      String from = from(own, 0);
      columns.forEach(c -> others.add(expression(c.type(), own, List.of(), 0)));
      String other = "select " + String.join(", ", others) + from;
      text =
          choices.below(2) == 0
              ? text + " " + operation + " " + other
              : "(" + text + ") " + operation + " ((" + other + ") union all (" + other + "))";
    }
    return new Select(text, columns);
  }

  private String outputName(List<Name> taken) {
    String word = choices.of(WORDS);
    boolean free = taken.stream().noneMatch(name -> name.text().equals(word));
    return choices.below(4) == 3 && free ? word : "o" + ++aliases;
  }

  private static String all(List<Name> columns) {
    return String.join(", ", columns.stream().map(Name::text).toList());
  }

  private Select grouped(List<Name> names, String rest, int depth) {
    var keys = new ArrayList<Name>();
    for (int i = choices.below(3); i > 0; i--) {
      keys.add(choices.of(names));
    }
    var items = new ArrayList<String>();
    var columns = new ArrayList<Name>();
    for (Name key : keys) {
      String name = "o" + ++aliases;
      items.add(key.text() + " as " + name);
      columns.add(new Name(name, key.type()));
    }
    for (int i = choices.below(2) + 1; i > 0; i--) {
      String name = "o" + ++aliases;
      items.add(aggregate(names) + " as " + name);
      columns.add(new Name(name, Type.NUMBER));
    }
    String group =
        keys.isEmpty()
            ? ""
            : " group by " + String.join(", ", keys.stream().map(Name::text).distinct().toList());
    String having =
        choices.below(4) == 3 ? " having " + aggregate(names) + " > " + choices.below(60) : "";
    return new Select("select " + String.join(", ", items) + rest + group + having, columns);
  }

  // --------------------------------------------------------------------- from

  private String from(List<Name> names, int depth) {
    Source first = source(depth);
    names.addAll(first.columns());
    var text = new StringBuilder(" from " + first.from());
    // Few relations at a time: every pair of rows may match, and some queries stand within others.
    for (int i = choices.below(depth > 1 ? 3 : 2); i > 0; i--) {
      Source next = source(depth - 1);
      Name left = anyKey(names);
      Name right = anyKey(next.columns());
      String condition;
      if (left == null || right == null) {
        condition = "true";
      } else {
        condition = left.text() + " = " + right.text();
      }
      String kind = choices.of(List.of(" join ", " left join ", " full join "));
      if (kind.equals(" full join ") && condition.equals("true")) {
        kind = " join ";
      }
      text.append(kind).append(next.from()).append(" on ").append(condition);
      names.addAll(next.columns());
    }
    return text.toString();
  }

  private Source source(int depth) {
    String alias = "t" + ++aliases;
    if (depth > 0 && choices.below(4) == 3) {
      Select inner = select(List.of(), depth - 1, false);
      return new Source("(" + inner.text() + ") " + alias, qualified(alias, inner.columns()));
    }
    if (depth > 0 && choices.below(6) == 5) {
      return starred(alias);
    }
    Table table = choices.of(known);
    return new Source(table.name() + " " + alias, qualified(alias, table.columns()));
  }

  /** All columns of a chain of joins that merge columns, under names by their place. */
  private Source starred(String alias) {
    Table pickup = TABLES.get(1);
    Table farm = TABLES.get(0);
    var columns = new ArrayList<Name>();
    String from;
    if (choices.below(2) == 0) {
      from = choices.of(List.of("pickup natural join farm", "pickup join farm using (farm_id)"));
      merged(columns, List.of("farm_id"), pickup, farm);
    } else {
      from = "pickup join farm using (farm_id) join route using (route_id)";
      merged(columns, List.of("route_id", "farm_id"), pickup, farm, TABLES.get(3));
    }
    var named = new ArrayList<Name>();
    for (int i = 0; i < columns.size(); i++) {
      named.add(new Name("c" + i, columns.get(i).type()));
    }
    return new Source(
        "(select * from " + from + ") as " + alias + "(" + all(named) + ")",
        qualified(alias, named));
  }

  private static void merged(List<Name> columns, List<String> shared, Table... tables) {
    for (String name : shared) {
      columns.add(new Name(name, Type.NUMBER));
    }
    for (Table table : tables) {
      table.columns().stream()
          .filter(column -> !shared.contains(column.text()))
          .forEach(columns::add);
    }
  }

  private static List<Name> qualified(String alias, List<Name> columns) {
    return columns.stream().map(c -> new Name(alias + "." + c.text(), c.type())).toList();
  }

  /** A column whose values are few and shared, so that rows match; else any number. */
  private Name anyKey(List<Name> names) {
    List<Name> keys =
        names.stream().filter(n -> n.text().matches(".*(_id|herd_size|capacity)")).toList();
    return keys.isEmpty() ? any(names, Type.NUMBER) : choices.of(keys);
  }

  private Name any(List<Name> names, Type type) {
    List<Name> fitting = names.stream().filter(n -> n.type() == type).toList();
    return fitting.isEmpty() ? null : choices.of(fitting);
  }

  // -------------------------------------------------------------- expressions

  private String expression(Type type, List<Name> names, List<Name> outer, int depth) {
    Name column = any(names, type);
    int kind = choices.below(9);
    if (depth <= 0 || kind < 3) {
      return column == null ? literal(type) : column.text();
    }
    switch (kind) {
      case 3:
        return literal(type);
      case 4:
        return "case when "
            + condition(names, outer, depth - 1)
            + " then "
            + expression(type, names, outer, depth - 1)
            + " else "
            + expression(type, names, outer, depth - 1)
            + " end";
      case 5:
        return "coalesce("
            + expression(type, names, outer, depth - 1)
            + ", "
            + expression(type, names, outer, depth - 1)
            + ")";
      case 6:
        return type == Type.NUMBER ? scalar(names) : computed(type, names, outer, depth);
      default:
        return computed(type, names, outer, depth);
    }
  }

  private String computed(Type type, List<Name> names, List<Name> outer, int depth) {
    String one = expression(type, names, outer, depth - 1);
    String other = expression(type, names, outer, depth - 1);
    return switch (type) {
      case NUMBER -> "(" + one + choices.of(List.of(" + ", " - ", " * ")) + other + ")";
      case TEXT -> "(" + one + " || " + other + ")";
      case FLAG -> "(" + condition(names, outer, depth - 1) + ")";
      case TIME -> "greatest(" + one + ", " + other + ")";
    };
  }

  private String literal(Type type) {
    return switch (type) {
      case NUMBER -> String.valueOf(choices.below(9));
      case TEXT -> "'F" + (choices.below(8) + 1) + "'";
      case FLAG -> choices.below(2) == 0 ? "true" : "false";
      case TIME -> "timestamp '2026-10-05 04:00:00'";
    };
  }

  private String scalar(List<Name> outer) {
    var names = new ArrayList<Name>();
    String from = from(names, 0);
    Name inside = anyKey(names);
    Name outside = anyKey(outer);
    String where =
        inside != null && outside != null && choices.below(2) == 1
            ? " where " + inside.text() + " = " + outside.text()
            : "";
    return "(select " + aggregate(names) + from + where + ")";
  }

  private String aggregate(List<Name> names) {
    Name number = any(names, Type.NUMBER);
    int kind = choices.below(7);
    if (number == null || kind == 6) {
      return "count(*)";
    }
    String filter = kind == 5 ? " filter (where " + condition(names, List.of(), 0) + ")" : "";
    String function = List.of("sum", "max", "min", "count", "avg", "sum").get(Math.min(kind, 5));
    return function + "(" + number.text() + ")" + filter;
  }

  private String window(List<Name> names) {
    Name number = any(names, Type.NUMBER);
    Name part = choices.of(names);
    Name order = choices.of(names);
    if (number == null) {
      return "count(*) over (partition by " + part.text() + ")";
    }
    String over = " over (partition by " + part.text() + " order by " + order.text() + ")";
    // Ranks that differ between equal rows would depend on how the rows happen to lie.
    return choices.of(List.of("rank()", "dense_rank()", "sum(" + number.text() + ")", "count(*)"))
        + over;
  }

  private String condition(List<Name> names, List<Name> outer, int depth) {
    Name column = choices.of(names);
    int kind = choices.below(8);
    if (kind == 7 && depth > 0) {
      return existing(names);
    }
    if (kind == 6 && depth > 0 && column.type() == Type.NUMBER) {
      var inner = new ArrayList<Name>();
      String from = from(inner, 0);
      Name other = any(inner, Type.NUMBER);
      return other == null
          ? column.text() + " is not null"
          : column.text()
              + choices.of(List.of(" in ", " not in "))
              + "(select "
              + other.text()
              + from
              + " where "
              + other.text()
              + " is not null)";
    }
    if (kind == 5) {
      return column.text() + " is not null";
    }
    return switch (column.type()) {
      case NUMBER -> column.text() + choices.of(List.of(" > ", " < ", " <> ")) + threshold(column);
      case TEXT -> column.text() + choices.of(List.of(" > ", " <> ")) + literal(Type.TEXT);
      case FLAG -> column.text();
      case TIME -> column.text() + " > " + literal(Type.TIME);
    };
  }

  /** A number among those that the column holds, so that a test of it lets some rows through. */
  private String threshold(Name column) {
    int some = choices.below(6) + 2;
    if (column.text().endsWith("litres")) {
      return String.valueOf(some * 37);
    }
    return column.text().endsWith("cell_count")
        ? String.valueOf(150_000 + some * 25_000)
        : String.valueOf(some);
  }

  private String existing(List<Name> outer) {
    var names = new ArrayList<Name>();
    String from = from(names, 0);
    Name inside = anyKey(names);
    Name outside = anyKey(outer);
    String where =
        inside == null || outside == null ? "" : " where " + inside.text() + " = " + outside.text();
    return choices.of(List.of("exists ", "not exists ")) + "(select 1" + from + where + ")";
  }
}
