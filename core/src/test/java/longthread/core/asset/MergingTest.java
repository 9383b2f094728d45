package longthread.core.asset;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import longthread.core.asset.AssetGrouping.Symlink;
import longthread.core.asset.AssetGrouping.Why;
import longthread.core.asset.MergeCandidates.Candidate;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;

/** What people decide of names, and what is proposed to them. */
class MergingTest {
  private static DatasetName name(int i) {
    return new DatasetName("n", "t" + i);
  }

  private record Decided(DatasetName of, List<Symlink> links, List<DatasetName> apart) {}

  private static AssetGrouping grouping(Collection<Decided> all) {
    var grouping = new AssetGrouping(FoldingRules.builtIn());
    all.forEach(one -> grouping.holdApart(one.of(), one.apart()));
    all.forEach(one -> grouping.setSymlinks(one.of(), one.links()));
    return grouping;
  }

  private static Map<DatasetName, Collection<DatasetName>> parts(AssetGrouping grouping) {
    var parts = new TreeMap<DatasetName, Collection<DatasetName>>();
    for (int i = 0; i < 8; i++) {
      parts.put(name(i), grouping.partsOf(name(i)));
    }
    return parts;
  }

  /** Names held apart are never one, whatever joins them; no order makes a difference. */
  @Property(tries = 300)
  void names_held_apart_stay_apart_in_any_order(@ForAll long seed) {
    var random = new Random(seed);
    var all = new ArrayList<Decided>();
    for (int i = 0; i < 8; i++) {
      var links = new ArrayList<Symlink>();
      for (int k = random.nextInt(3); k > 0; k--) {
        Why why = Why.values()[random.nextInt(2) == 0 ? 0 : 3];
        links.add(new Symlink(name(random.nextInt(8)), why));
      }
      links.removeIf(link -> link.target().equals(name(all.size())));
      var apart = new ArrayList<DatasetName>();
      if (random.nextInt(3) == 0) {
        apart.add(name((i + 1 + random.nextInt(7)) % 8));
      }
      all.add(new Decided(name(i), links, apart));
    }
    AssetGrouping grouping = grouping(all);
    Map<DatasetName, Collection<DatasetName>> parts = parts(grouping);
    for (Decided one : all) {
      one.apart().forEach(other -> assertThat(parts.get(one.of())).doesNotContain(other));
    }
    parts.forEach(
        (name, group) ->
            group.forEach(other -> assertThat(new HashSet<>(parts.get(other))).contains(name)));
    Collections.shuffle(all, random);
    assertThat(parts(grouping(all))).isEqualTo(parts);
  }

  @Test
  void people_choose_which_name_leads() {
    var grouping = new AssetGrouping(FoldingRules.builtIn());
    grouping.setSymlinks(name(1), List.of(new Symlink(name(2), Why.HAND)));
    assertThat(grouping.leadOf(name(2))).isEqualTo(name(1));
    assertThat(grouping.setLead(name(2), true)).isTrue();
    assertThat(grouping.leadOf(name(1))).isEqualTo(name(2));
    assertThat(grouping.setLead(name(2), false)).isTrue();
    assertThat(grouping.leadOf(name(1))).isEqualTo(name(1));
  }

  @Test
  void too_many_names_are_reported_with_the_link_that_parts_them_best() {
    var grouping = new AssetGrouping(FoldingRules.builtIn());
    for (int side = 0; side < 2; side++) {
      for (int i = 0; i < 30; i++) {
        grouping.setSymlinks(
            new DatasetName("n", side + "part" + i),
            List.of(new Symlink(new DatasetName("n", side + "hub"), Why.ALIAS)));
      }
    }
    grouping.setSymlinks(
        new DatasetName("n", "0hub"),
        List.of(new Symlink(new DatasetName("n", "1hub"), Why.ALIAS)));
    assertThat(grouping.overMerged())
        .singleElement()
        .satisfies(
            over -> {
              assertThat(over.names()).isEqualTo(62);
              assertThat(List.of(over.from().name(), over.to().name()))
                  .containsExactlyInAnyOrder("0hub", "1hub");
            });
  }

  @Test
  void a_rule_makes_names_one_before_any_other_rule() {
    var grouping =
        new AssetGrouping(
            FoldingRules.builtIn(), MergeRules.of(List.of("^odbc/(.+)$ => pg/barn.$1")));
    var odbc = new DatasetName("odbc", "core.price");
    var table = new DatasetName("pg", "barn.core.price");
    grouping.add(odbc);
    assertThat(grouping.leadOf(odbc)).isEqualTo(odbc);
    grouping.add(table);
    assertThat(grouping.partsOf(odbc)).containsExactlyInAnyOrder(odbc, table);
    assertThat(grouping.leadOf(odbc)).isEqualTo(table);
  }

  // ------------------------------------------------------------------ proposals

  private static Candidate candidate(
      String namespace, String name, boolean read, String writer, String... columns) {
    return new Candidate(
        new DatasetName(namespace, name),
        List.of(columns),
        read,
        writer.isEmpty() ? List.of() : List.of(writer));
  }

  @Test
  void a_broken_thread_with_the_same_columns_is_proposed_with_its_evidence() {
    var proposals =
        MergeCandidates.among(
            List.of(
                candidate("pg://h", "db.mart.pay", false, "build", "a", "b"),
                candidate("odbc", "mart.pay", true, "", "A", "B"),
                candidate("pg://h", "db.mart.other", false, "build", "a", "b")),
            (a, b) -> false);
    assertThat(proposals).hasSize(1);
    assertThat(proposals.get(0).one().namespace()).isEqualTo("pg://h");
    assertThat(proposals.get(0).evidence()).anyMatch(line -> line.contains("never read"));
    assertThat(MergeCandidates.rule(proposals.get(0).one(), proposals.get(0).other()))
        .isEqualTo("^odbc/mart\\.(.+)$ => pg://h/db.mart.$1");
  }

  @Test
  void what_feeds_the_other_or_has_other_columns_is_not() {
    var a = candidate("x", "s.pay", true, "j", "a", "b");
    var copy = candidate("y", "s.pay", false, "k", "a", "b");
    var other = candidate("z", "s.pay", false, "k", "c", "d");
    assertThat(MergeCandidates.among(List.of(a, copy), (one, two) -> true)).isEmpty();
    assertThat(MergeCandidates.among(List.of(a, other), (one, two) -> false)).isEmpty();
  }

  @Test
  void a_rule_of_names_that_share_no_whole_part_is_none() {
    assertThat(MergeCandidates.rule(new DatasetName("a", "xpay"), new DatasetName("b", "ypay")))
        .isEmpty();
  }
}
