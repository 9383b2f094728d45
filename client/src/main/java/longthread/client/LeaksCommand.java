package longthread.client;

import java.util.ArrayList;
import java.util.List;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;

@Command(
    name = "leaks",
    description = "Where labelled data reaches places that may not hold it, by the policies.",
    mixinStandardHelpOptions = true,
    subcommands = {LeaksCommand.Accept.class},
    footer = {
      "",
      "Examples:",
      "  longthread leaks",
      "  longthread leaks --label personal --fail-on open",
      "  longthread leaks 'Ten-day payout'",
      "  longthread leaks accept personal 'Ten-day payout' --until 2027-03-31 --reason 'by contract'"
    })
final class LeaksCommand extends ListOutput implements Callable<Integer> {
  private static final List<String> STATES = List.of("open", "accepted", "all");
  private static final int SCREENFUL = 40;

  @Parameters(
      arity = "0..1",
      paramLabel = "NAME",
      description = "Only leaks at this asset, in full.")
  private @Nullable String name;

  @Option(names = "--label", paramLabel = "LABEL", description = "Only leaks of this label.")
  private @Nullable String label;

  @Option(names = "--system", paramLabel = "SYSTEM", description = "Only in this system.")
  private @Nullable String system;

  @Option(names = "--owner", paramLabel = "OWNER", description = "Only at what this owner owns.")
  private @Nullable String owner;

  @Option(
      names = "--state",
      paramLabel = "STATE",
      description = "open, accepted or all; the open ones without it.")
  private @Nullable String state;

  @Mixin private FailOn failOn = new FailOn();

  @Override
  public Integer call() {
    ClosedWords.check(spec, "--state", state, STATES);
    failOn.check(spec, "open", "certain", "possible");
    var parameters = new TreeMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("label", label);
    parameters.put("system", system);
    parameters.put("owner", owner);
    parameters.put("state", state);
    parameters.put("limit", paging.orElse(csv ? 1_000 : SCREENFUL));
    JsonNode answer = service().get("/api/v1/leaks", parameters, JsonNode.class).json();
    if (json) {
      printJson(answer);
    } else if (name != null && !csv) {
      answer.path("items").forEach(this::printWhole);
      if (answer.path("items").isEmpty()) {
        out().println("No leaks here.");
      }
    } else {
      printAll(answer);
    }
    return failOn.exitCode(word -> answer.path(word).intValue(0) > 0);
  }

  private void printAll(JsonNode answer) {
    var rows = new ArrayList<List<String>>();
    for (JsonNode leak : answer.path("items")) {
      JsonNode unmasked = leak.path("unmasked");
      rows.add(
          List.of(
              leak.path("name").stringValue(""),
              leak.path("kind").stringValue(""),
              leak.path("label").stringValue(""),
              leak.path("certainty").stringValue(""),
              leak.path("fromName").stringValue(""),
              unmasked.isObject() ? unmasked.path("toName").stringValue("") : "-",
              Json.words(leak.path("readers")).isEmpty() ? "-" : Json.words(leak.path("readers")),
              Json.owners(leak.path("owners")),
              leak.path("state").stringValue("")));
    }
    printList(
        List.of(
            "WHERE",
            "KIND",
            "LABEL",
            "CERTAINTY",
            "SET AT",
            "NO MASK BEFORE",
            "READERS",
            "OWNERS",
            "STATE"),
        rows);
    int more = answer.path("total").intValue(0) - answer.path("items").size();
    if (more > 0 && !csv) {
      note(more + " more; --limit N lists them");
    }
    if (rows.isEmpty() && !csv) {
      note("no leaks by the policies there are; longthread label policy lists these");
    }
  }

  private void printWhole(JsonNode leak) {
    out()
        .println(
            leak.path("name").stringValue("")
                + ": "
                + leak.path("policy").path("words").stringValue(""));
    var columns = new ArrayList<String>();
    leak.path("columns").forEach(column -> columns.add(column.path("name").stringValue("")));
    out()
        .println(
            "  there:   "
                + String.join(", ", columns)
                + " ("
                + leak.path("certainty").stringValue("")
                + ")");
    out().println("  set at:  " + leak.path("fromName").stringValue(""));
    String readers = Json.words(leak.path("readers"));
    out().println("  readers: " + (readers.isEmpty() ? "not known" : readers));
    out().println("  owners:  " + Json.owners(leak.path("owners")));
    JsonNode unmasked = leak.path("unmasked");
    for (JsonNode hop : leak.path("thread")) {
      String job = hop.path("job").stringValue("");
      out()
          .println(
              "    "
                  + hop.path("fromName").stringValue("")
                  + " → "
                  + hop.path("toName").stringValue("")
                  + (job.isEmpty() ? "" : "  by " + job)
                  + (hop.equals(unmasked) ? "   ← a mask is missing here" : ""));
    }
    JsonNode accepted = leak.path("accepted");
    if (accepted.isObject()) {
      out()
          .println(
              "  accepted by "
                  + accepted.path("by").stringValue("")
                  + " until "
                  + Json.time(accepted.path("until"))
                  + ": "
                  + accepted.path("reason").stringValue(""));
    }
  }

  @Command(
      name = "accept",
      description = "Accept a leak until a day, with a reason; it is listed again after it.",
      mixinStandardHelpOptions = true)
  static final class Accept extends Stating implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "LABEL", description = "The label that leaks.")
    private String label = "";

    @Parameters(index = "1", paramLabel = "NAME", description = "Where it is.")
    private String name = "";

    @Option(names = "--until", paramLabel = "DATE", description = "The last day it is accepted.")
    private @Nullable String until;

    @Override
    public Integer call() {
      if (reason.isBlank() || until == null) {
        throw wrong("Say why with --reason, and with --until how long");
      }
      ArrayNode changes = changes();
      change(changes, "leak-accepted")
          .putObject("value")
          .put("label", label)
          .put("at", name)
          .put("reason", reason)
          .put("until", until);
      return state(changes);
    }
  }
}
