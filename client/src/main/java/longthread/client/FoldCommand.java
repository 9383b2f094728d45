package longthread.client;

import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;

@Command(
    name = "fold",
    description = "Try the rules by which partitions and dated shards are one asset.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "A name is namespace/name, whether or not the catalog has it.",
      "Example:",
      "  longthread fold s3://lake/raw/pickup/day=2031-05-01 file://share/drop/readings_20310501.csv"
    })
final class FoldCommand extends Output implements Callable<Integer> {
  @Parameters(arity = "1..*", paramLabel = "NAME", description = "Whole names of datasets.")
  private List<String> names = List.of();

  @Override
  public Integer call() {
    ArrayNode answers = new JsonMapper().createArrayNode();
    names.forEach(name -> answers.add(service().get("/api/v1/fold", Map.of("name", name))));
    if (json) {
      printJson(answers);
      return 0;
    }
    var table = new Table("NAME", "FOLDS INTO", "PART", "RULE");
    for (JsonNode fold : answers) {
      boolean folds = fold.path("folds").booleanValue(false);
      table.row(
          text(fold.path("name")),
          folds ? text(fold.path("whole")) : "itself",
          text(fold.path("part")),
          text(fold.path("rule")));
    }
    print(table);
    return 0;
  }
}
