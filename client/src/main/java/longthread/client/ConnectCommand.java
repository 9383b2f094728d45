package longthread.client;

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
    name = "connect",
    description = "Connect a source: a key, settings to paste, and its first event; or list them.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Kinds: http, kafka, files, wrap, java, python, postgres, workspace, by-hand.",
      "Examples:",
      "  longthread connect http --name nightshift --wait 300",
      "  longthread connect                 (lists the connections there are)"
    })
final class ConnectCommand extends ListOutput implements Callable<Integer> {
  private static final List<String> KINDS =
      List.of(
          "http", "kafka", "files", "wrap", "java", "python", "postgres", "workspace", "by-hand");
  private static final long POLL_MILLIS = 1_000;

  @Parameters(arity = "0..1", paramLabel = "KIND", description = "What to connect.")
  private @Nullable String kind;

  @Option(
      names = "--name",
      paramLabel = "NAME",
      description = "The connection's name, which becomes that of its key.")
  private @Nullable String name;

  @Option(
      names = "--wait",
      paramLabel = "SECONDS",
      description = "Wait for its first event, and print what it gave and what was refused.")
  private int seconds;

  @Option(names = "--watch", paramLabel = "NAME", description = "Show what came by a connection.")
  private @Nullable String watch;

  @Override
  public Integer call() throws InterruptedException {
    ClosedWords.check(spec, "KIND", kind, KINDS);
    if (watch != null) {
      JsonNode progress = progress(watch);
      print(progress);
      return 0;
    }
    return kind == null ? listConnections() : connect();
  }

  private int listConnections() {
    JsonNode answer =
        service()
            .get("/api/v1/connections", Map.of("limit", paging.orElse(200)), JsonNode.class)
            .json();
    if (json) {
      printJson(answer);
      return 0;
    }
    var rows = new java.util.ArrayList<List<String>>();
    for (JsonNode one : answer.path("items")) {
      rows.add(
          List.of(
              one.path("name").stringValue(""),
              one.path("kind").stringValue(""),
              one.path("state").stringValue(""),
              one.path("lastAt").stringValue("-").replaceFirst("\\..*|Z$", "").replace('T', ' '),
              "" + one.path("accepted").longValue(0),
              "" + one.path("refused").longValue(0),
              Stating.value(one.path("covers")),
              one.path("problem").stringValue("-")));
    }
    printList(
        List.of(
            "CONNECTION", "KIND", "STATE", "LAST CONTACT", "EVENTS", "REFUSED", "COVERS", "ERROR"),
        rows);
    return 0;
  }

  private int connect() throws InterruptedException {
    var body = new TreeMap<String, @Nullable String>();
    body.put("kind", kind);
    body.put("name", name);
    boolean needsKey = !List.of("kafka", "files", "by-hand").contains(String.valueOf(kind));
    if (needsKey && name == null) {
      throw new picocli.CommandLine.ParameterException(
          spec.commandLine(), "Give the connection a name with --name");
    }
    JsonNode made = service().post("/api/v1/connections", body, JsonNode.class).json();
    if (json && seconds == 0) {
      printJson(made);
      return 0;
    }
    for (JsonNode snippet : made.path("settings")) {
      out().println(styled("bold", snippet.path("title").stringValue("")));
      snippet.path("text").stringValue("").lines().forEach(line -> out().println("  " + line));
      out().println();
    }
    if (made.has("token")) {
      note("The key can only send, and is shown this once.");
    }
    return seconds > 0 && needsKey ? await(String.valueOf(name)) : 0;
  }

  private int await(String of) throws InterruptedException {
    note("Waiting for the first event …");
    long until = System.nanoTime() + seconds * 1_000_000_000L;
    String refusal = "";
    while (System.nanoTime() < until) {
      JsonNode progress = progress(of);
      String now = progress.path("refusal").stringValue("");
      if (!progress.path("events").isEmpty()) {
        print(progress);
        return 0;
      }
      if (!now.equals(refusal)) {
        refusal = now;
        note("refused: " + refusal);
      }
      Thread.sleep(POLL_MILLIS);
    }
    note("Nothing was accepted within " + seconds + " s; look again with --watch " + of);
    return ServiceException.FINDING;
  }

  private JsonNode progress(String of) {
    return service().get("/api/v1/connections/key", Map.of("name", of), JsonNode.class).json();
  }

  private void print(JsonNode progress) {
    if (json) {
      printJson(progress);
      return;
    }
    out()
        .printf(
            "%d events accepted, %d refused%n",
            progress.path("accepted").longValue(0), progress.path("refused").longValue(0));
    if (progress.path("refusal").isString()) {
      out().println("last refused: " + progress.path("refusal").stringValue());
    }
    for (JsonNode event : progress.path("events")) {
      out()
          .printf(
              "%s  %s%n", event.path("type").stringValue(""), event.path("about").stringValue(""));
      event.path("changed").forEach(word -> out().println("    " + word.stringValue("")));
    }
  }
}
