package longthread.bench;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.function.IntFunction;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import longthread.core.sql.Dialect;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.KnownTables;
import longthread.core.sql.SqlReader;
import longthread.core.sql.SqlStatement;

/**
 * What SQL of a regular shape costs as it grows: each shape at three sizes, one caller at a time,
 * then all of them by eight callers at once.
 *
 * <p>Run with a small heap, which the last part must survive: {@code java -Xmx512m -cp …
 * longthread.bench.SqlShapes 100 1000 10000}.
 */
public final class SqlShapes {
  private static final int CALLERS = 8;
  private static final KnownTables TABLES =
      new KnownTables(
          Map.of("t", List.of(new KnownColumn("a", "int"), new KnownColumn("b", "int"))),
          List.of());

  private SqlShapes() {}

  private static String list(int n, String each, String between) {
    return IntStream.range(0, n)
        .mapToObj(i -> each.replace("#", "" + i).replace("@", "" + (i + 1)))
        .collect(Collectors.joining(between));
  }

  private static String nested(int n, String open, String core, String close) {
    return open.repeat(n) + core + close.repeat(n);
  }

  static Map<String, IntFunction<String>> shapes() {
    var all = new LinkedHashMap<String, IntFunction<String>>();
    all.put("from in from", n -> nested(n, "select a, b from (", "select a, b from t", ") q"));
    all.put("in in in", n -> nested(n, "select a from t where b in (", "select b from t", ")"));
    all.put("scalar", n -> nested(n, "select (", "select max(a) from t", ") as x from t"));
    all.put("parentheses", n -> "select " + nested(n, "(", "a", ")") + " from t");
    all.put("calls", n -> "select " + nested(n, "coalesce(", "a", ", 1)") + " from t");
    all.put("case", n -> "select " + nested(n, "case when b > 1 then a else ", "a", " end"));
    all.put(
        "doubling",
        n ->
            "with q0 as (select * from t), "
                + list(Integer.toString(n).length() * 6, "q@ as (select * from q# x, q# y)", ", ")
                + " select * from q1");
    all.put(
        "chain of ctes",
        n ->
            "with q0 as (select a, b from t), "
                + list(n, "q@ as (select a, b from q#)", ", ")
                + " select a from q"
                + n);
    all.put("union all", n -> list(n, "select a, b from t", " union all "));
    all.put("intersect", n -> list(n, "select a, b from t", " intersect "));
    all.put("or", n -> "select a from t where " + list(n, "a = #", " or "));
    all.put("and of columns", n -> "select a from u where " + list(n, "c# > b", " and "));
    all.put("sum of columns", n -> "select " + list(n, "c#", " + ") + " as x from u");
    all.put("in list", n -> "select a from t where b in (" + list(n, "'v#'", ", ") + ")");
    all.put("values", n -> "insert into w (a, b) values " + list(n, "(#, 'x')", ", "));
    all.put("select list", n -> "select " + list(n, "c#", ", ") + " from u");
    all.put(
        "case branches", n -> "select case " + list(n, "when a = # then b", " ") + " end x from t");
    all.put("list of calls", n -> "select " + list(n, "coalesce(a, b, #) as f#", ", ") + " from t");
    all.put("statements", n -> list(n, "insert into w# select a from t", "; "));
    all.put(
        "temporary tables",
        n ->
            "create temp table q0 as select a, b from t; "
                + list(n, "create temp table q@ as select a, b from q#", "; "));
    all.put(
        "group by",
        n -> "select " + list(n, "c#", ", ") + " from u group by " + list(n, "c#", ", "));
    return all;
  }

  /** Prints a line for each shape: characters, milliseconds, and why it is partial if it is. */
  public static void main(String[] sizes) throws Exception {
    List<Integer> wanted = java.util.Arrays.stream(sizes).map(Integer::valueOf).toList();
    try (var reader = new SqlReader()) {
      for (int i = 0; i < 300; i++) {
        reader.read(shapes().get("case branches").apply(30), Dialect.ANSI, TABLES); // warms up
      }
      for (Map.Entry<String, IntFunction<String>> shape : shapes().entrySet()) {
        var line = new StringBuilder(String.format(Locale.ROOT, "%-18s", shape.getKey()));
        for (int size : wanted) {
          String text = shape.getValue().apply(size);
          long began = System.nanoTime();
          List<SqlStatement> found = reader.read(text, Dialect.ANSI, TABLES);
          double millis = (System.nanoTime() - began) / 1e6;
          boolean isWhole = found.stream().allMatch(SqlStatement::complete);
          line.append(
              String.format(
                  Locale.ROOT,
                  " | %,9d %,9.1f %s",
                  text.length(),
                  millis,
                  isWhole ? "" : "partial"));
        }
        System.out.println(line);
      }
      eightCallers(reader, wanted);
    }
  }

  private static void eightCallers(SqlReader reader, List<Integer> sizes) throws Exception {
    var callers = Executors.newFixedThreadPool(CALLERS);
    var answers = new ArrayList<Future<?>>();
    long began = System.nanoTime();
    for (IntFunction<String> shape : shapes().values()) {
      for (int size : sizes) {
        for (int caller = 0; caller < CALLERS; caller++) {
          answers.add(
              callers.submit(() -> reader.read(shape.apply(size), Dialect.ANSI, TABLES).size()));
        }
      }
    }
    for (Future<?> answer : answers) {
      answer.get();
    }
    callers.shutdown();
    System.out.printf(
        Locale.ROOT,
        "%d texts by %d callers in %.0f s, heap %d MiB%n",
        answers.size(),
        CALLERS,
        (System.nanoTime() - began) / 1e9,
        Runtime.getRuntime().maxMemory() >> 20);
  }
}
