package longthread.client;

import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.Reader;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

@Command(
    name = "explain",
    description = "Say in plain words what a field or chart is, and where it comes from.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread explain 'Milk and money#paid'",
      "  longthread explain chart/price-per-litre"
    })
final class ExplainCommand extends Output implements Callable<Integer> {
  @Parameters(paramLabel = "REF", description = "A field as asset#field, or a whole chart.")
  private String ref = "";

  @Override
  public Integer call() {
    var reply = service().get("/api/v1/reader", Map.of("ref", ref), Reader.class);
    if (json) {
      printJson(reply.json());
      return 0;
    }
    Reader reader = reply.value();
    out()
        .println(
            styled("bold", reader.name()) + "  (" + reader.kind() + " in " + reader.place() + ")");
    out()
        .println(
            reader.definition() == null
                ? "Nobody has written down what it means."
                : reader.definition());
    if (reader.definedAt() != null) {
      out().println("  (as described at " + reader.definedAt() + ")");
    }
    if (reader.calculation() != null) {
      out().println("Calculated: " + reader.calculation());
    }
    out().println();
    reader.warnings().forEach(warning -> out().println(styled("red", "! " + warning)));
    out().println("Data as of  " + time(reader.freshAt()));
    if (reader.approved() != null) {
      out().println("Approved by " + reader.approved());
    }
    out().println("Ask         " + owners(reader.owners()));
    if (!reader.stops().isEmpty()) {
      out().println();
      for (Reader.Stop stop : reader.stops()) {
        out().println("  ".repeat(stop.hops()) + stop.sentence());
        if (stop.calculation() != null) {
          out().println("  ".repeat(stop.hops()) + "    " + stop.calculation());
        }
      }
      if (reader.more() > 0) {
        out().println("and " + reader.more() + " more; see upstream " + reader.ref());
      }
    }
    if (!reader.fields().isEmpty()) {
      out().println();
      var table = new Table("FIELD", "MEANING");
      for (Reader.Field field : reader.fields()) {
        table.row(
            field.name(),
            field.definition() == null ? text(field.calculation()) : field.definition());
      }
      print(table);
    }
    return 0;
  }
}
