package longthread.core.label;

import static longthread.core.graph.Graphs.graph;
import static longthread.core.graph.Graphs.node;
import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import longthread.core.graph.LineageGraph;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;

class LeakSearchTest {
  private static final LabelRule STRICT = new LabelRule(false, false, false);

  private final LineageGraph farm =
      graph(
          "farm#iban IDENTITY copy#iban by @n/copy",
          "farm#iban TRANSFORMATION! copy#hash by @n/copy",
          "copy#iban IDENTITY payout#pay_to by @n/pay",
          "payout#pay_to IDENTITY lines#account by @n/step",
          "lines#account IDENTITY list#account by list",
          "list HOLDS report by report",
          "list HOLDS sheet by sheet",
          "copy#hash IDENTITY counted#hash by counted",
          "payout COARSE export by @n/export");

  private static Wildcard words(String... words) {
    return Wildcard.of(List.of(words));
  }

  private static LabelPolicy policy(
      boolean allows, List<String> kinds, Wildcard systems, Wildcard audience, Wildcard places) {
    String id = (allows ? "may" : "may-not") + kinds;
    return new LabelPolicy(id, "personal", allows, kinds, systems, words(), audience, places);
  }

  private Holder holder(int asset) {
    String ref = farm.assetReference(asset);
    Map<String, List<String>> readers =
        Map.of("report", List.of("Payout office", "Board"), "sheet", List.of("Payout office"));
    String kind = List.of("report", "sheet").contains(ref) ? "report" : "table";
    String system = Set.of("farm", "copy", "payout").contains(ref) ? "barn" : "tool";
    return new Holder(kind, system, "", readers.getOrDefault(ref, List.of()), List.of("at " + ref));
  }

  private List<LeakSearch.Leak> leaks(LabelPolicy... policies) {
    LabelSpread spread = LabelSpread.of(farm, STRICT, Set.of(node(farm, "farm#iban")), Set.of());
    return LeakSearch.of(farm, spread, List.of(policies), this::holder);
  }

  private LeakSearch.Way way(LeakSearch.Leak leak, LabelPolicy... policies) {
    LabelSpread spread = LabelSpread.of(farm, STRICT, Set.of(node(farm, "farm#iban")), Set.of());
    return LeakSearch.way(farm, spread, List.of(policies), this::holder, leak);
  }

  private String text(LabelPolicy... policies) {
    return leaks(policies).stream()
        .map(
            leak -> {
              LeakSearch.Way way = way(leak, policies);
              assertThat(way.thread()).hasSize(leak.hops());
              return farm.assetReference(leak.asset())
                  + (leak.isCertain() ? "" : "?")
                  + (way.unmaskedAt() == null
                      ? ""
                      : " after " + farm.reference(way.thread().get(way.unmaskedAt()).from()));
            })
        .collect(Collectors.joining(", "));
  }

  @Test
  void an_audience_may_not_read_it_and_another_may() {
    LabelPolicy board = policy(false, List.of(), words(), words("board"), words());
    assertThat(text(board)).isEqualTo("report after farm#iban");
    LabelPolicy pages = policy(false, List.of("report"), words(), words(), words());
    LabelPolicy office = policy(true, List.of(), words(), words("payout*"), words());
    assertThat(text(pages)).isEqualTo("report after farm#iban, sheet after farm#iban");
    assertThat(text(pages, office))
        .as("all who read it have to be allowed")
        .isEqualTo("report after farm#iban");
  }

  @Test
  void the_first_hop_out_of_the_places_that_may_hold_it_is_where_a_mask_is_missing() {
    LabelPolicy board = policy(false, List.of(), words(), words("Board"), words());
    LabelPolicy barn = policy(true, List.of(), words("barn"), words(), words());
    assertThat(text(board, barn)).isEqualTo("report after payout#pay_to");
    LeakSearch.Leak leak = leaks(board, barn).get(0);
    assertThat(way(leak, board, barn).thread()).hasSize(5);
    assertThat(leak.forbiddenBy()).isEqualTo(board);
  }

  @Test
  void it_may_be_in_no_other_system_and_perhaps_is() {
    LabelPolicy tool = policy(false, List.of(), words("t*l"), words(), words());
    assertThat(text(tool))
        .isEqualTo(
            "lines after farm#iban, list after farm#iban, report after farm#iban, sheet after"
                + " farm#iban, export? after farm#iban");
    LabelPolicy place = policy(false, List.of(), words(), words(), words("at COPY"));
    assertThat(text(place)).as("the hashed column is none").isEqualTo("copy after farm#iban");
    assertThat(leaks(place).get(0).columns()).containsExactly(node(farm, "copy#iban"));
  }

  @Test
  void where_it_is_set_it_may_leak_without_a_thread() {
    LabelPolicy place = policy(false, List.of(), words(), words(), words("at farm"));
    LeakSearch.Leak leak = leaks(place).get(0);
    assertThat(way(leak, place).thread()).isEmpty();
    assertThat(way(leak, place).unmaskedAt()).isNull();
    assertThat(leaks()).as("without a policy nothing is forbidden").isEmpty();
  }

  @Property
  void a_leak_is_wherever_some_policy_forbids_and_none_allows(@ForAll Random random) {
    var policies = new ArrayList<LabelPolicy>();
    for (int i = 0; i < 1 + random.nextInt(5); i++) {
      policies.add(
          policy(
              random.nextBoolean(),
              random.nextBoolean() ? List.of() : List.of("report"),
              random.nextBoolean() ? words() : words("barn"),
              random.nextInt(3) > 0 ? words() : words("Board"),
              random.nextInt(3) > 0 ? words() : words("at *p*")));
    }
    LabelSpread spread = LabelSpread.of(farm, STRICT, Set.of(node(farm, "farm#iban")), Set.of());
    var expected = new TreeSet<String>();
    for (int asset : Arrays.stream(spread.nodes()).map(farm::assetOf).distinct().toArray()) {
      Holder holder = holder(asset);
      boolean allowed = false;
      boolean forbidden = false;
      for (LabelPolicy policy : policies) {
        allowed |= policy.allows() && policy.speaksOf(holder);
        forbidden |= !policy.allows() && policy.speaksOf(holder);
      }
      if (forbidden && !allowed) {
        expected.add(farm.assetReference(asset));
      }
    }
    List<LeakSearch.Leak> found = LeakSearch.of(farm, spread, policies, this::holder);
    assertThat(found).extracting(leak -> farm.assetReference(leak.asset())).doesNotHaveDuplicates();
    assertThat(found.stream().map(leak -> farm.assetReference(leak.asset())))
        .containsExactlyInAnyOrderElementsOf(expected);
  }
}
