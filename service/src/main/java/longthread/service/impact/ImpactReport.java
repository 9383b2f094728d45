package longthread.service.impact;

import java.io.IOException;
import java.io.Writer;
import java.util.List;
import java.util.Map;
import longthread.core.impact.Certainty;
import longthread.service.impact.ImpactFinder.Found;
import longthread.service.web.OutgoingText;

/** Impact as a Markdown report: the counts, whom to tell, what is touched, what is not. */
final class ImpactReport {
  private static final int MOST_ROWS = 500;
  private static final int MOST_UNTOUCHED = 50;
  private static final String SPECIAL = "\\`*_{}[]<>|#~";

  private final Writer out;

  ImpactReport(Writer out) {
    this.out = out;
  }

  void write(
      Found found,
      List<ImpactGroups.Group> contacts,
      List<ImpactGroups.Group> groups,
      ImpactGroups.By by)
      throws IOException {
    heading(found);
    contacts(contacts);
    if (by != ImpactGroups.By.OWNER) {
      line("## By " + by.word());
      line("");
      table(by.word(), "items", "break", "go stale", "values", "rows");
      for (ImpactGroups.Group group : groups.subList(0, Math.min(MOST_ROWS, groups.size()))) {
        counted(group.name() == null ? "none" : plain(group.name()), group);
      }
      more(groups.size(), MOST_ROWS);
    }
    items(found);
    untouched(found);
    out.flush();
  }

  private void heading(Found found) throws IOException {
    var steps =
        found.changes().stream()
            .map(
                step ->
                    step.change()
                        + (step.to() == null ? "" : " to " + step.to())
                        + " of "
                        + step.ref())
            .toList();
    line("# Impact: " + plain(String.join(", ", steps)));
    line("");
    Map<String, Integer> verdicts = found.summary().verdicts();
    line(
        "**%d break, %d go stale, %d shift in values, %d in rows.** %d untouched, %d of them for certain."
            .formatted(
                verdicts.get("breaks"),
                verdicts.get("goes-stale"),
                verdicts.get("values-shift"),
                verdicts.get("rows-shift"),
                found.untouched().size(),
                found.certainlyUntouched()));
    line("");
  }

  private void contacts(List<ImpactGroups.Group> contacts) throws IOException {
    if (contacts.isEmpty()) {
      return;
    }
    line("## Whom to tell");
    line("");
    table("owner", "items", "break", "go stale", "values", "rows", "foremost");
    for (ImpactGroups.Group group : contacts.subList(0, Math.min(MOST_ROWS, contacts.size()))) {
      String name = group.name() == null ? "nobody owns these" : plain(group.name());
      String address =
          group.addresses().isEmpty()
              ? ""
              : " (" + plain(ImpactSheet.joined(group.addresses())) + ")";
      counted(
          name + address,
          group,
          plain(
              ImpactSheet.joined(
                  group.foremost().stream().map(ImpactGroups.Foremost::name).toList())));
    }
    more(contacts.size(), MOST_ROWS);
  }

  private void counted(String name, ImpactGroups.Group group, String... further)
      throws IOException {
    out.append("| ").append(name).append(" | ").append("" + group.items());
    for (int count : group.verdicts().values()) {
      out.append(" | ").append("" + count);
    }
    for (String cell : further) {
      out.append(" | ").append(cell);
    }
    line(" |");
  }

  private void items(Found found) throws IOException {
    if (found.items().isEmpty()) {
      line("Nothing downstream is touched.");
      line("");
      return;
    }
    line("## Touched");
    line("");
    table("verdict", "name", "kind", "hops", "fails first", "owners");
    int shown = Math.min(MOST_ROWS, found.items().size());
    for (ImpactFinder.Item item : found.items().subList(0, shown)) {
      String certainty = item.certainty().equals(Certainty.POSSIBLE.word()) ? " (possible)" : "";
      line(
          "| %s%s | [%s](%s) | %s | %d | %s | %s |"
              .formatted(
                  item.verdict().replace('-', ' '),
                  certainty,
                  plain(item.name()),
                  item.url().replace(")", "%29"),
                  item.kind(),
                  item.hops(),
                  item.failsFirst() == null ? "" : plain(item.failsFirst().name()),
                  plain(ImpactSheet.joined(item.owners()))));
    }
    more(found.items().size(), MOST_ROWS);
  }

  private void untouched(Found found) throws IOException {
    if (found.untouched().isEmpty()) {
      return;
    }
    line("## Untouched");
    line("");
    table("name", "kind", "hops", "why not certain");
    int shown = Math.min(MOST_UNTOUCHED, found.untouched().size());
    for (ImpactFinder.Untouched one : found.untouched().subList(0, shown)) {
      line(
          "| %s | %s | %d | %s |"
              .formatted(
                  plain(one.name()),
                  one.kind(),
                  one.hops(),
                  one.missing() == null ? "" : plain(one.missing())));
    }
    more(found.untouched().size(), MOST_UNTOUCHED);
  }

  private void table(String... heads) throws IOException {
    line("| " + String.join(" | ", heads) + " |");
    line("|" + " --- |".repeat(heads.length));
  }

  /** Ends a table, and says how much of it is left out. */
  private void more(int all, int shown) throws IOException {
    line("");
    if (all > shown) {
      line((all - shown) + " more; the CSV sheet and the workbook have all.");
      line("");
    }
  }

  private void line(String text) throws IOException {
    out.append(OutgoingText.of(text)).append('\n');
  }

  /** A text that Markdown shows as it is, on one line. */
  private static String plain(String text) {
    var plain = new StringBuilder(text.length() + 8);
    for (char c : text.toCharArray()) {
      if (SPECIAL.indexOf(c) >= 0) {
        plain.append('\\');
      }
      plain.append(c < ' ' ? ' ' : c);
    }
    return plain.toString();
  }
}
