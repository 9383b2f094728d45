package longthread.client;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;

@Command(
    name = "today",
    description =
        "Show what needs somebody now: causes, reports that are wrong or late, blind spots, intake.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread today",
      "  longthread today --owner Warehouse",
      "  longthread today --fail-on cause"
    })
final class TodayCommand extends Output implements Callable<Integer> {
  @Option(
      names = "--owner",
      paramLabel = "OWNER",
      description = "Only what this owner owns, or what that rests on.")
  private @Nullable String owner;

  @Mixin private FailOn failOn = new FailOn();

  @Override
  public Integer call() {
    failOn.check(spec, "cause", "late-report");
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("owner", owner);
    JsonNode answer = service().get("/api/v1/today", parameters, JsonNode.class).json();
    if (json) {
      printJson(answer);
    } else {
      causes(answer);
      pages(answer);
      notices(answer);
      rest(answer);
    }
    return failOn.exitCode(
        word -> answer.path(word.equals("cause") ? "causeCount" : "pageCount").intValue(0) > 0);
  }

  private void causes(JsonNode answer) {
    if (answer.path("causes").isEmpty()) {
      out().println("Nothing fails, is late or deviates.");
      return;
    }
    out().println(answer.path("causeCount").intValue() + " to look at, the most affecting first:");
    int place = 0;
    for (JsonNode cause : answer.path("causes")) {
      out()
          .println(
              ++place
                  + ". "
                  + cause.path("name").stringValue("")
                  + ": "
                  + cause.path("evidence").stringValue(""));
      line("error", cause.path("error"));
      out()
          .println(
              "   "
                  + ClosedWords.spoken(cause.path("state").stringValue(""))
                  + " since "
                  + Json.time(cause.path("since"))
                  + ", affects "
                  + cause.path("affects").intValue()
                  + reports(cause.path("pages"))
                  + ", owner "
                  + Json.owners(cause.path("owners")));
      if (!cause.path("effects").isEmpty()) {
        out().println("   followed by " + names(cause.path("effects")));
      }
    }
  }

  private void line(String what, JsonNode value) {
    if (value.isString()) {
      out().println("   " + what + ": " + value.stringValue());
    }
  }

  private static String reports(JsonNode pages) {
    return pages.isEmpty() ? "" : ", among them " + names(pages);
  }

  private static String names(JsonNode list) {
    var names = new ArrayList<String>();
    list.forEach(one -> names.add(one.path("name").stringValue("")));
    return String.join(", ", names);
  }

  private void pages(JsonNode answer) {
    if (answer.path("pages").isEmpty()) {
      return;
    }
    out().println();
    var table = new Table("REPORT", "STATE", "BECAUSE OF", "RIGHT AGAIN BY", "OWNER");
    for (JsonNode page : answer.path("pages")) {
      JsonNode health = page.path("health");
      JsonNode inherited = health.path("inherited");
      table.row(
          page.path("name").stringValue(""),
          inherited.isObject()
              ? "source " + ClosedWords.spoken(inherited.path("state").stringValue(""))
              : ClosedWords.spoken(health.path("state").stringValue("")),
          page.path("causeName").stringValue("-"),
          page.path("expectedAt").isString() ? Json.time(page.path("expectedAt")) : "not known",
          Json.owners(page.path("owners")));
    }
    print(table);
  }

  private void notices(JsonNode answer) {
    for (JsonNode notice : answer.path("notices")) {
      out()
          .println(
              "notice "
                  + notice.path("level").stringValue("")
                  + " on "
                  + notice.path("name").stringValue("")
                  + ": "
                  + notice.path("text").stringValue(""));
    }
  }

  private void rest(JsonNode answer) {
    out().println();
    JsonNode spots = answer.path("blindSpots");
    out()
        .println(
            spots.path("total").intValue()
                + " blind spots, "
                + spots.path("fresh").intValue()
                + " of them new this week (longthread coverage missing)");
    JsonNode intake = answer.path("intake");
    List<String> silent = new ArrayList<>();
    intake.path("silent").forEach(one -> silent.add(one.stringValue("")));
    out()
        .println(
            "intake: "
                + (intake.path("applying").booleanValue(false) ? "applying" : "NOT APPLYING")
                + ", "
                + intake.path("waiting").longValue()
                + " waiting, "
                + intake.path("refused").longValue()
                + " refused"
                + (silent.isEmpty() ? "" : ", silent: " + String.join(", ", silent)));
  }
}
