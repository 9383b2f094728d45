package longthread.client;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "preview",
    description = "A few rows as they are at the source, masked for you by the labels.",
    mixinStandardHelpOptions = true,
    subcommands = {
      PreviewCommand.Sources.class,
      PreviewCommand.Put.class,
      PreviewCommand.Sample.class,
      PreviewCommand.Remove.class
    },
    footer = {
      "",
      "Examples:",
      "  longthread preview core.farm --limit 5",
      "  longthread preview sources",
      "  longthread preview source barn --under postgres://barn:5432/barn. \\",
      "    --database postgres://viewer@barn:5432/barn --password-variable LONGTHREAD_PREVIEW_BARN"
    })
final class PreviewCommand extends ListOutput implements Callable<Integer> {
  private static final int WIDEST = 40;

  @Parameters(arity = "0..1", paramLabel = "NAME", description = "An asset, or one of its columns.")
  private @Nullable String name;

  @Override
  public Integer call() {
    if (name == null) {
      spec.commandLine().usage(out());
      return 2;
    }
    var parameters = new TreeMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("limit", paging.orElse(10));
    JsonNode answer = service().get("/api/v1/preview", parameters, JsonNode.class).json();
    if (json) {
      printJson(answer);
      return 0;
    }
    var heading = new ArrayList<String>();
    answer.path("columns").forEach(column -> heading.add(column.path("name").stringValue("")));
    var rows = new ArrayList<List<String>>();
    List<String> shown = shown(answer);
    if (!csv && shown.stream().anyMatch(how -> !how.isEmpty())) {
      rows.add(shown);
    }
    for (JsonNode row : answer.path("rows")) {
      var cells = new ArrayList<String>();
      row.forEach(value -> cells.add(cell(value)));
      rows.add(cells);
    }
    printList(heading, rows);
    if (!csv) {
      note(
          answer.path("rows").size()
              + " rows of "
              + answer.path("part").stringValue("")
              + ", as role "
              + answer.path("role").stringValue("")
              + (answer.path("isCut").booleanValue(false) ? "; there are more" : ""));
      if (!answer.path("missing").isEmpty()) {
        note("not at the source: " + Json.words(answer.path("missing")));
      }
    }
    return 0;
  }

  /** How each column is shown, under its name. */
  private static List<String> shown(JsonNode answer) {
    var shown = new ArrayList<String>();
    for (JsonNode column : answer.path("columns")) {
      String how = column.path("shown").stringValue("");
      shown.add(
          column.path("labels").isEmpty()
              ? ""
              : "[" + Json.words(column.path("labels")) + ": " + how + "]");
    }
    return shown;
  }

  private String cell(JsonNode value) {
    String text = value.stringValue(csv ? "" : "-");
    boolean isLong = !csv && text.codePointCount(0, text.length()) > WIDEST;
    return isLong ? text.substring(0, text.offsetByCodePoints(0, WIDEST)) + "…" : text;
  }

  @Command(
      name = "sources",
      description = "List the databases and folders from which rows can be shown.",
      mixinStandardHelpOptions = true)
  static final class Sources extends ListOutput implements Callable<Integer> {
    @Override
    public Integer call() {
      JsonNode answer =
          service()
              .get("/api/v1/preview/sources", Map.of("limit", paging.orElse(1_000)), JsonNode.class)
              .json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode source : answer.path("items")) {
        rows.add(
            List.of(
                source.path("name").stringValue(""),
                source.path("kind").stringValue(""),
                source.path("under").stringValue(""),
                source.path("url").stringValue(source.path("folder").stringValue("")),
                source.path("sampled").booleanValue(false) ? "yes" : "no",
                source.path("changedBy").stringValue("")));
      }
      printList(
          List.of("NAME", "KIND", "REFERENCES UNDER", "READ FROM", "SAMPLED", "SET BY"), rows);
      return 0;
    }
  }

  @Command(
      name = "source",
      description = "Set a database or folder from which rows can be shown.",
      mixinStandardHelpOptions = true)
  static final class Put extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "What it is called.")
    private String name = "";

    @Option(
        names = "--under",
        paramLabel = "REFERENCE",
        required = true,
        description = "What the references of its tables or files begin with.")
    private String under = "";

    @Option(
        names = "--database",
        paramLabel = "URL",
        description = "postgres://user@host:port/database, without a password.")
    private @Nullable String url;

    @Option(
        names = "--password-variable",
        paramLabel = "VARIABLE",
        description = "An environment variable of the service: LONGTHREAD_PREVIEW_….")
    private @Nullable String passwordVariable;

    @Option(
        names = "--schema",
        paramLabel = "SCHEMA",
        description = "Of tables whose references have none behind --under; public without it.")
    private @Nullable String schema;

    @Option(
        names = "--folder",
        paramLabel = "FOLDER",
        description = "Of CSV files on the service's machine, in one that it may show.")
    private @Nullable String folder;

    @Option(
        names = "--sample",
        description =
            "Let values of columns without labels be looked at, to propose labels; none are kept.")
    private boolean sampled;

    @Override
    public Integer call() {
      if ((url == null) == (folder == null)) {
        throw new picocli.CommandLine.ParameterException(
            spec.commandLine(), "Give either --database or --folder of files");
      }
      var body = new LinkedHashMap<String, @Nullable Object>();
      body.put("name", name);
      body.put("kind", url == null ? "files" : "postgres");
      body.put("under", under);
      body.put("url", url);
      body.put("schema", schema);
      body.put("passwordVariable", passwordVariable);
      body.put("folder", folder);
      body.put("sampled", sampled);
      byte[] bytes = ServiceClient.MAPPER.writeValueAsBytes(body);
      JsonNode answer =
          service().put("/api/v1/preview/sources", Map.of(), bytes, JsonNode.class).json();
      if (json) {
        printJson(answer);
      } else {
        out().println("rows of " + under + "… can be shown" + (sampled ? ", and are sampled" : ""));
      }
      return 0;
    }
  }

  @Command(
      name = "sample",
      description = "Look at values of an asset's columns without labels now, to propose labels.",
      mixinStandardHelpOptions = true)
  static final class Sample extends ListOutput implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "An asset of a source that may be sampled.")
    private String name = "";

    @Override
    public Integer call() {
      JsonNode answer =
          service().change("POST", "/api/v1/preview/sample", Map.of("ref", name), Map.of());
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode found : answer.path("found")) {
        rows.add(
            List.of(
                found.path("ref").stringValue(""),
                found.path("looksLike").stringValue(""),
                found.path("matched").intValue(0) + " of " + found.path("looked").intValue(0),
                found.path("label").stringValue("")));
      }
      if (!rows.isEmpty() || csv) {
        printList(List.of("COLUMN", "LOOKS LIKE", "VALUES", "LABEL"), rows);
      }
      note(
          "looked at "
              + answer.path("columns").intValue(0)
              + " columns without labels, "
              + rows.size()
              + " look sensitive; longthread label work lists what is proposed");
      return 0;
    }
  }

  @Command(
      name = "remove",
      description = "Show rows from a source no more.",
      mixinStandardHelpOptions = true)
  static final class Remove extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "The source, as preview sources lists it.")
    private String name = "";

    @Override
    public Integer call() {
      service()
          .delete(
              "/api/v1/preview/sources?name="
                  + java.net.URLEncoder.encode(name, java.nio.charset.StandardCharsets.UTF_8));
      out().println("removed " + name);
      return 0;
    }
  }
}
