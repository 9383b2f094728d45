package longthread.client;

import java.util.List;
import longthread.client.answers.Hop;

/** Draws a thread as an indented path that can be read aloud, from its source to its target. */
final class PathPrinter {
  private PathPrinter() {}

  static String text(List<Hop> hops) {
    var text = new StringBuilder();
    if (hops.isEmpty()) {
      return "(the two are the same)\n";
    }
    text.append(Output.styled("bold", hops.get(0).from())).append('\n');
    int depth = 1;
    for (Hop hop : hops) {
      text.append("  ".repeat(depth))
          .append("└ ")
          .append(hop.how())
          .append(hop.masking() ? ", masked" : "")
          .append(hop.job() == null ? "" : ", via " + Output.styled("faint", hop.job()))
          .append('\n')
          .append("  ".repeat(depth + 1))
          .append(Output.styled("bold", hop.to()))
          .append('\n');
      depth++;
    }
    return text.toString();
  }
}
