package longthread.core.gate;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import longthread.core.sql.Dialect;
import longthread.core.sql.SqlReader;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class SqlChangesTest {
  private static final SqlReader READER = new SqlReader();

  @AfterAll
  static void close() {
    READER.close();
  }

  private static SqlChanges.Found between(String before, String after) {
    return SqlChanges.between(
        before.isBlank() ? Map.of() : Map.of("a.sql", before),
        after.isBlank() ? Map.of() : Map.of("a.sql", after),
        Dialect.POSTGRES,
        READER);
  }

  private static String words(SqlChanges.Found found) {
    return found.changes().stream()
        .map(c -> c.change() + " " + c.of() + (c.to() == null ? "" : " " + c.to()))
        .sorted()
        .collect(Collectors.joining("; "));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      value = {
        "create table s.t (a int)|drop s.t#b",
        "create table s.t (a bigint, b text)|retype s.t#a bigint",
        "create table s.t (a int, c text)|rename s.t#b c",
        "create table s.t (a int, c int)|drop s.t#b",
        "create table s.t (a int, b text, c date)|~~",
        "create table s.t (b text, a int)|~~",
        "CREATE TABLE s.t (a INT, b TEXT)|~~",
        "create table s.t (a int, b varchar(10) default 'x')|retype s.t#b varchar(10)",
        "create table s.t (a int, b text); alter table s.t rename column b to c|rename s.t#b c",
        "create table s.t (a int, b text); alter table s.t rename b to c|rename s.t#b c",
        "create table s.t (a int, b text); alter table s.t drop column if exists b|drop s.t#b",
        "create table s.t (a int, b text); alter table s.t alter column a type bigint|retype s.t#a bigint",
        "create table s.t (a int, b text); alter table s.t alter a set data type bigint|retype s.t#a bigint",
        "create table s.t (a int, b text); alter table s.t alter a set not null|~~",
        "create table s.t (a int, b text); alter table s.t add column c int, drop column b|drop s.t#b",
        "create table s.t (a int, b text); alter table s.t rename to u|rename s.t s.u",
        "create table s.t (a int, b text); drop table s.t|drop s.t",
        "create table s.t (a int, b text); alter table s.t add constraint k unique (b)|~~",
      })
  void tables_are_compared(String after, String expected) {
    assertThat(words(between("create table s.t (a int not null, b text, primary key (a))", after)))
        .isEqualTo(expected);
  }

  private static final String INSERT =
      "insert into core.pickup (id, litres, day)\nselect p.id, p.litres * 2, p.at::date\n"
          + "from raw.pickup p\nwhere p.litres > 20 and p.at::date = date '2031-05-01'";

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      value = {
        "p.litres * 2|p.litres * 3|values core.pickup#litres",
        "p.litres * 2|p.litres  *  2 /* twice */|~~",
        "p.litres > 20|p.litres > 30|rows core.pickup",
        "2031-05-01|2031-05-02|~~",
        "from raw.pickup p|from raw.pickup p join raw.farm f on f.id = p.farm_id|rows core.pickup",
        "(id, litres, day)|(id, litres, landed)|values core.pickup#day",
        "litres, day)|litres)|values core.pickup#day",
        "select p.id|select distinct p.id|rows core.pickup",
      })
  void a_statement_that_writes_is_compared(String old, String now, String expected) {
    String after = INSERT.replace(old, now);
    if (now.equals("litres)")) {
      after = after.replace(", p.at::date\n", "\n");
    }
    assertThat(words(between(INSERT, after))).isEqualTo(expected);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      value = {
        "select id, litres as volume_l from raw.pickup|rename v#litres volume_l",
        "select id from raw.pickup|drop v#litres",
        "select id, litres, day from raw.pickup|~~",
        "select id, litres * 2 as litres from raw.pickup|values v#litres",
        "select id, litres from raw.pickup where id > 3|rows v",
        "with x as (select id, litres + 1 as litres from raw.pickup) select id, litres from x|rows v; values v#id; values v#litres",
      })
  void a_view_is_compared(String query, String expected) {
    String before = "create view v as select id, litres from raw.pickup";
    assertThat(words(between(before, "create or replace view v as " + query))).isEqualTo(expected);
  }

  @Test
  void statements_that_come_and_go() {
    String two = "insert into t select a from b; insert into t select c from d";
    assertThat(words(between(two, "insert into t select a from b"))).isEqualTo("rows t");
    assertThat(words(between("insert into t select a from b", two))).isEqualTo("rows t");
    assertThat(words(between("insert into t select a from b", ""))).isEqualTo("delay t");
    assertThat(words(between("create view v as select a from b", ""))).isEqualTo("drop v");
  }

  private static final Map<String, String> OF_ONE_TABLE =
      Map.of(
          "clear", "delete from m.total where day < 5",
          "fill",
              "insert into m.total (farm, litres) select farm, sum(litres) from p group by farm",
          "more", "insert into m.total (farm, litres) select farm, litres from late",
          "twice",
              "insert into m.total (farm, litres) select farm, sum(litres) * 2 from p group by farm",
          "fix", "update m.total set litres = 0 where litres < 0");

  private static String script(String words) {
    return Stream.of(words.split(" ")).map(OF_ONE_TABLE::get).collect(Collectors.joining(";\n"));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      value = {
        "clear fill more|clear fill more|~~",
        "fill more|clear fill more|rows m.total: one more statement writes m.total",
        "clear fill more|fill more|rows m.total: one statement fewer writes m.total",
        "clear fill more|clear more|rows m.total: one statement fewer writes m.total",
        "fill clear|clear fill|rows m.total: the statements that write m.total run in another order",
        "fill more|clear twice more|rows m.total: one more statement writes m.total;"
            + " values m.total#litres: litres of m.total is computed otherwise",
        "fill fix|more twice fix|rows m.total: one more statement writes m.total;"
            + " values m.total#litres: litres of m.total is computed otherwise",
        "clear fix|fix clear fill|rows m.total: one more statement writes m.total;"
            + " rows m.total: the statements that write m.total run in another order",
      })
  void statements_of_one_table_are_matched_by_text_and_likeness(
      String before, String after, String expected) {
    String words =
        between(script(before), script(after)).changes().stream()
            .map(c -> c.change() + " " + c.of() + ": " + c.why())
            .sorted()
            .collect(Collectors.joining("; "));
    assertThat(words).isEqualTo(expected);
  }

  @Test
  void the_first_writer_of_a_table_changes_it_if_the_catalog_has_it() {
    SqlChanges.Found found = between("", "insert into core.pickup select a from b");
    assertThat(words(found)).isEqualTo("rows core.pickup");
    assertThat(found.changes()).allMatch(FoundChange::mayBeNew);
    assertThat(words(between("", "update t set a = 1"))).isEqualTo("values t");
    assertThat(words(between("", "create table x as select a from b")))
        .isEqualTo("rows x; values x");
    assertThat(between("insert into t select a from b", "").changes())
        .noneMatch(FoundChange::mayBeNew);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      value = {
        "delete from t where a < 3|delete from t where a < 4|rows t",
        "delete from t where a < 3|delete  from t where a < 3 -- old|~~",
        "truncate t|~~|rows t",
        "~~|truncate table s.t|rows s.t",
        "truncate t; insert into t select 1|truncate t; insert into t select 1|~~",
        "truncate t; insert into t select a from b|insert into t select a from b|rows t",
        "~~|alter table t drop partition (day = 3)|rows t",
        "~~|alter table t alter a set data type bigint|retype t#a bigint",
        "delete from t|delete from t; delete from u|rows u",
        "delete from t; delete from t where a = 1|delete from t|rows t",
        "with x as (select 1) delete from t using x|with x as (select 2) delete from t using x|rows t",
        "create temporary table h (a int); delete from h where a = 1|create temporary table h (a int); delete from h|~~",
      })
  void statements_that_take_rows_out_are_compared(String before, String after, String expected) {
    assertThat(words(between(before, after))).isEqualTo(expected);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      value = {
        "alter table core.farm drop column iban|drop core.farm#iban",
        "alter table core.farm rename column iban to account|rename core.farm#iban account",
        "alter table core.farm alter column herd type bigint, drop iban|drop core.farm#iban; retype core.farm#herd bigint",
        "alter table core.farm change iban account text|rename core.farm#iban account; retype core.farm#iban text",
        "alter table core.farm modify herd bigint|retype core.farm#herd bigint",
        "alter table core.farm rename to estate|rename core.farm core.estate",
        "drop table if exists core.farm, core.herd cascade|drop core.farm; drop core.herd",
        "drop view core.v|drop core.v",
        "alter table core.farm add column x int|~~",
        "alter table core.farm drop constraint k|~~",
        "alter table core.farm alter iban set not null|~~",
        "drop table if exists h; create table h as select a from b|rows h; values h",
      })
  void a_migration_alone_changes_tables_that_other_files_create(String after, String expected) {
    assertThat(words(between("", after))).isEqualTo(expected);
    assertThat(words(between(after, after))).as("it was there before").isEmpty();
    assertThat(words(between(after, after + ";\n" + "alter table z drop column q")))
        .isEqualTo("drop z#q");
  }

  @Test
  void names_and_columns_are_those_that_the_same_files_define() {
    String ddl = "create table s.t (a int, b int);\ncreate table s.u (x int, y int);\n";
    SqlChanges.Found found =
        between(
            ddl + "insert into s.t select x, y from s.u",
            ddl + "insert into s.t select y, x from s.u");
    assertThat(words(found)).isEqualTo("values s.t#a; values s.t#b");
    assertThat(found.notes()).isEmpty();
  }

  @Test
  void migrations_are_applied_in_the_order_of_their_paths() {
    Map<String, String> before = Map.of("V1.sql", "create table t (a int, litres int)");
    Map<String, String> after =
        Map.of(
            "V1.sql",
            "create table t (a int, litres int)",
            "V2.sql",
            "-- one name\nalter table t rename column litres to volume_l;\n"
                + "alter table t alter column volume_l type bigint");
    SqlChanges.Found found = SqlChanges.between(before, after, Dialect.POSTGRES, READER);
    assertThat(words(found)).isEqualTo("rename t#litres volume_l; retype t#litres bigint");
    assertThat(found.changes().get(0).file()).isEqualTo("V2.sql");
    assertThat(found.changes()).extracting(FoundChange::line).allMatch(line -> line >= 2);
  }

  @Test
  void text_that_is_not_understood_counts_as_changed_and_says_so() {
    SqlChanges.Found found =
        between("insert into t select weird(( from b", "insert into t select weird(( from c");
    assertThat(words(found)).isEqualTo("rows t; values t");
    assertThat(found.notes()).hasSize(1);
  }
}
