package longthread.core.exact;

import static org.assertj.core.api.Assertions.assertThat;

import longthread.core.sql.Dialect;
import longthread.core.sql.TableChange;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class WriteModesTest {
  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      value = {
        "insert into core.pickup select * from raw.pickup|ADDS",
        "with x as (select 1) insert into core.pickup select * from x|ADDS",
        "copy core.pickup from stdin|ADDS",
        "copy core.pickup from stdin; update core.pickup set d = 1 where d is null|ADDS",
        "insert into core.pickup values (1) on conflict (id) do nothing|ADDS",
        "insert into core.pickup values (1) on conflict (id) do update set a = 1|CHANGES",
        "merge into core.pickup using s on a = b when matched then update set x = 1|CHANGES",
        "update core.pickup set a = 1|CHANGES",
        "delete from core.pickup where a = 1|CHANGES",
        "delete from core.pickup; insert into core.pickup select 1|REPLACES",
        "truncate table core.pickup; insert into core.pickup select 1|REPLACES",
        "create table core.pickup as select 1|REPLACES",
        "create or replace table core.pickup as select 1|REPLACES",
        "create table if not exists core.pickup (a int); insert into core.pickup select 1|ADDS",
        "insert overwrite table core.pickup select 1|REPLACES",
        "insert overwrite table core.pickup partition (d = 1) select 1|CHANGES",
        "refresh materialized view core.pickup|REPLACES",
        "delete from core.pickup where d = 1; insert into core.pickup select 1|REPLACES part",
        "insert into core.pickup select 1; delete from core.pickup where d < 1|CHANGES",
        "delete from core.other; insert into core.pickup select 1|ADDS",
        "insert into pickup select 1|ADDS",
        "select * from core.pickup|none",
        "insert into core.pickup_archive select 1|none",
      })
  void what_a_run_does_to_a_table_is_read_from_its_sql(String sql, String expected) {
    WriteModes.BySql found =
        WriteModes.of(TableChange.of(sql, Dialect.POSTGRES), "barn.core.pickup", false);
    String words = found == null ? "none" : found.mode() + (found.part() ? " part" : "");
    assertThat(words).isEqualTo(expected);
  }

  @ParameterizedTest
  @CsvSource({"OVERWRITE,REPLACES", "truncate,REPLACES", "ALTER,", "RENAME,"})
  void a_lifecycle_change_may_say_it(String word, WriteMode expected) {
    assertThat(WriteModes.ofLifecycle(word)).isEqualTo(expected);
  }
}
