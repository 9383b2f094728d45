package longthread.client;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.concurrent.Callable;
import longthread.client.answers.AssetAnswer;
import longthread.client.answers.SearchResult;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

@Command(
    name = "find",
    description =
        "Find assets by words, parts of words, owner, label, or an address in another tool.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread find fat readings",
      "  longthread find payuot --kind report",
      "  longthread find https://sightglass.hollinvale.example/farm-payments/report/ten-day-payout"
    })
final class FindCommand extends ListOutput implements Callable<Integer> {
  private static final int SCREENFUL = 20;

  @Parameters(
      arity = "0..*",
      paramLabel = "WORD",
      description = "What to look for; nothing lists all.")
  private List<String> words = List.of();

  @Mixin private Filters filters = new Filters();

  @Override
  public Integer call() {
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("q", String.join(" ", words));
    filters.addTo(parameters, spec);
    parameters.put("limit", paging.orElse(SCREENFUL));
    var reply = service().get("/api/v1/search", parameters, SearchResult.class);
    if (json) {
      printJson(reply.json());
      return 0;
    }
    List<SearchResult.Hit> hits = reply.value().hits();
    if (hits.isEmpty() && !csv) {
      note(
          "nothing matches; try fewer or other words, or --help for the filters"
              + restricted(reply.value().restricted()));
      return 0;
    }
    printList(
        List.of("NAME", "KIND", "HEALTH", "SYSTEM", "COLUMNS", "OWNERS", "REFERENCE"),
        hits.stream().map(FindCommand::row).toList());
    if (reply.value().total() > hits.size()) {
      note(hits.size() + " of " + reply.value().total() + "; --limit lists more");
    }
    if (reply.value().restricted() > 0) {
      note("searched" + restricted(reply.value().restricted()));
    }
    return 0;
  }

  private static String restricted(int count) {
    return count == 0 ? "" : " without " + count + " assets that your grants do not cover";
  }

  private static String health(AssetAnswer.@Nullable Health health) {
    if (health == null) {
      return "-";
    }
    AssetAnswer.Inherited inherited = health.inherited();
    boolean plain = health.state().equals("healthy") || health.state().equals("unknown");
    return inherited != null && plain
        ? "source " + ClosedWords.spoken(inherited.state())
        : ClosedWords.spoken(health.state());
  }

  private static List<String> row(SearchResult.Hit hit) {
    return List.of(
        hit.title() == null ? text(hit.name()) : hit.title(),
        text(hit.kind()),
        health(hit.health()),
        text(hit.system()),
        joined(hit.columns()),
        joined(hit.owners()),
        text(hit.ref()));
  }
}
