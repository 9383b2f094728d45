package longthread.client;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "compare",
    description = "Compare two moments around an asset, or two versions of a job.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread compare core.lab_reading --from 2031-05-01",
      "  longthread compare @build_lab_reading --from version:1 --to version:2",
      "  longthread compare mart.payout_statement --from 2031-05-01 --fail-on different"
    })
final class CompareCommand extends Output implements Callable<Integer> {
  @Parameters(
      arity = "0..1",
      paramLabel = "NAME",
      description = "An asset, a column or a job; everything without it.")
  private @Nullable String name;

  @Option(
      names = "--from",
      required = true,
      paramLabel = "WHEN",
      description = "A time, a day (at its end), or version:N of a job.")
  private String from = "";

  @Option(
      names = "--to",
      paramLabel = "WHEN",
      description = "A time, a day (at its end), or version:N; now without it.")
  private @Nullable String to;

  @Option(
      names = "--direction",
      paramLabel = "WAY",
      description = "upstream, downstream or both; both without it.")
  private @Nullable String direction;

  @Option(
      names = "--hops",
      paramLabel = "N",
      description = "How far, in links; all the way without it.")
  private @Nullable Integer hops;

  @Mixin private FailOn failOn = new FailOn();

  @Override
  public Integer call() {
    ClosedWords.check(spec, "--direction", direction, List.of("upstream", "downstream", "both"));
    failOn.check(spec, "different");
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("from", Json.until(from));
    parameters.put("to", Json.until(to));
    parameters.put("direction", direction);
    parameters.put("hops", hops);
    JsonNode found = service().get("/api/v1/compare", parameters, JsonNode.class).json();
    if (json) {
      printJson(found);
    } else {
      print(found);
    }
    boolean different =
        !(found.path("assets").isEmpty()
            && found.path("links").isEmpty()
            && found.path("code").isEmpty());
    return failOn.exitCode(word -> different);
  }

  private void print(JsonNode found) {
    out()
        .println(
            side(found.path("from"))
                + " → "
                + side(found.path("to"))
                + ": "
                + found.path("summary").stringValue(""));
    if (!found.path("assets").isEmpty()) {
      out().println();
      var table = new Table("CHANGE", "KIND", "ASSET", "COLUMNS", "REFERENCE");
      for (JsonNode asset : found.path("assets")) {
        table.row(
            asset.path("change").stringValue(""),
            asset.path("kind").stringValue(""),
            asset.path("name").stringValue(""),
            columns(asset.path("columns")),
            asset.path("ref").stringValue(""));
      }
      print(table);
    }
    if (!found.path("links").isEmpty()) {
      out().println();
      var table = new Table("CHANGE", "FROM", "TO", "HOW", "REPORTED BY", "VERSION", "WHEN");
      for (JsonNode link : found.path("links")) {
        table.row(
            link.path("change").stringValue(""),
            ShowCommand.shortened(link.path("from").stringValue("")),
            ShowCommand.shortened(link.path("to").stringValue("")),
            link.path("how").stringValue(""),
            link.path("byName").stringValue(""),
            link.path("version").isNumber() ? link.path("version").toString() : "-",
            Json.time(link.path("at")));
      }
      print(table);
    }
    found.path("code").forEach(this::printCode);
    if (found.has("note")) {
      note(found.path("note").stringValue(""));
    }
  }

  private static String side(JsonNode side) {
    String words = side.path("words").stringValue("");
    return words.startsWith("version") || words.equals("now") ? words : Json.time(side.path("at"));
  }

  private static String columns(JsonNode columns) {
    var words = new ArrayList<String>();
    for (JsonNode column : columns) {
      String name = column.path("name").stringValue("");
      String before = column.path("before").stringValue("");
      words.add(
          switch (column.path("change").stringValue("")) {
            case "added" -> "+" + name;
            case "removed" -> "-" + name;
            case "renamed" -> before + " → " + name;
            default -> name + " " + before + " → " + column.path("after").stringValue("");
          });
    }
    return words.isEmpty() ? "-" : String.join(", ", words);
  }

  private void printCode(JsonNode code) {
    out()
        .println(
            "\n"
                + code.path("name").stringValue("")
                + ", version "
                + Json.number(code.path("versionBefore"))
                + " → "
                + Json.number(code.path("versionAfter"))
                + ":");
    for (JsonNode line : code.path("lines")) {
      String change = line.path("change").stringValue("");
      if (change.equals("same")) {
        out().println("    " + line.path("textAfter").stringValue(""));
      } else {
        if (!change.equals("added")) {
          out().println("  - " + line.path("textBefore").stringValue(""));
        }
        if (!change.equals("removed")) {
          out().println("  + " + line.path("textAfter").stringValue(""));
        }
      }
    }
  }
}
