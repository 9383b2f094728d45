package longthread.client;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "runs",
    description = "Runs across all jobs or of one, newest first.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread runs --state failed",
      "  longthread runs @build_payout",
      "  longthread runs --pipeline quality_daily --csv"
    })
final class RunsCommand extends Output implements Callable<Integer> {
  @Parameters(arity = "0..1", paramLabel = "JOB", description = "Only runs of this job.")
  private @Nullable String job;

  @Option(
      names = "--pipeline",
      paramLabel = "PIPELINE",
      description = "Only runs of this pipeline and its tasks.")
  private @Nullable String pipeline;

  @Option(
      names = "--state",
      paramLabel = "STATE",
      description = "completed, failed, aborted or running.")
  private @Nullable String state;

  @Option(
      names = "--system",
      paramLabel = "SYSTEM",
      description = "Only runs of this orchestrator.")
  private @Nullable String system;

  @Option(
      names = "--limit",
      defaultValue = "25",
      paramLabel = "N",
      description = "How many to list (${DEFAULT-VALUE}).")
  private int limit;

  @Option(names = "--csv", description = "Print as CSV.")
  private boolean csv;

  @Override
  public Integer call() {
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("job", job);
    parameters.put("pipeline", pipeline);
    parameters.put("state", state);
    parameters.put("system", system);
    parameters.put("limit", limit);
    JsonNode answer = service().get("/api/v1/runs", parameters);
    if (json) {
      printJson(answer);
      return 0;
    }
    List<String> heading =
        List.of("START", "STATE", "JOB", "TOOK", "ROWS READ", "ROWS WRITTEN", "RUN", "ERROR");
    var rows = new ArrayList<List<String>>();
    for (JsonNode run : answer.path("runs")) {
      rows.add(
          Arrays.asList(
              time(run.path("start")),
              text(run.path("state")),
              text(run.path("job")),
              seconds(run.path("seconds")),
              text(run.path("rowsRead")),
              text(run.path("rowsWritten")),
              text(run.path("ref")),
              text(run.path("error"))));
    }
    if (csv) {
      printCsv(heading, rows);
      return 0;
    }
    var table = new Table("START", "STATE", "JOB", "TOOK", "READ", "WRITTEN", "ERROR");
    rows.forEach(
        r ->
            table.row(
                r.get(0),
                r.get(1),
                r.get(2),
                r.get(3),
                r.get(4),
                r.get(5),
                r.get(7).equals("-") ? "" : r.get(7)));
    print(table);
    return 0;
  }
}
