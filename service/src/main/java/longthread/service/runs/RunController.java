package longthread.service.runs;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import longthread.core.asset.Reference;
import longthread.core.history.RunState;
import longthread.service.live.Catalog;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.live.Sight;
import longthread.service.storage.runs.RunSearch;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Runs across jobs, and one run opened, over HTTP. */
@RestController
class RunController {
  private static final int MAX_LISTED = 5_000;

  record Runs(List<RunReader.RunRow> runs, Map<String, Integer> states, @Nullable String cursor) {}

  private final RunReader runs;
  private final RunDetails details;
  private final References references;
  private final Catalog catalog;
  private final Receipts receipts;
  private final Pages pages;

  RunController(
      RunReader runs,
      RunDetails details,
      References references,
      Catalog catalog,
      Receipts receipts,
      Pages pages) {
    this.catalog = catalog;
    this.runs = runs;
    this.details = details;
    this.references = references;
    this.receipts = receipts;
    this.pages = pages;
  }

  @GetMapping("/api/v1/runs")
  @Operation(operationId = "listRuns", summary = "List runs, newest first")
  Runs runs(
      @RequestParam(required = false) @Nullable String job,
      @RequestParam(required = false) @Nullable String pipeline,
      @RequestParam(required = false) @Nullable String state,
      @RequestParam(required = false) @Nullable String system,
      @RequestParam(defaultValue = "false") boolean outermost,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor,
      @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    if (state != null && RunState.of(state).isEmpty()) {
      throw ProblemException.badRequest(
          "unknown-state",
          "'"
              + state
              + "' is not the state of a run; use completed, failed, aborted, running or unknown");
    }
    Pages.Page<RunReader.RunRow> page =
        pages.page(
            limit,
            cursor,
            () ->
                seen(
                    runs.listed(
                        new RunSearch.Filter(
                            named(job), named(pipeline), state, system, null, null, outermost),
                        MAX_LISTED)));
    var states = new TreeMap<String, Integer>();
    page.items().forEach(run -> states.merge(run.state(), 1, Integer::sum));
    return new Runs(page.items(), states, page.cursor());
  }

  /** The runs of jobs that the caller may see. */
  private List<RunReader.RunRow> seen(List<RunReader.RunRow> rows) {
    return Sight.now().isWhole()
        ? rows
        : rows.stream().filter(run -> catalog.isSeen(run.job())).toList();
  }

  private @Nullable String named(@Nullable String job) {
    return job == null || job.isBlank() ? null : references.resolve(job).asset().ref();
  }

  @GetMapping("/api/v1/run")
  @Operation(operationId = "getRun", summary = "Show one run with what it read and wrote")
  RunDetails.RunDetail run(@RequestParam String ref) {
    String whole = ref.startsWith(Reference.RUN_PREFIX) ? ref : Reference.RUN_PREFIX + ref;
    if (!(Reference.parse(whole) instanceof Reference.OfRun wanted)) {
      throw ProblemException.badRequest("bad-reference", "'" + ref + "' does not name a run");
    }
    return details
        .of(wanted.run())
        .filter(run -> catalog.isSeen(run.run().job()))
        .orElseThrow(
            () ->
                new ProblemException(
                    HttpStatus.NOT_FOUND,
                    "unknown-run",
                    "No such run is known",
                    "no event of "
                        + wanted.text()
                        + " was taken in; GET /api/v1/runs lists the newest"));
  }
}
