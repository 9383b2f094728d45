package longthread.client;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
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
      "  longthread causes payout_statement --column amount --symptom wrong-values",
      "  longthread causes payout_statement#amount --at 2031-05-01T08:00:00Z --parts",
      "  longthread causes 'Ten-day payout' --fail-on suspect"
    })
final class CausesCommand extends Output implements Callable<Integer> {
  private static final String RESTRICTED = "restricted";

  @Parameters(paramLabel = "NAME", description = "What is wrong or late.")
  private String name = "";

  @Option(
      names = "--at",
      paramLabel = "TIME",
      description = "As of this moment, with offset; now without it.")
  private @Nullable String at;

  @Option(
      names = "--column",
      paramLabel = "COLUMN",
      description = "Only what can reach this column.")
  private @Nullable String column;

  @Option(
      names = "--symptom",
      paramLabel = "WORD",
      description = "What is seen: any, late, wrong-values, missing-rows or failed-check.")
  private @Nullable String symptom;

  @Option(
      names = "--good",
      paramLabel = "TIME",
      description = "Up to when it was known to be right; two weeks ago without it.")
  private @Nullable String good;

  @Option(names = "--parts", description = "Show what each score is made of.")
  private boolean parts;

  private static final List<String> SYMPTOMS =
      List.of("any", "late", "wrong-values", "missing-rows", "failed-check");

  @Mixin private FailOn failOn = new FailOn();

  @Override
  public Integer call() {
    failOn.check(spec, "suspect");
    ClosedWords.check(spec, "--symptom", symptom, SYMPTOMS);
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("column", column);
    parameters.put("symptom", symptom);
    parameters.put("at", at);
    parameters.put("good", good);
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
    if (symptom.oldestInput() != null) {
      out().printf("oldest input %s, taken %s%n", symptom.oldestInput(), time(symptom.oldestAt()));
    }
    if (causes.suspects().isEmpty()) {
      out()
          .println(
              "\nNothing upstream failed, is missing or late; no check fails, and no figure deviates.");
    }
    int number = 1;
    for (CausesAnswer.Suspect suspect : causes.suspects()) {
      print(number++, suspect);
    }
    int more = causes.suspectCount() - causes.suspects().size();
    if (more > 0) {
      out().printf("%n%d more went wrong upstream; these are the likeliest.%n", more);
    }
    if (!causes.changes().isEmpty()) {
      out().println("\nChanged since then, with no figure that moved:");
      for (CausesAnswer.Effect change : causes.changes()) {
        out().printf("   %s %s: %s%n", time(change.at()), change.ref(), text(change.evidence()));
      }
    }
    if (causes.expectedRecovery() != null) {
      out().printf("%nExpected to be right again by %s.%n", time(causes.expectedRecovery()));
    }
  }

  private static String what(CausesAnswer.Suspect suspect) {
    String column = suspect.column() == null ? "" : suspect.column() + " ";
    return column + ClosedWords.spoken(suspect.what());
  }

  private void printOwn(CausesAnswer.Suspect suspect) {
    out().println("   " + suspect.evidence());
    if (suspect.error() != null) {
      out().println("   error: " + suspect.error());
    }
    out().println("   owners: " + owners(suspect.owners()));
  }

  private void print(int number, CausesAnswer.Suspect suspect) {
    out()
        .printf(
            "%n%d. %s %s since %s%n",
            number, suspect.ref(), styled("bold", what(suspect)), time(suspect.at()));
    if (RESTRICTED.equals(suspect.kind())) {
      out().println("   your grants do not cover it: tell whoever runs the catalog");
    } else {
      printOwn(suspect);
    }
    for (CausesAnswer.Source source : suspect.unobserved()) {
      out()
          .printf(
              "   not observed: nothing reports what writes %s; owners: %s%n",
              source.ref(), owners(source.owners()));
    }
    if (suspect.affects() > 0) {
      String some = String.join(", ", suspect.affected());
      out()
          .printf(
              "   affects %d %s%s%n",
              suspect.affects(),
              suspect.affects() == 1 ? "asset" : "assets",
              some.isEmpty() ? "" : ", among them " + some);
    }
    printScore(suspect);
    for (CausesAnswer.Effect effect : suspect.explains()) {
      out()
          .printf(
              "   effect: %s %s at %s%s%n",
              effect.ref(),
              ClosedWords.spoken(effect.what()),
              time(effect.at()),
              effect.error() == null ? "" : " (" + effect.error() + ")");
    }
    if (suspect.toConfirm() != null && !suspect.toConfirm().isEmpty()) {
      out().println("   to confirm: " + suspect.toConfirm());
      out().println("   to rule out: " + text(suspect.toRuleOut()));
    }
    if (!suspect.thread().isEmpty()) {
      out().println("   thread:");
      PathPrinter.text(suspect.thread()).lines().forEach(line -> out().println("     " + line));
    }
  }

  private void printScore(CausesAnswer.Suspect suspect) {
    CausesAnswer.Parts of = suspect.parts();
    if (!parts || of == null) {
      return;
    }
    out()
        .printf(
            Locale.ROOT,
            "   score %.2f: fits the symptom %.2f, in time %.2f, thread %.2f, explains %.2f, rare %.2f%n",
            suspect.score(),
            of.kind(),
            of.time(),
            of.thread(),
            of.explains(),
            of.rarity());
  }
}
