package longthread.core.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/**
 * What a text may take: however it is made, it ends by a count of its work and not by the clock.
 */
class SqlWorkTest {
  private static final KnownTables TABLES =
      new KnownTables(
          Map.of("t", List.of(new KnownColumn("a", "int"), new KnownColumn("b", "int"))),
          List.of());

  /** A time so long that only the count of work can end a statement. */
  private static final SqlReader.Limits NO_CLOCK =
      new SqlReader.Limits(Duration.ofMinutes(5), 200, 1_000_000);

  private static List<SqlStatement> read(String sql) {
    try (var reader = new SqlReader(new Functions(Set.of()), NO_CLOCK)) {
      return reader.read(sql, Dialect.POSTGRES, TABLES);
    }
  }

  private static String list(int n, String each, String between) {
    return IntStream.range(0, n)
        .mapToObj(i -> each.replace("#", "" + i).replace("@", "" + (i + 1)))
        .collect(Collectors.joining(between));
  }

  private static String doubling(int times) {
    return "with q0 as (select * from t), "
        + list(times, "q@ as (select * from q# x cross join q# y)", ", ")
        + " select * from q"
        + times;
  }

  @Test
  void a_text_that_doubles_its_columns_twenty_times_is_only_scanned() {
    SqlStatement statement = read(doubling(20)).get(0);
    assertThat(statement.complete()).isFalse();
    assertThat(statement.reads()).containsExactly("t");
    assertThat(statement.problems().get(0).what()).contains("more than 400000 columns");
    assertThat(statement.problems().get(0).retryable()).isFalse();
    assertThat(read(doubling(5)).get(0).outputs()).hasSize(64);
  }

  @ParameterizedTest
  @ValueSource(ints = {1_000, 3_000})
  void long_lists_and_chains_are_understood_whole(int n) {
    List<String> texts =
        List.of(
            "with q0 as (select a, b from t), "
                + list(n, "q@ as (select a, b from q#)", ", ")
                + " select a from q"
                + n,
            "select a from t where " + list(n, "c# > b", " and ").replace("c", "t.a + "),
            "select " + list(n, "a + b as c#", ", ") + " from t",
            "select " + list(n, "a", " + ") + " as s from t",
            list(n, "select a, b from t", " union all "),
            "select case " + list(n, "when a = # then b", " ") + " end as c from t",
            "insert into w (a, b) values " + list(n, "(#, 'x')", ", "));
    for (String text : texts) {
      List<SqlStatement> statements = read(text);
      assertThat(statements).hasSize(1);
      assertThat(statements.get(0).complete()).as(text.substring(0, 60)).isTrue();
    }
  }

  @Test
  void a_long_chain_of_steps_shows_every_step_that_computes() {
    int n = 500;
    String text =
        "with q0 as (select a from t), "
            + list(n, "q@ as (select a + # as a from q#)", ", ")
            + " select a from q"
            + n;
    SqlStatement.Output output = read(text).get(0).outputs().get(0);
    assertThat(output.spans()).hasSize(n + 2);
    assertThat(output.direct()).extracting(SqlStatement.Source::column).containsExactly("a");
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "select a from t where b in (;)",
        "select a, b from (;) q",
        "select (;) as x from t",
        "coalesce(;, 1)",
        "case when b > 1 then a else ; end"
      })
  void deep_nesting_is_only_scanned_however_it_nests(String form) {
    String[] parts = form.split(";");
    String core = parts[0].startsWith("select") ? "select a, b from t" : "a";
    String nested = parts[0].repeat(2_000) + core + parts[1].repeat(2_000);
    String text = parts[0].startsWith("select") ? nested : "select " + nested + " from t";
    SqlStatement statement = read(text).get(0);
    assertThat(statement.problems().get(0).what()).contains("nested deeper than 200");
    assertThat(statement.reads()).containsExactly("t");
  }

  @Test
  void bodies_in_bodies_do_not_end_the_reader() {
    String text = "insert into w select a from t;";
    for (int i = 0; i < 2_000; i++) {
      text = "do $q" + i + "$ " + text + " $q" + i + "$";
    }
    assertThat(read(text)).allMatch(statement -> !statement.complete());
  }

  @Test
  void the_statements_of_a_script_share_a_budget() {
    String text = list(12, doubling(15).replace("q", "z#_"), "; ") + "; select a from t";
    List<SqlStatement> statements = read(text);
    assertThat(statements).hasSize(13);
    assertThat(statements.get(12).reads()).containsExactly("t");
  }

  @Test
  void nothing_works_on_behind_the_answer() throws Exception {
    try (var reader =
        new SqlReader(
            new Functions(Set.of()), new SqlReader.Limits(Duration.ofMillis(30), 200, 1_000_000))) {
      String slow = "select " + list(30_000, "a + # as c#", ", ") + " from t";
      assertThat(reader.read(slow, Dialect.ANSI, TABLES).get(0).problems().get(0).retryable())
          .isTrue();
      for (Thread thread : Thread.getAllStackTraces().keySet()) {
        if (thread.getName().equals("sql-reader")) {
          assertThat(thread.getStackTrace())
              .noneMatch(frame -> frame.getClassName().startsWith("net.sf.jsqlparser"));
        }
      }
    }
  }

  @Test
  void many_callers_at_once_wait_for_room_and_are_all_answered() throws Exception {
    var callers = Executors.newFixedThreadPool(8);
    Callable<String> call = () -> read(doubling(18)).get(0).problems().get(0).what();
    for (Future<String> answer : callers.invokeAll(java.util.Collections.nCopies(24, call))) {
      assertThat(answer.get()).contains("more than 400000 columns");
    }
    callers.shutdown();
  }
}
