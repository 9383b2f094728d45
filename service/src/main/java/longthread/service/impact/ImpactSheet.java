package longthread.service.impact;

import java.io.IOException;
import java.io.Writer;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import longthread.service.lineage.Hops;
import longthread.service.web.Csv;

/** An impact list as a sheet to hand to others: name and kind first, links absolute. */
final class ImpactSheet {
  private static final List<String> HEADING =
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
          "address in its tool");

  private ImpactSheet() {}

  static void write(List<ImpactFinder.Item> items, Writer out) throws IOException {
    try (var sheet = new Csv(out, HEADING)) {
      for (ImpactFinder.Item item : items) {
        sheet.row(
            Arrays.asList(
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
                item.toolUrl()));
      }
    }
  }

  private static String joined(List<String> texts) {
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
