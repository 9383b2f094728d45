package longthread.client;

import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.EventAnswer;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "event",
    description = "Open an event: what it changed, the facts it gave, its bytes.",
    mixinStandardHelpOptions = true)
final class EventCommand extends Output implements Callable<Integer> {
  @Parameters(paramLabel = "ID", description = "The event's id, as intake lists it.")
  private String id = "";

  @Option(names = "--bytes", description = "Print only its bytes, exactly as received.")
  private boolean bytes;

  @Override
  public Integer call() {
    var reply = service().get("/api/v1/intake/event", Map.of("id", id), EventAnswer.class);
    if (bytes) {
      String body = reply.value().body();
      out().println(body == null ? "" : body);
    } else if (json) {
      printJson(reply.json());
    } else {
      print(reply.value());
    }
    return 0;
  }

  private void print(EventAnswer event) {
    out().printf("%s %s%n", text(event.type()), text(event.job()));
    out()
        .printf(
            "event time %s, received %s, %d bytes, reported by %s%n",
            time(event.eventTime()),
            time(event.receivedAt()),
            event.bytes(),
            text(event.producer()));
    out().printf("reads  %s%n", joined(event.inputs()));
    out().printf("writes %s%n", joined(event.outputs()));
    event.warnings().forEach(warning -> out().println("warning: " + warning));
    out().println();
    event.changed().forEach(words -> out().println("  " + words));
    out().println();
    var facets = new Table("FACET", "OF", "ROLE", "CURRENT");
    for (EventAnswer.Facet facet : event.facets()) {
      facets.row(facet.key(), facet.about(), facet.role(), facet.current() ? "yes" : "superseded");
    }
    print(facets);
    out().printf("%n%d column links reported%n", event.links().size());
  }
}
