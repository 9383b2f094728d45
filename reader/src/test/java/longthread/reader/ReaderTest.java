package longthread.reader;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import longthread.core.sql.SqlReader;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What needs no database; the rest is tested with a real one, in the service. */
class ReaderTest {
  @Test
  void labels_stand_in_brackets_in_a_comment() {
    assertThat(Labels.of("Account [labels: personal, bank] of the farm"))
        .isEqualTo(new Labels("Account of the farm", List.of("personal", "bank")));
    assertThat(Labels.of("[label: personal]")).isEqualTo(new Labels(null, List.of("personal")));
    assertThat(Labels.of(null)).isEqualTo(new Labels(null, List.of()));
  }

  @Test
  void an_address_gives_the_namespace_of_the_standard_and_never_holds_a_password() {
    PostgresSettings settings =
        PostgresSettings.of("postgresql://Ada@DB.example/shop", null, null, List.of());
    assertThat(settings.namespace()).isEqualTo("postgres://db.example:5432");
    assertThat(settings.user()).isEqualTo("Ada");
    assertThatThrownBy(() -> PostgresSettings.of("postgres://a:hush@h/d", null, null, List.of()))
        .hasMessageContaining("password")
        .hasMessageNotContaining("hush");
    assertThatThrownBy(() -> PostgresSettings.of("mysql://a@h/d", null, null, List.of()))
        .hasMessageContaining("postgres://user@host");
    assertThatThrownBy(() -> PostgresSettings.of("postgres://h/d", null, null, List.of()))
        .hasMessageContaining("no user");
  }

  @Test
  void the_writing_statements_of_a_body_are_found_between_its_other_words() {
    assertThat(
            Statements.ofBody(
                "plpgsql",
                """
                declare n int; begin
                  if n > 0 then insert into s.t select a from s.u; end if;
                  perform 1; -- delete from s.no; comment
                  raise notice 'insert into s.never';
                  update s.t set a = 'x;y';
                end"""))
        .containsExactly("insert into s.t select a from s.u", "update s.t set a = 'x;y'");
    assertThat(Statements.ofBody("sql", "begin atomic insert into s.t select 1; end"))
        .containsExactly("insert into s.t select 1");
  }

  @Test
  void statements_of_one_shape_count_together_by_user() {
    try (var sql = new SqlReader()) {
      var statements = new Statements(sql);
      statements.add("ada", "select a from s.t where d = '2031-01-01'", 2);
      statements.add("ada", "select a from s.t where d = '2031-01-02'", 1);
      statements.add("etl", "insert into s.u (a) select a from s.t", 4);
      statements.add("etl", "vacuum", 9);
      assertThat(statements.readers()).isEqualTo(Map.of("s.t", Map.of("ada", 3L, "etl", 4L)));
      assertThat(statements.writing().values())
          .singleElement()
          .satisfies(w -> assertThat(w.target()).isEqualTo("s.u"));
    }
  }

  @Test
  void a_log_is_read_on_from_where_it_was_left(@TempDir Path folder) throws IOException {
    Path log = folder.resolve("log.csv");
    String line =
        "2031-05-01 06:00:0%d.123 UTC,\"%s\",\"%s\",1,x,x,1,x,x,x,0,LOG,00000,\"%s\",,,,,,,,,x,x,,0\n";
    Files.writeString(
        log,
        line.formatted(1, "ada", "shop", "statement: select 1\n, 2")
            + line.formatted(2, "ada", "other", "statement: select 3")
            + line.formatted(3, "ben", "shop", "duration: 1.5 ms  execute x: select \"\"a\"\"")
            + line.formatted(4, "ben", "shop", "checkpoint starting")
            + "a broken line\n");
    var ran = new ArrayList<String>();
    Instant newest =
        QueryLog.read(log, "shop", null, (at, user, text) -> ran.add(user + " " + text));
    assertThat(ran).containsExactly("ada select 1\n, 2", "ben select \"a\"");
    assertThat(newest).isEqualTo(Instant.parse("2031-05-01T06:00:03.123Z"));
    ran.clear();
    QueryLog.read(log, "shop", newest, (at, user, text) -> ran.add(text));
    assertThat(ran).isEmpty();
  }

  @Test
  void what_was_read_last_is_kept_as_text() {
    var state = new ReadingState(Map.of("n/t", "abc"), Map.of("ada 1", 7L), Instant.EPOCH, null);
    assertThat(ReadingState.parse(state.text())).isEqualTo(state);
  }
}
