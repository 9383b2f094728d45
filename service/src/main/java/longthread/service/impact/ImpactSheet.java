package longthread.service.impact;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import longthread.service.lineage.Hops;
import org.jspecify.annotations.Nullable;

/** Impact as rows of sheets to hand to others: name and kind first, links absolute. */
final class ImpactSheet {
  static final List<String> ITEMS =
      List.of(
          "name",
          "kind",
          "verdict",
          "certainty",
          "hops",
          "system",
          "owners",
          "owner addresses",
          "labels",
          "terms",
          "columns",
          "all verdicts",
          "thread",
          "reference",
          "link",
          "address in its tool",
          "fails first",
          "dependents");

  static final List<String> GROUPS =
      List.of(
          "name",
          "addresses",
          "items",
          "breaks",
          "goes stale",
          "values shift",
          "rows shift",
          "certain",
          "foremost");

  static final List<String> UNTOUCHED =
      List.of("name", "kind", "hops", "certainty", "why not certain", "reference");

  private ImpactSheet() {}

  static List<@Nullable Object> row(ImpactFinder.Item item) {
    return Arrays.asList(
        item.name(),
        item.kind(),
        item.verdict(),
        item.certainty(),
        item.hops(),
        item.system(),
        joined(item.owners()),
        joined(item.ownerAddresses()),
        joined(item.labels()),
        joined(item.terms()),
        joined(item.columns().stream().map(ImpactFinder.TouchedColumn::name).toList()),
        joined(
            item.verdicts().stream()
                .map(verdict -> verdict.verdict() + " " + verdict.certainty())
                .toList()),
        names(item.thread()),
        item.ref(),
        item.url(),
        item.toolUrl(),
        item.failsFirst() == null ? null : item.failsFirst().name(),
        item.dependents());
  }

  static List<@Nullable Object> row(ImpactGroups.Group group) {
    var cells = new ArrayList<@Nullable Object>();
    cells.add(group.name());
    cells.add(joined(group.addresses()));
    cells.add(group.items());
    cells.addAll(group.verdicts().values());
    cells.add(group.certain());
    cells.add(joined(group.foremost().stream().map(ImpactGroups.Foremost::name).toList()));
    return cells;
  }

  static List<@Nullable Object> row(ImpactFinder.Untouched one) {
    return Arrays.asList(
        one.name(), one.kind(), one.hops(), one.certainty(), one.missing(), one.ref());
  }

  static String joined(List<String> texts) {
    return String.join("; ", texts);
  }

  private static String names(List<Hops.Hop> thread) {
    var names = new ArrayList<String>();
    if (!thread.isEmpty()) {
      names.add(thread.get(0).fromName());
    }
    thread.forEach(hop -> names.add(hop.toName()));
    return String.join(" > ", names);
  }
}
