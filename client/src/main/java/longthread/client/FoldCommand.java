package longthread.client;

import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.Fold;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

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
    ServiceClient service = service();
    var replies =
        names.stream()
            .map(name -> service.get("/api/v1/fold", Map.of("name", name), Fold.class))
            .toList();
    if (json) {
      printJson(replies.stream().map(ServiceClient.Reply::json).toList());
      return 0;
    }
    var table = new Table("NAME", "FOLDS INTO", "PART", "RULE");
    for (var reply : replies) {
      Fold fold = reply.value();
      table.row(
          text(fold.name()),
          fold.folds() ? text(fold.whole()) : "itself",
          text(fold.part()),
          text(fold.rule()));
    }
    print(table);
    return 0;
  }
}
