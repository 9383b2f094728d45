package longthread.service.truth;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;

/**
 * A small estate that can be run: source tables, and jobs and views that make one thing out of
 * others, in the order in which they run. Everything has the same four columns, so that any can be
 * made of any.
 */
final class RandomEstate {
  static final List<String> COLUMNS = List.of("k", "c", "v", "n");
  static final String DEFINITION = "(k int, c text, v numeric, n int)";

  private static final int SOURCES = 3;
  private static final int MAKERS = 9;

  /**
   * A job or a view.
   *
   * @param name of the job; of a view its own
   * @param target the table or view it makes
   * @param sql a script, or the query of a view
   */
  record Maker(String name, String target, boolean isView, String sql) {
    /** Its reference in the catalog. */
    String ref() {
      return isView ? reference(target) : "@jobs/" + name;
    }
  }

  private final Random random;
  private final List<String> sources = new ArrayList<>();
  private final List<String> tables = new ArrayList<>();
  private final List<Maker> makers = new ArrayList<>();

  RandomEstate(long seed) {
    random = new Random(seed);
    for (int i = 1; i <= SOURCES; i++) {
      sources.add("s" + i);
    }
    for (int i = 1; i <= MAKERS; i++) {
      makers.add(maker(i));
    }
  }

  static String reference(String table) {
    return "postgres://truth:5432/truth.public." + table;
  }

  List<String> sources() {
    return sources;
  }

  /** The tables that jobs write, without the views. */
  List<String> tables() {
    return tables;
  }

  List<Maker> makers() {
    return makers;
  }

  private Maker maker(int number) {
    int how = random.nextInt(10);
    if (how < 3) {
      return new Maker("v" + number, "v" + number, true, query());
    }
    if (how == 3 && !tables.isEmpty()) {
      String table = of(tables); // written once more, from itself or from another
      return new Maker("j" + number, table, false, of(List.of(fix(table), adopt(table))));
    }
    if (how == 4 && !tables.isEmpty()) {
      String table = of(tables);
      return new Maker("j" + number, table, false, insert(table, query()));
    }
    String table = "t" + number;
    String script =
        how == 5
            ? "create temp table step as "
                + query()
                + ";\ndelete from "
                + table
                + ";\n"
                + insert(table, "select k, c, v, n from step where n is not null")
                + ";\ndrop table step"
            : "delete from " + table + ";\n" + insert(table, query());
    var maker = new Maker("j" + number, table, false, script);
    tables.add(table);
    return maker;
  }

  private static String insert(String table, String query) {
    return "insert into " + table + " (k, c, v, n)\n" + query;
  }

  private static String fix(String table) {
    return "update " + table + " set v = v + 1 where n > 2";
  }

  private String adopt(String table) {
    String other = input();
    return "update %1$s set v = (select max(o.v) from %2$s o where o.k = %1$s.k)"
        .formatted(table, other);
  }

  private String input() {
    var all = new ArrayList<>(sources);
    all.addAll(tables);
    makers.stream().filter(Maker::isView).map(Maker::target).forEach(all::add);
    return of(all);
  }

  private String query() {
    return switch (random.nextInt(8)) {
      case 0, 1, 2 -> plain();
      case 3, 4 -> aggregate();
      case 5 -> plain() + (random.nextBoolean() ? "\nunion all\n" : "\nunion\n") + plain();
      case 6 -> "with first as (" + plain() + ")\n" + selected("distinct ", "first a", "");
      default -> selected("", input() + " a", "") + "\norder by a.v, a.k, a.c, a.n limit 7";
    };
  }

  private String plain() {
    if (random.nextInt(3) > 0) {
      return selected("", input() + " a", where());
    }
    String join = random.nextBoolean() ? " a join " : " a left join ";
    String more = random.nextInt(3) == 0 ? " and b.n > 1" : "";
    return joined(input() + join + input() + " b on b.k = a.k" + more, where());
  }

  private String selected(String distinct, String from, String where) {
    return "select "
        + distinct
        + of(List.of("a.k", "a.k + 1", "a.k"))
        + " as k, "
        + text()
        + " as c, "
        + number()
        + " as v, "
        + whole()
        + " as n\nfrom "
        + from
        + where;
  }

  private String joined(String from, String where) {
    return "select a.k as k, "
        + of(List.of("coalesce(b.c, a.c)", "a.c", "b.c"))
        + " as c, "
        + of(List.of("a.v + coalesce(b.v, 0)", "b.v", "a.v"))
        + " as v, "
        + of(List.of("coalesce(b.n, 0)", "a.n", "a.n + b.n"))
        + " as n\nfrom "
        + from
        + where;
  }

  private String aggregate() {
    String join = random.nextInt(3) == 0 ? " join " + input() + " b on b.k = a.k" : "";
    String having = random.nextInt(3) == 0 ? " having sum(a.v) > 60" : "";
    return "select "
        + of(List.of("min(a.k)", "max(a.k)"))
        + " as k, a.c as c, "
        + of(List.of("sum(a.v)", "max(a.v)", "sum(a.v) filter (where a.n > 1)"))
        + " as v, "
        + of(List.of("count(*)::int", "count(distinct a.n)::int", "sum(a.n)::int"))
        + " as n\nfrom "
        + input()
        + " a"
        + join
        + where()
        + "\ngroup by a.c"
        + having;
  }

  private String text() {
    return of(
        List.of(
            "a.c",
            "upper(a.c)",
            "'x'",
            "md5(a.c)",
            "case when a.v > 40 then a.c else 'low' end",
            "coalesce(a.c, 'none')",
            "a.c || a.n"));
  }

  private String number() {
    return of(
        List.of(
            "a.v",
            "a.v * 2",
            "5",
            "case a.c when 'a' then a.v else 0 end",
            "(select max(o.v) from " + input() + " o)",
            "a.v - lag(a.v, 1, 0) over (order by a.k, a.v, a.c, a.n)"));
  }

  private String whole() {
    return of(
        List.of(
            "a.n",
            "a.n + a.k",
            "1",
            "(row_number() over (order by a.v, a.k, a.c, a.n))::int",
            "(count(*) over (partition by a.c))::int"));
  }

  private String where() {
    return of(
        List.of(
            "",
            "",
            "\nwhere a.v > 30",
            "\nwhere a.c <> 'b'",
            "\nwhere a.n in (select o.n from " + input() + " o where o.v > 20)",
            "\nwhere exists (select 1 from " + input() + " o where o.k = a.k)"));
  }

  private <T> T of(List<T> list) {
    return list.get(random.nextInt(list.size()));
  }
}
