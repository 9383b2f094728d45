package longthread.service.exact;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import longthread.core.asset.Reference;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.runs.RunReader;
import longthread.service.storage.runs.RunSearch;
import longthread.service.web.Csv;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What rests on a run, over HTTP. */
@RestController
class RecallController {
  private static final List<String> STATES = List.of("holds", "may-hold", "replaced");

  /**
   * A page of a recall list.
   *
   * @param holds how many assets hold the run's data still, whatever state was asked for
   * @param mayHold how many may hold it
   * @param replaced how many held it and were written anew since
   * @param runs all runs that used the data, nearest first, on the first page
   */
  record RecallPage(
      ExactLineage.ExactRun of,
      Instant at,
      int holds,
      int mayHold,
      int replaced,
      int total,
      List<ExactLineage.RecallItem> items,
      List<ExactLineage.RecalledRun> runs,
      boolean truncated,
      @Nullable String cursor) {}

  private static final int NEWEST_RUNS = 50;

  private final ExactLineage exact;
  private final RunReader runs;
  private final References references;
  private final Receipts receipts;
  private final Pages pages;
  private final Clock clock;

  RecallController(
      ExactLineage exact,
      RunReader runs,
      References references,
      Receipts receipts,
      Pages pages,
      Clock clock) {
    this.exact = exact;
    this.runs = runs;
    this.references = references;
    this.receipts = receipts;
    this.pages = pages;
    this.clock = clock;
  }

  @GetMapping("/api/v1/recall")
  @Operation(
      operationId = "getRecallList",
      summary = "List what rests on the data that a run wrote, and what was replaced since",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(
                    mediaType = "application/json",
                    schema = @Schema(implementation = RecallPage.class)),
                @Content(mediaType = "text/csv", schema = @Schema(type = "string"))
              }))
  @Nullable RecallPage recall(
      HttpServletRequest request,
      HttpServletResponse response,
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable String state,
      @RequestParam(required = false) @Nullable String asOf,
      @RequestParam(required = false) @Nullable String after,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor)
      throws IOException {
    receipts.awaitVisible(after);
    if (state != null && !STATES.contains(state)) {
      throw ProblemException.badRequest(
          "unknown-state",
          "'" + state + "' is not a state of a recall list; use " + String.join(", ", STATES));
    }
    Instant at = asOf == null ? clock.instant() : Times.parse(asOf);
    ExactLineage.RecallList all = exact.recall(run(ref, at), at);
    List<ExactLineage.RecallItem> items =
        all.items().stream().filter(i -> state == null || i.state().equals(state)).toList();
    if (Csv.isWanted(request)) {
      Csv.send(
          response,
          "recall.csv",
          List.of(
              "name",
              "kind",
              "state",
              "hops",
              "system",
              "owners",
              "written_at",
              "written_by",
              "replaced_at",
              "replaced_by",
              "reference"),
          items.stream().map(RecallController::line).toList());
      return null;
    }
    Pages.Page<ExactLineage.RecallItem> page = pages.page(limit, cursor, () -> items);
    return new RecallPage(
        all.of(),
        at,
        all.holds(),
        all.mayHold(),
        all.replaced(),
        page.total(),
        page.items(),
        cursor == null ? all.runs() : List.of(),
        all.truncated(),
        page.cursor());
  }

  private static List<String> line(ExactLineage.RecallItem item) {
    return List.of(
        item.name(),
        item.kind(),
        item.state(),
        String.valueOf(item.hops()),
        item.system(),
        String.join("; ", item.owners()),
        text(item.newestAt()),
        text(item.newest()),
        text(item.replacedAt()),
        text(item.replacedBy()),
        item.ref());
  }

  private static String text(@Nullable Object value) {
    return value == null ? "" : value.toString();
  }

  /** The run that is meant; a job stands for the newest of its runs that completed. */
  private UUID run(String ref, Instant at) {
    if (ref.startsWith(Reference.RUN_PREFIX)) {
      if (Reference.parse(ref) instanceof Reference.OfRun run) {
        return run.run();
      }
      throw ProblemException.badRequest("bad-reference", "'" + ref + "' does not name a run");
    }
    String job = references.resolve(ref).asset().ref();
    if (!Reference.isJob(job)) {
      throw ProblemException.badRequest(
          "bad-reference",
          job + " is not a run; name one as run:…, or a job for the newest run of it");
    }
    return runs.runs(RunSearch.Filter.ofJobBefore(job, at), NEWEST_RUNS).stream()
        .filter(run -> run.state().equals("completed"))
        .findFirst()
        .map(run -> UUID.fromString(run.ref().substring(Reference.RUN_PREFIX.length())))
        .orElseThrow(
            () ->
                new ProblemException(
                    HttpStatus.NOT_FOUND,
                    "no-run",
                    "No completed run is known",
                    "no run of " + job + " had completed by " + at + "; name a run as run:…"));
  }
}
