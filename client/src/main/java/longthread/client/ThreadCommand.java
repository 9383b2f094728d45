package longthread.client;

import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import longthread.client.answers.ThreadAnswer;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

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

  @Mixin private AsOf asOf = new AsOf();

  @Override
  public Integer call() {
    var parameters = new TreeMap<String, @Nullable Object>(Map.of("from", from, "to", to));
    asOf.addTo(parameters);
    var reply = service().get("/api/v1/thread", parameters, ThreadAnswer.class);
    if (json) {
      printJson(reply.json());
      return 0;
    }
    ThreadAnswer thread = reply.value();
    out().print(PathPrinter.text(thread.hops()));
    out().println();
    out()
        .println(
            switch (text(thread.basis())) {
              case "values" -> "Every step carries values.";
              case "decides" ->
                  "No value travels all the way: some step only filters, joins or groups.";
              default -> "Between whole assets; name a column to follow its values.";
            });
    if (thread.reversed()) {
      note("the data flows the other way: the thread is drawn from " + thread.to());
    }
    return 0;
  }
}
