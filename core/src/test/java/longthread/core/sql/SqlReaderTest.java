package longthread.core.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.api.Test;

class SqlReaderTest {
  private static final SqlReader READER = new SqlReader();

  private static List<SqlStatement> read(String sql) {
    return READER.read(sql, Dialect.POSTGRES, KnownTables.NONE);
  }

  private static String lit(String sql, SqlStatement statement, String output) {
    return statement.outputs().stream()
        .filter(o -> o.name().equals(output))
        .flatMap(o -> o.spans().stream())
        .map(s -> s.step() + ": " + s.span().of(sql))
        .reduce((one, other) -> one + "\n" + other)
        .orElse("");
  }

  @Test
  void an_output_lights_every_part_of_the_text_that_computes_it() {
    String sql =
        """
        -- what each farm is paid
        with net as (
          select farm_id, litres * 0.998 as l from pickup
        ),
        total as (select farm_id, sum(l) as l from net group by farm_id)
        insert into payout (farm_id, amount)
        select farm_id, round(l * 0.4, 2) from total
        """;
    assertThat(lit(sql, read(sql).get(0), "amount"))
        .isEqualTo("result: round(l * 0.4, 2)\ntotal: sum(l)\nnet: litres * 0.998");
  }

  @Test
  void positions_stand_in_the_text_as_given_whatever_was_rewritten() {
    String sql = "select a, from t; \n\n\n select @v as v, map['k', b] as m from {{ ref('u') }} x";
    List<SqlStatement> statements = read(sql);
    assertThat(lit(sql, statements.get(1), "v")).isEqualTo("result: @v");
    assertThat(lit(sql, statements.get(1), "m")).isEqualTo("result: map['k', b]");
  }

  @Test
  void steps_stand_in_order_with_what_each_is_made_of() {
    SqlStatement statement =
        read("with a as (select x + 1 as x from t) select x from a where x > 2").get(0);
    assertThat(statement.steps())
        .extracting(SqlStatement.Step::name)
        .containsExactly("a", "result");
    SqlStatement.StepColumn column = statement.steps().get(0).columns().get(0);
    assertThat(column.inPlace()).as("computed under its old name").isTrue();
    assertThat(statement.steps().get(1).rows().get(0).of()).isEqualTo("a");
  }

  @Test
  void a_statement_nested_too_deep_is_scanned_for_its_tables() {
    String deep = "(".repeat(300) + "1" + ")".repeat(300);
    SqlStatement statement = read("insert into x select " + deep + " from y").get(0);
    assertThat(statement.complete()).isFalse();
    assertThat(statement.target()).isEqualTo("x");
    assertThat(statement.reads()).containsExactly("y");
    assertThat(statement.problems().get(0).what()).contains("nested deeper than 200");
  }

  @Test
  void a_statement_that_takes_too_long_is_scanned_for_its_tables() {
    var hasty =
        new SqlReader(
            new Functions(Set.of()), new SqlReader.Limits(Duration.ofMillis(1), 200, 1_000_000));
    var big = new StringBuilder("select 1");
    for (int i = 0; i < 20_000; i++) {
      big.append(", a + ").append(i).append(" as c").append(i);
    }
    List<SqlStatement> statements = hasty.read(big + " from t", Dialect.ANSI, KnownTables.NONE);
    assertThat(statements.get(0).problems().get(0).what()).contains("within 1 ms");
    assertThat(statements.get(0).reads()).containsExactly("t");
    hasty.close();
  }

  @Test
  void a_short_statement_with_the_product_of_its_columns_is_scanned_for_its_tables() {
    var reader =
        new SqlReader(
            new Functions(Set.of()), new SqlReader.Limits(Duration.ofSeconds(60), 200, 1_000_000));
    for (int columns : new int[] {100, 1_500}) {
      String sum =
          IntStream.range(0, columns).mapToObj(i -> "c" + i).collect(Collectors.joining("+"));
      String outputs =
          IntStream.range(0, columns).mapToObj(i -> "s o" + i).collect(Collectors.joining(", "));
      String sql =
          "insert into wide with x as (select " + sum + " s from t) select " + outputs + " from x";
      SqlStatement statement = reader.read(sql, Dialect.ANSI, KnownTables.NONE).get(0);
      assertThat(statement.target()).isEqualTo("wide");
      assertThat(statement.reads()).containsExactly("t");
      assertThat(statement.outputs()).hasSize(columns == 100 ? 100 : 0);
      if (columns == 1_500) {
        assertThat(statement.problems().get(0).what()).contains("400000 columns and pairs");
      }
    }
    reader.close();
  }

  @Test
  void functions_named_by_the_user_mask_too() {
    var reader = new SqlReader(new Functions(Set.of("Scramble")), SqlReader.Limits.USUAL);
    SqlStatement statement =
        reader.read("select scramble(iban) c from farm", Dialect.ANSI, KnownTables.NONE).get(0);
    assertThat(statement.outputs().get(0).direct().get(0).masked()).isTrue();
    reader.close();
  }

  @Provide
  Arbitrary<String> texts() {
    Arbitrary<String> words =
        Arbitraries.of(
            "select",
            "from",
            "where",
            "(",
            ")",
            ",",
            "a",
            "t.b",
            "*",
            "'x",
            "'",
            "\"",
            "$$",
            ";",
            "with",
            "as",
            "insert into",
            "union",
            "case",
            "when",
            "end",
            "begin",
            "--",
            "/*",
            "*/",
            "{{",
            "}}",
            "join",
            "on",
            "=",
            "group by",
            "1",
            "\n\n\n",
            "merge",
            "update",
            "set",
            "copy",
            "delete",
            "[",
            "]",
            "`",
            "\\",
            "@",
            "#",
            "over",
            "create table",
            "drop");
    return words.list().ofMaxSize(40).map(list -> String.join(" ", list));
  }

  @Property(tries = 400)
  void no_text_is_an_error_and_every_place_lies_within_it(@ForAll("texts") String text) {
    for (Dialect dialect : Dialect.values()) {
      for (SqlStatement statement : READER.read(text, dialect, KnownTables.NONE)) {
        assertThat(statement.span().end()).isLessThanOrEqualTo(text.length());
        for (SqlProblem problem : statement.problems()) {
          assertThat(problem.span().end()).isLessThanOrEqualTo(text.length());
        }
        for (SqlStatement.Output output : statement.outputs()) {
          output
              .spans()
              .forEach(s -> assertThat(s.span().end()).isLessThanOrEqualTo(text.length()));
        }
      }
    }
  }
}
