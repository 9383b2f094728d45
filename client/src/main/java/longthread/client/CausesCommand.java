package longthread.client;

import java.util.LinkedHashMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "causes",
    description =
        "Look for why something is wrong or late: what went wrong upstream, causes apart from effects.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread causes 'Milk quality daily'",
      "  longthread causes payout_statement#amount --at 2031-05-01T08:00:00Z"
    })
final class CausesCommand extends Output implements Callable<Integer> {
  @Parameters(paramLabel = "NAME", description = "What is wrong or late.")
  private String name = "";

  @Option(
      names = "--at",
      paramLabel = "TIME",
      description = "As of this moment, with offset; now without it.")
  private @Nullable String at;

  @Option(names = "--fail", description = "End with exit code 1 if there is a suspect.")
  private boolean fail;

  @Override
  public Integer call() {
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("at", at);
    JsonNode causes = service().get("/api/v1/causes", parameters);
    if (json) {
      printJson(causes);
    } else {
      tell(causes);
    }
    return fail && !causes.path("suspects").isEmpty() ? ServiceException.FINDING : 0;
  }

  private void tell(JsonNode causes) {
    JsonNode symptom = causes.path("symptom");
    out().printf("%s  (%s)%n", lit("bold", text(symptom.path("name"))), text(symptom.path("kind")));
    out()
        .printf(
            "refreshed %s; judged as of %s%n",
            time(symptom.path("written")), time(causes.path("at")));
    if (causes.path("suspects").isEmpty()) {
      out().println("\nNothing upstream failed, is missing or late, and no check fails.");
      return;
    }
    int number = 1;
    for (JsonNode suspect : causes.path("suspects")) {
      out()
          .printf(
              "%n%d. %s %s since %s%n",
              number++,
              text(suspect.path("ref")),
              lit("bold", text(suspect.path("what"))),
              time(suspect.path("at")));
      out().println("   " + text(suspect.path("evidence")));
      if (suspect.path("error").isString()) {
        out().println("   error: " + text(suspect.path("error")));
      }
      out().println("   call " + owners(suspect.path("owners")));
      out()
          .printf(
              "   accounts for %.0f%% of what went wrong here%n",
              100 * suspect.path("score").doubleValue());
      for (JsonNode effect : suspect.path("explains")) {
        out()
            .printf(
                "   explains: %s %s at %s%s%n",
                text(effect.path("ref")),
                text(effect.path("what")),
                time(effect.path("at")),
                effect.path("error").isString() ? " (" + text(effect.path("error")) + ")" : "");
      }
      if (!suspect.path("thread").isEmpty()) {
        out().println("   thread:");
        PathPrinter.text(suspect.path("thread"))
            .lines()
            .forEach(line -> out().println("     " + line));
      }
    }
    if (causes.path("expectedRecovery").isString()) {
      out().printf("%nLikely right again by %s.%n", time(causes.path("expectedRecovery")));
    }
  }
}
