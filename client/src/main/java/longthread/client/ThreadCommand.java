package longthread.client;

import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "thread",
    description = "Draw the shortest thread between two assets or columns.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread thread drop/readings#fat 'Ten-day payout'",
      "  longthread thread collect.public.pickup payout_statement#amount"
    })
final class ThreadCommand extends Output implements Callable<Integer> {
  @Parameters(index = "0", paramLabel = "FROM", description = "Where it begins.")
  private String from = "";

  @Parameters(index = "1", paramLabel = "TO", description = "Where it ends.")
  private String to = "";

  @Override
  public Integer call() {
    JsonNode thread = service().get("/api/v1/thread", Map.of("from", from, "to", to));
    if (json) {
      printJson(thread);
      return 0;
    }
    out().print(PathPrinter.text(thread.path("hops")));
    out().println();
    out()
        .println(
            switch (text(thread.path("basis"))) {
              case "values" -> "Every step carries values.";
              case "decides" ->
                  "No value travels all the way: some step only decides values or rows.";
              default -> "Between whole assets; name a column to follow its values.";
            });
    if (thread.path("reversed").booleanValue()) {
      note("the data flows the other way: the thread is drawn from " + text(thread.path("to")));
    }
    return 0;
  }
}
