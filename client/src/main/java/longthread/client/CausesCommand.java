package longthread.client;

import java.util.LinkedHashMap;
import java.util.concurrent.Callable;
import longthread.client.answers.CausesAnswer;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "causes",
    description =
        "Find why something is wrong or late: what went wrong upstream, causes apart from effects.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread causes 'Milk quality daily'",
      "  longthread causes payout_statement#amount --at 2031-05-01T08:00:00Z",
      "  longthread causes 'Ten-day payout' --fail-on suspect"
    })
final class CausesCommand extends Output implements Callable<Integer> {
  @Parameters(paramLabel = "NAME", description = "What is wrong or late.")
  private String name = "";

  @Option(
      names = "--at",
      paramLabel = "TIME",
      description = "As of this moment, with offset; now without it.")
  private @Nullable String at;

  @Mixin private FailOn failOn = new FailOn();

  @Override
  public Integer call() {
    failOn.check(spec, "suspect");
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("at", at);
    var reply = service().get("/api/v1/causes", parameters, CausesAnswer.class);
    if (json) {
      printJson(reply.json());
    } else {
      print(reply.value());
    }
    return failOn.exitCode(word -> !reply.value().suspects().isEmpty());
  }

  private void print(CausesAnswer causes) {
    CausesAnswer.Symptom symptom = causes.symptom();
    out().printf("%s  (%s)%n", styled("bold", text(symptom.name())), text(symptom.kind()));
    out().printf("refreshed %s; as of %s%n", time(symptom.written()), time(causes.at()));
    if (causes.suspects().isEmpty()) {
      out().println("\nNothing upstream failed, is missing or late, and no check fails.");
      return;
    }
    int number = 1;
    for (CausesAnswer.Suspect suspect : causes.suspects()) {
      print(number++, suspect);
    }
    if (causes.expectedRecovery() != null) {
      out().printf("%nExpected to be right again by %s.%n", time(causes.expectedRecovery()));
    }
  }

  private void print(int number, CausesAnswer.Suspect suspect) {
    out()
        .printf(
            "%n%d. %s %s since %s%n",
            number,
            suspect.ref(),
            styled("bold", ClosedWords.spoken(suspect.what())),
            time(suspect.at()));
    out().println("   " + suspect.evidence());
    if (suspect.error() != null) {
      out().println("   error: " + suspect.error());
    }
    out().println("   owners: " + owners(suspect.owners()));
    out().printf("   explains %.0f%% of what went wrong here%n", 100 * suspect.score());
    for (CausesAnswer.Effect effect : suspect.explains()) {
      out()
          .printf(
              "   effect: %s %s at %s%s%n",
              effect.ref(),
              ClosedWords.spoken(effect.what()),
              time(effect.at()),
              effect.error() == null ? "" : " (" + effect.error() + ")");
    }
    if (!suspect.thread().isEmpty()) {
      out().println("   thread:");
      PathPrinter.text(suspect.thread()).lines().forEach(line -> out().println("     " + line));
    }
  }
}
