package longthread.client;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Prints the runs behind something. */
final class ExactRuns {
  private ExactRuns() {}

  /** Asks for the runs behind what the parameters name, and prints them. */
  static int print(ListOutput command, Map<String, @Nullable Object> parameters) {
    parameters.put("exact", "run");
    parameters.remove("detail");
    JsonNode answer = command.service().get("/api/v1/graph", parameters, JsonNode.class).json();
    if (command.json) {
      command.printJson(answer);
      return 0;
    }
    JsonNode exact = answer.path("exact");
    var shown = new HashMap<String, String>();
    var readOf = new HashMap<String, LinkedHashSet<String>>();
    exact.path("runs").forEach(run -> shown.put(run.path("ref").stringValue(""), name(run)));
    for (JsonNode use : exact.path("uses")) {
      String part = use.path("part").stringValue("");
      String read = use.path("name").stringValue("") + (part.isEmpty() ? "" : " (" + part + ")");
      readOf
          .computeIfAbsent(use.path("reader").stringValue(""), k -> new LinkedHashSet<>())
          .add(read);
    }
    var rows = new ArrayList<List<String>>();
    for (JsonNode run : exact.path("runs")) {
      String ref = run.path("ref").stringValue("");
      rows.add(
          List.of(
              "" + run.path("hops").intValue(),
              run.path("certain").booleanValue() ? "certain" : "possible",
              Json.time(run.path("start")),
              run.path("name").stringValue(""),
              version(run),
              command.csv
                  ? String.join("; ", readOf.getOrDefault(ref, new LinkedHashSet<>()))
                  : reads(readOf.get(ref)),
              ref));
    }
    if (!command.csv) {
      command.out().println(exact.path("summary").stringValue(""));
      command.out().println();
    }
    if (!rows.isEmpty()) {
      command.printList(List.of("HOPS", "", "STARTED", "JOB", "VERSION", "READ", "RUN"), rows);
    }
    if (!command.csv) {
      printDoubts(command, exact, shown);
      printSources(command, exact);
      if (answer.path("truncated").booleanValue()) {
        command.note("there is more; --limit lists it");
      }
    }
    return 0;
  }

  private static String name(JsonNode run) {
    return run.path("name").stringValue("") + " of " + Json.time(run.path("start"));
  }

  /** The version that ran, and the newest if that is another. */
  static String version(JsonNode run) {
    if (!run.path("version").isNumber()) {
      return "not known";
    }
    String newest =
        run.path("newest").isObject()
            ? ", now " + run.path("newest").path("number").intValue()
            : "";
    return run.path("version").intValue() + newest;
  }

  private static final int MAX_READ = 2;

  private static String reads(@Nullable LinkedHashSet<String> all) {
    if (all == null) {
      return "-";
    }
    List<String> some = all.stream().limit(MAX_READ).toList();
    int more = all.size() - some.size();
    return String.join(", ", some) + (more > 0 ? " and " + more + " more" : "");
  }

  private static void printDoubts(ListOutput command, JsonNode exact, Map<String, String> shown) {
    var table = new Table("READ", "BY", "POSSIBLY FROM", "BECAUSE");
    boolean any = false;
    for (JsonNode use : exact.path("uses")) {
      for (JsonNode load : use.path("loads")) {
        if (!load.path("certain").booleanValue()) {
          any = true;
          var why = new ArrayList<String>();
          load.path("doubts").forEach(doubt -> why.add(doubt.path("words").stringValue("")));
          table.row(
              use.path("name").stringValue(""),
              shown.getOrDefault(use.path("reader").stringValue(""), "you"),
              shown.getOrDefault(load.path("run").stringValue(""), "a run beyond these"),
              String.join("; ", why));
        }
      }
    }
    if (any) {
      command.out().println("\nAmbiguous:");
      command.print(table);
    }
  }

  private static void printSources(ListOutput command, JsonNode exact) {
    if (!exact.path("sources").isEmpty()) {
      command.out().println("\nSources, which no known run had written by then:");
      exact.path("sources").forEach(s -> command.out().println("  " + s.stringValue("")));
    }
  }
}
