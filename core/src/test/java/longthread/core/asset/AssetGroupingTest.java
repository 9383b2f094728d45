package longthread.core.asset;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import longthread.core.asset.AssetGrouping.Symlink;
import org.junit.jupiter.api.Test;

class AssetGroupingTest {
  private final AssetGrouping grouping = new AssetGrouping(FoldingRules.builtIn());
  private final DatasetName path = new DatasetName("s3://lake", "warehouse/pickup");
  private final DatasetName table = new DatasetName("hive://meta:10000", "core.pickup");

  @Test
  void a_name_alone_is_its_own_asset() {
    grouping.add(path);
    assertThat(grouping.partsOf(path)).containsExactly(path);
    assertThat(grouping.leadOf(path)).isEqualTo(path);
  }

  @Test
  void a_symlink_joins_both_names_under_the_tables() {
    grouping.setSymlinks(path, List.of(new Symlink(table, AssetGrouping.Why.TABLE)));
    assertThat(grouping.partsOf(table)).containsExactlyInAnyOrder(path, table);
    assertThat(grouping.leadOf(path)).isEqualTo(table);
  }

  @Test
  void taking_a_symlink_away_parts_them_again() {
    grouping.setSymlinks(path, List.of(new Symlink(table, AssetGrouping.Why.TABLE)));
    grouping.setSymlinks(path, List.of());
    assertThat(grouping.partsOf(table)).containsExactly(table);
  }

  @Test
  void a_left_out_default_port_and_the_case_of_a_host_make_no_difference() {
    var full = new DatasetName("postgres://Barn.example:5432", "a.b.c");
    var bare = new DatasetName("postgres://barn.example", "a.b.c");
    grouping.add(full);
    grouping.add(bare);
    assertThat(grouping.partsOf(bare)).containsExactlyInAnyOrder(full, bare);
    assertThat(NamingRules.canonical(new DatasetName("postgres://barn.example", "A.b")))
        .isNotEqualTo(NamingRules.canonical(new DatasetName("postgres://barn.example", "a.b")));
  }

  @Test
  void chains_and_loops_of_symlinks_end() {
    var third = new DatasetName("x", "y");
    grouping.setSymlinks(path, List.of(new Symlink(table, AssetGrouping.Why.ALIAS)));
    grouping.setSymlinks(table, List.of(new Symlink(third, AssetGrouping.Why.ALIAS)));
    grouping.setSymlinks(third, List.of(new Symlink(path, AssetGrouping.Why.ALIAS)));
    assertThat(grouping.partsOf(third)).hasSize(3);
  }

  @Test
  void more_parts_than_make_sense_are_left_apart() {
    for (int i = 0; i <= AssetGrouping.LARGEST; i++) {
      grouping.setSymlinks(
          new DatasetName("n", "part" + i), List.of(new Symlink(table, AssetGrouping.Why.TABLE)));
    }
    assertThat(grouping.partsOf(table)).containsExactly(table);
  }

  @Test
  void partitions_and_the_root_they_lie_in_are_one_asset_however_many() {
    var root = new DatasetName("s3://lake", "raw/pickup");
    grouping.add(new DatasetName("s3://lake", "raw/pickup/day=2031-05-01/part-00000.parquet"));
    for (int day = 1; day <= 3 * AssetGrouping.LARGEST; day++) {
      grouping.add(new DatasetName("s3://lake", "raw/pickup/day=" + day));
    }
    assertThat(grouping.leadOf(new DatasetName("s3://lake", "raw/pickup/day=7"))).isEqualTo(root);
    grouping.add(root);
    assertThat(grouping.partsOf(root)).hasSize(3 * AssetGrouping.LARGEST + 2);
    grouping.setSymlinks(root, List.of(new Symlink(table, AssetGrouping.Why.TABLE)));
    assertThat(grouping.leadOf(new DatasetName("s3://lake", "raw/pickup/day=7"))).isEqualTo(table);
  }

  @Test
  void a_chain_of_renames_leads_to_the_newest_name() {
    var first = new DatasetName("n", "z");
    var second = new DatasetName("n", "m");
    var third = new DatasetName("n", "a");
    grouping.setSymlinks(first, List.of(new Symlink(second, AssetGrouping.Why.TABLE)));
    grouping.setSymlinks(second, List.of(new Symlink(third, AssetGrouping.Why.TABLE)));
    assertThat(grouping.leadOf(first)).isEqualTo(third);
    grouping.setSymlinks(second, List.of());
    assertThat(grouping.leadOf(first)).isEqualTo(second);
    assertThat(grouping.leadOf(third)).isEqualTo(third);
  }

  @Test
  void a_link_of_one_name_may_move_another_that_it_hangs_with() {
    var third = new DatasetName("x", "c");
    var fourth = new DatasetName("x", "d");
    grouping.holdApart(path, List.of(fourth));
    grouping.setSymlinks(path, List.of(new Symlink(table, AssetGrouping.Why.ALIAS)));
    grouping.setSymlinks(third, List.of(new Symlink(fourth, AssetGrouping.Why.HAND)));
    assertThat(grouping.partsOf(table)).containsExactlyInAnyOrder(table, path);
    grouping.setSymlinks(table, List.of(new Symlink(third, AssetGrouping.Why.HAND)));
    assertThat(grouping.partsOf(fourth)).containsExactlyInAnyOrder(fourth, third, table);
    assertThat(grouping.partsOf(path)).as("moved by a link of others").containsExactly(path);
    assertThat(grouping.hangingWith(third)).containsExactlyInAnyOrder(path, table, third, fourth);
  }
}
