package longthread.client;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "label",
    description =
        "Labels: where each is set, how far it travelled along lineage, and by which way.",
    mixinStandardHelpOptions = true,
    subcommands = {
      LabelCommand.ListLabels.class,
      LabelCommand.Show.class,
      LabelSettings.Define.class,
      LabelSettings.Remove.class,
      LabelSettings.Try.class,
      LabelSettings.Rule.class,
      LabelSettings.Stop.class,
      LabelSettings.Policy.class,
      LabelSettings.Mask.class,
      LabelSettings.Work.class
    },
    footer = {
      "",
      "Examples:",
      "  longthread label list",
      "  longthread label show personal",
      "  longthread label show personal --how inherited --csv > copies.csv",
      "  longthread label try personal --name '*iban*' --except '*hash*'",
      "  longthread label stop personal core.farm#phone --review 2027-03-31 --reason 'test numbers'",
      "  longthread label policy personal --forbid --kind report,dashboard --audience Board",
      "  longthread label work"
    })
final class LabelCommand extends Output implements Callable<Integer> {
  @Override
  public Integer call() {
    spec.commandLine().usage(out());
    return 2;
  }

  @Command(
      name = "list",
      description = "List the labels, with how many columns have each.",
      mixinStandardHelpOptions = true)
  static final class ListLabels extends Output implements Callable<Integer> {
    @Override
    public Integer call() {
      JsonNode answer = service().get("/api/v1/labels", Map.of(), JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var table = new Table("LABEL", "LEVEL", "SET", "INHERITED", "PERHAPS", "GOES INTO", "TAGS");
      for (JsonNode label : answer.path("items")) {
        table.row(
            label.path("id").stringValue(""),
            "" + label.path("level").intValue(0),
            "" + label.path("set").intValue(0),
            "" + label.path("inherited").intValue(0),
            "" + label.path("perhaps").intValue(0),
            goesInto(label),
            Stating.value(label.path("words")));
      }
      print(table);
      return 0;
    }

    private static String goesInto(JsonNode label) {
      var into = new ArrayList<>(List.of("copies"));
      if (label.path("overAggregation").booleanValue(false)) {
        into.add("sums");
      }
      if (label.path("overConditional").booleanValue(false)) {
        into.add("decisions");
      }
      if (label.path("overMasks").booleanValue(false)) {
        into.add("masked values");
      }
      return String.join(", ", into);
    }
  }

  @Command(
      name = "show",
      description =
          "List what has a label: set there or inherited, from where and by how many jobs.",
      mixinStandardHelpOptions = true)
  static final class Show extends ListOutput implements Callable<Integer> {
    private static final List<String> HOW = List.of("set", "inherited", "perhaps");
    private static final int SCREENFUL = 60;

    @Parameters(paramLabel = "LABEL", description = "Its id, such as personal.")
    private String label = "";

    @Option(
        names = "--how",
        paramLabel = "HOW",
        description = "Only what has it in this way: set, inherited or perhaps.")
    private @Nullable String how;

    @Override
    public Integer call() {
      ClosedWords.check(spec, "--how", how, HOW);
      var parameters = new TreeMap<String, @Nullable Object>();
      parameters.put("id", label);
      parameters.put("how", how);
      parameters.put("limit", paging.orElse(csv ? 1_000 : SCREENFUL));
      JsonNode answer = service().get("/api/v1/label", parameters, JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      if (!csv) {
        JsonNode own = answer.path("label");
        out()
            .println(
                own.path("title").stringValue("") + ": " + own.path("definition").stringValue(""));
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode place : answer.path("items")) {
        rows.add(
            List.of(
                place.path("name").stringValue(""),
                place.path("kind").stringValue(""),
                place.path("how").stringValue(""),
                place.path("fromName").stringValue(place.path("setBy").stringValue("-")),
                "" + place.path("thread").size(),
                owners(place)));
      }
      printList(List.of("WHAT", "KIND", "HOW", "FROM", "HOPS", "OWNERS"), rows);
      int more = answer.path("total").intValue(0) - answer.path("items").size();
      if (more > 0 && !csv) {
        note(more + " more; --limit N lists them");
      }
      return 0;
    }

    private static String owners(JsonNode place) {
      var names = new ArrayList<String>();
      place.path("owners").forEach(owner -> names.add(owner.path("name").stringValue("")));
      return names.isEmpty() ? "-" : String.join(", ", names);
    }
  }
}
