package longthread.client;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
    name = "edit",
    description = "Descriptions, owners, tags and terms of many assets as a sheet, and back in.",
    mixinStandardHelpOptions = true,
    subcommands = {
      EditCommand.Export.class,
      EditCommand.Apply.class,
      EditCommand.Undo.class,
      EditCommand.Log.class
    },
    footer = {
      "",
      "Examples:",
      "  longthread edit export --under postgres://barn --columns > barn.csv",
      "  longthread edit apply barn.csv --dry-run",
      "  longthread edit apply barn.csv --reason 'owners after the move'",
      "  longthread edit undo ID"
    })
final class EditCommand extends Output implements Callable<Integer> {
  @Override
  public Integer call() {
    spec.commandLine().usage(out());
    return 2;
  }

  @Command(
      name = "export",
      description = "Print a sheet of assets, as CSV or JSON.",
      mixinStandardHelpOptions = true)
  static final class Export extends Output implements Callable<Integer> {
    @Mixin private Filters filters = new Filters();

    @Option(
        names = "--under",
        paramLabel = "TEXT",
        description = "Only assets whose reference or name begins like this.")
    private @Nullable String under;

    @Option(names = "--columns", description = "A row for each column too.")
    private boolean columns;

    @Override
    public Integer call() {
      var parameters = new TreeMap<String, @Nullable Object>();
      filters.addTo(parameters, spec);
      parameters.put("under", under);
      parameters.put("columns", columns ? "true" : null);
      if (!json) {
        out().print(service().csv("/api/v1/edits", parameters));
        out().flush();
        return 0;
      }
      ArrayNode rows = ServiceClient.MAPPER.createArrayNode();
      parameters.put("limit", 1_000);
      ServiceClient service = service();
      do {
        JsonNode page = service.get("/api/v1/edits", parameters, JsonNode.class).json();
        page.path("items").forEach(rows::add);
        parameters.put("cursor", page.path("cursor").stringValue(null));
      } while (parameters.get("cursor") != null);
      ObjectNode all = ServiceClient.MAPPER.createObjectNode();
      all.set("items", rows);
      printJson(all);
      return 0;
    }
  }

  @Command(
      name = "apply",
      description = "Apply a changed sheet of assets, terms or recorded lineage.",
      mixinStandardHelpOptions = true)
  static final class Apply extends Stating implements Callable<Integer> {
    @Parameters(paramLabel = "FILE", description = "CSV or JSON; - is standard input.")
    private String file = "";

    @Override
    public Integer call() throws IOException {
      byte[] sheet =
          file.equals("-") ? System.in.readAllBytes() : Files.readAllBytes(Path.of(file));
      Map<String, @Nullable Object> parameters = parameters();
      parameters.put("reason", reason.isBlank() ? null : reason);
      String start = new String(sheet, StandardCharsets.UTF_8).stripLeading();
      boolean isJson = start.startsWith("{") || start.startsWith("[");
      return printStated(
          service()
              .state("/api/v1/edits", parameters, isJson ? "application/json" : "text/csv", sheet));
    }
  }

  @Command(
      name = "undo",
      description = "Take a statement back; what others changed since stays.",
      mixinStandardHelpOptions = true)
  static final class Undo extends Stating implements Callable<Integer> {
    @Parameters(paramLabel = "ID", description = "The statement, as edit log lists it.")
    private String id = "";

    @Override
    public Integer call() {
      Map<String, @Nullable Object> parameters = parameters();
      parameters.put("id", id);
      return printStated(
          service().state("/api/v1/statements/undo", parameters, "application/json", new byte[0]));
    }
  }

  @Command(
      name = "log",
      description = "List what people stated, newest first.",
      mixinStandardHelpOptions = true)
  static final class Log extends ListOutput implements Callable<Integer> {
    private static final int SCREENFUL = 30;

    @Option(names = "--of", paramLabel = "NAME", description = "Only what is about this asset.")
    private @Nullable String of;

    @Option(names = "--by", paramLabel = "WHO", description = "Only of this person or key.")
    private @Nullable String by;

    @Override
    public Integer call() {
      var parameters = new TreeMap<String, @Nullable Object>();
      parameters.put("ref", of);
      parameters.put("by", by);
      parameters.put("limit", paging.orElse(SCREENFUL));
      JsonNode answer = service().get("/api/v1/statements", parameters, JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new java.util.ArrayList<java.util.List<String>>();
      for (JsonNode one : answer.path("items")) {
        JsonNode first = one.path("changes").path(0);
        int more = one.path("changeCount").intValue(0) - 1;
        rows.add(
            java.util.List.of(
                one.path("at").stringValue("").substring(0, 16).replace('T', ' '),
                one.path("by").stringValue(""),
                first.path("what").stringValue("")
                    + " of "
                    + first.path("of").stringValue("")
                    + (more > 0 ? " and " + more + " more" : ""),
                one.path("reason").stringValue(""),
                one.has("undoneBy") ? "taken back" : "",
                one.path("id").stringValue("")));
      }
      printList(java.util.List.of("AT", "BY", "WHAT", "REASON", "", "ID"), rows);
      return 0;
    }
  }
}
