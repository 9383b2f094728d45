package longthread.bench;

import java.io.IOException;
import java.lang.management.ManagementFactory;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.sql.Dialect;
import longthread.core.sql.Functions;
import longthread.core.sql.KnownTables;
import longthread.core.sql.SqlReader;
import longthread.core.sql.SqlStatement;
import net.sf.jsqlparser.parser.CCJSqlParserUtil;
import net.sf.jsqlparser.parser.ParseException;

/**
 * Statements a CPU-second, of the parser alone and of the whole reading, in turns over the same
 * texts; whether a long script costs in proportion to its length; and how long the worst text
 * takes.
 *
 * <p>{@code SqlBench FILE [ROUNDS]}, where FILE holds statements that end in a semicolon and a new
 * line.
 */
public final class SqlBench {
  private static final int WARM_UP = 4;
  private static final int REPEATS = 30;
  private static final int SHORT_SCRIPT = 1_000;
  private static final int LONG_SCRIPT = 10_000;
  private static final int DEPTH = 190;

  private SqlBench() {}

  public static void main(String[] args) throws IOException {
    List<String> texts = texts(Path.of(args[0]));
    int rounds = args.length > 1 ? Integer.parseInt(args[1]) : 5;
    try (var reader = new SqlReader()) {
      for (int i = 0; i < WARM_UP; i++) {
        parseAll(texts);
        readAll(reader, texts);
      }
      System.out.println("round  parse/s  whole/s  ratio");
      for (int round = 1; round <= rounds; round++) {
        double parse = cpuSeconds(() -> parseAll(texts));
        double whole = cpuSeconds(() -> readAll(reader, texts));
        double statements = (double) texts.size() * REPEATS;
        System.out.printf(
            "%5d  %7.0f  %7.0f  %.2f%n",
            round, statements / parse, statements / whole, whole / parse);
      }
      script(reader);
      worst();
    }
  }

  private static List<String> texts(Path file) throws IOException {
    var texts = new ArrayList<String>();
    for (String one : Files.readString(file).split(";\\s*\n")) {
      if (!one.isBlank()) {
        texts.add(one.strip());
      }
    }
    return texts;
  }

  private static void parseAll(List<String> texts) {
    for (int i = 0; i < REPEATS; i++) {
      for (String text : texts) {
        try {
          CCJSqlParserUtil.newParser(text).withAllowComplexParsing(true).Statement();
        } catch (ParseException e) {
          throw new IllegalStateException(text, e);
        }
      }
    }
  }

  private static void readAll(SqlReader reader, List<String> texts) {
    for (int i = 0; i < REPEATS; i++) {
      for (String text : texts) {
        List<SqlStatement> read = reader.read(text, Dialect.POSTGRES, KnownTables.NONE);
        if (read.isEmpty()) {
          throw new IllegalStateException(text);
        }
      }
    }
  }

  /** The CPU time of the whole process: the reading works on threads of its own. */
  private static double cpuSeconds(Runnable work) {
    var system =
        (com.sun.management.OperatingSystemMXBean) ManagementFactory.getOperatingSystemMXBean();
    long before = system.getProcessCpuTime();
    work.run();
    return (system.getProcessCpuTime() - before) / 1e9;
  }

  private static void script(SqlReader reader) {
    double small = cpuSeconds(() -> reader.read(lines(SHORT_SCRIPT), Dialect.POSTGRES, known()));
    small = cpuSeconds(() -> reader.read(lines(SHORT_SCRIPT), Dialect.POSTGRES, known()));
    double big = cpuSeconds(() -> reader.read(lines(LONG_SCRIPT), Dialect.POSTGRES, known()));
    System.out.printf(
        "script of %d lines %.2f s CPU, of %d lines %.2f s: %.1f times%n",
        SHORT_SCRIPT, small, LONG_SCRIPT, big, big / small);
  }

  private static KnownTables known() {
    return new KnownTables(Map.of(), List.of());
  }

  private static String lines(int count) {
    var script = new StringBuilder();
    for (int i = 0; i < count / 5; i++) {
      script
          .append("insert into mart.t")
          .append(i)
          .append(" (a, b)\n")
          .append("select x.a, sum(x.b)\n")
          .append("from core.s")
          .append(i)
          .append(" x\n")
          .append("where x.c > ")
          .append(i)
          .append("\n")
          .append("group by x.a;\n");
    }
    return script.toString();
  }

  private static void worst() {
    var limits = new SqlReader.Limits(Duration.ofSeconds(2), 200, 1_000_000);
    try (var reader = new SqlReader(new Functions(Set.of()), limits)) {
      for (String open : List.of("(", "coalesce(a, ", "case when a = (", "(select ")) {
        String close = open.startsWith("case") ? ") then 1 end" : ")";
        String text = "select " + open.repeat(DEPTH) + "1" + close.repeat(DEPTH) + " from t";
        long before = System.nanoTime();
        SqlStatement statement = reader.read(text, Dialect.ANSI, KnownTables.NONE).get(0);
        System.out.printf(
            "%d times «%s»: %.2f s, %s%n",
            DEPTH,
            open.strip(),
            (System.nanoTime() - before) / 1e9,
            statement.complete() ? "complete" : statement.problems().get(0).what());
      }
    }
  }
}
