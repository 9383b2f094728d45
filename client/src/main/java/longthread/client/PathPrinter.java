package longthread.client;

import java.util.Locale;
import tools.jackson.databind.JsonNode;

/** Draws a thread as an indented path that can be read aloud, from its source to its target. */
final class PathPrinter {
  private PathPrinter() {}

  static String text(JsonNode hops) {
    var text = new StringBuilder();
    if (hops.isEmpty()) {
      return "(the two are the same place)\n";
    }
    text.append(Output.lit("bold", hops.get(0).path("from").stringValue(""))).append('\n');
    int depth = 1;
    for (JsonNode hop : hops) {
      String job = hop.path("job").stringValue("");
      text.append("  ".repeat(depth))
          .append("└ ")
          .append(words(hop.path("flow").stringValue("")))
          .append(hop.path("masking").booleanValue(false) ? ", masked," : "")
          .append(job.isEmpty() ? "" : " by " + Output.lit("faint", job))
          .append(" into\n")
          .append("  ".repeat(depth + 1))
          .append(Output.lit("bold", hop.path("to").stringValue("")))
          .append('\n');
      depth++;
    }
    return text.toString();
  }

  /** A flow in plain words. */
  static String words(String flow) {
    return switch (flow) {
      case "IDENTITY" -> "copied";
      case "TRANSFORMATION" -> "computed";
      case "AGGREGATION" -> "aggregated";
      case "DIRECT" -> "carried";
      case "HOLDS" -> "held";
      case "ROWS" -> "its rows run on";
      case "ROWS_TO_VALUE" -> "its rows counted";
      case "COARSE" -> "fed (columns unknown)";
      case "READS" -> "read";
      default -> "decides (" + flow.toLowerCase(Locale.ROOT).replace('_', ' ') + ")";
    };
  }
}
