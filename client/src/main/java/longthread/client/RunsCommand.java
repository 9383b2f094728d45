package longthread.client;

import java.math.BigDecimal;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.concurrent.Callable;
import longthread.client.answers.RunRow;
import longthread.client.answers.Runs;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

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
final class RunsCommand extends ListOutput implements Callable<Integer> {
  private static final int SCREENFUL = 25;

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
      description = "completed, failed, aborted, running or unknown.")
  private @Nullable String state;

  @Option(
      names = "--system",
      paramLabel = "SYSTEM",
      description = "Only runs of this orchestrator.")
  private @Nullable String system;

  @Override
  public Integer call() {
    ClosedWords.check(
        spec, "--state", state, List.of("completed", "failed", "aborted", "running", "unknown"));
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("job", job);
    parameters.put("pipeline", pipeline);
    parameters.put("state", state);
    parameters.put("system", system);
    parameters.put("limit", paging.orElse(SCREENFUL));
    var reply = service().get("/api/v1/runs", parameters, Runs.class);
    if (json) {
      printJson(reply.json());
      return 0;
    }
    List<RunRow> runs = reply.value().runs();
    if (csv) {
      printList(
          List.of("START", "STATE", "JOB", "TOOK", "ROWS READ", "ROWS WRITTEN", "RUN", "ERROR"),
          runs.stream().map(RunsCommand::wholeRow).toList());
    } else {
      printList(
          List.of("START", "STATE", "JOB", "TOOK", "READ", "WRITTEN", "ERROR"),
          runs.stream().map(RunsCommand::row).toList());
    }
    return 0;
  }

  private static List<String> row(RunRow run) {
    return List.of(
        time(run.start()),
        run.stalled() ? "no end reported" : text(run.state()),
        text(run.job()),
        seconds(run.seconds()),
        text(run.rowsRead()),
        text(run.rowsWritten()),
        run.error() == null ? "" : run.error());
  }

  private static List<String> wholeRow(RunRow run) {
    return List.of(
        text(run.start()),
        text(run.state()),
        text(run.job()),
        run.seconds() == null ? "" : BigDecimal.valueOf(run.seconds()).toPlainString(),
        text(run.rowsRead()),
        text(run.rowsWritten()),
        text(run.ref()),
        text(run.error()));
  }
}
