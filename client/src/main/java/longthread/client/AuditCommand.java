package longthread.client;

import java.util.ArrayList;
import java.util.List;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;

@Command(
    name = "audit",
    description = "Who did what, who saw what, and who was refused; for auditors and admins.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread audit --action preview --about mart.payout_statement",
      "  longthread audit --who ida --since 2031-05-01T00:00:00Z",
      "  longthread audit --outcome refused --lines > refused.ndjson"
    })
final class AuditCommand extends ListOutput implements Callable<Integer> {
  private static final List<String> OUTCOMES = List.of("done", "refused");

  @Option(names = "--who", paramLabel = "NAME", description = "Only of this account or key.")
  private @Nullable String who;

  @Option(names = "--action", paramLabel = "ACTION", description = "Only this, such as makeKey.")
  private @Nullable String action;

  @Option(names = "--outcome", paramLabel = "OUTCOME", description = "Only done, or refused.")
  private @Nullable String outcome;

  @Option(names = "--about", paramLabel = "TEXT", description = "Only what is about this.")
  private @Nullable String about;

  @Option(names = "--since", paramLabel = "TIME", description = "Only from this time on.")
  private @Nullable String since;

  @Option(names = "--until", paramLabel = "TIME", description = "Only before this time.")
  private @Nullable String until;

  @Option(names = "--lines", description = "Print all entries, one as JSON on each line.")
  private boolean lines;

  @Override
  public Integer call() {
    ClosedWords.check(spec, "--outcome", outcome, OUTCOMES);
    var parameters = new TreeMap<String, @Nullable Object>();
    parameters.put("who", who);
    parameters.put("action", action);
    parameters.put("outcome", outcome);
    parameters.put("about", about);
    parameters.put("since", since);
    parameters.put("until", until);
    if (lines) {
      out().print(service().text("/api/v1/audit", parameters, "application/x-ndjson"));
      out().flush();
      return 0;
    }
    parameters.put("limit", paging.orElse(csv ? 1_000 : 50));
    JsonNode answer = service().get("/api/v1/audit", parameters, JsonNode.class).json();
    if (json) {
      printJson(answer);
      return 0;
    }
    var rows = new ArrayList<List<String>>();
    for (JsonNode entry : answer.path("items")) {
      int times = entry.path("times").intValue(1);
      rows.add(
          List.of(
              Json.time(entry.path("at")),
              who(entry),
              entry.path("action").stringValue(""),
              entry.path("outcome").stringValue("") + (times > 1 ? " × " + times : ""),
              entry.path("address").stringValue(""),
              entry.path("about").stringValue(""),
              entry.path("detail").stringValue("")));
    }
    printList(List.of("AT", "WHO", "ACTION", "OUTCOME", "FROM", "ABOUT", "DETAIL"), rows);
    if (answer.has("cursor") && !csv) {
      note("there are more; --limit N lists them, --lines prints all");
    }
    return 0;
  }

  private static String who(JsonNode entry) {
    String who = entry.path("who").stringValue("");
    return who.isEmpty()
        ? "nobody known"
        : who
            + " ("
            + entry.path("role").stringValue("")
            + (entry.path("byKey").booleanValue(false) ? ", key)" : ")");
  }
}
