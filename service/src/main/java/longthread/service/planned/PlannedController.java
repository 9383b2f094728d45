package longthread.service.planned;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import java.security.Principal;
import java.util.List;
import longthread.core.change.ChangeDocument;
import longthread.service.impact.ChangeJudge;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Planned changes over HTTP. */
@RestController
class PlannedController {
  /** A page of planned changes, newest first, without their items. */
  record PlanList(List<Plan> items, int total, @Nullable String cursor) {}

  private final PlannedBoard board;
  private final References references;
  private final Receipts receipts;
  private final Pages pages;

  PlannedController(PlannedBoard board, References references, Receipts receipts, Pages pages) {
    this.board = board;
    this.references = references;
    this.receipts = receipts;
    this.pages = pages;
  }

  @GetMapping("/api/v1/planned-changes")
  @Operation(operationId = "listPlannedChanges", summary = "List planned changes, newest first")
  PlanList list(
      @RequestParam(required = false) @Nullable String state,
      @RequestParam(required = false) @Nullable String ref,
      @RequestParam(required = false) @Nullable String after,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    receipts.awaitVisible(after);
    if (state != null && !PlannedBoard.STATES.contains(state)) {
      throw ProblemException.badRequest(
          "unknown-state",
          "'"
              + state
              + "' is not a state of a planned change; use "
              + String.join(", ", PlannedBoard.STATES));
    }
    String asset = ref == null ? null : references.resolve(ref).asset().ref();
    Pages.Page<Plan> page = pages.page(limit, cursor, () -> board.list(state, asset));
    return new PlanList(page.items(), page.total(), page.cursor());
  }

  @GetMapping("/api/v1/planned-change")
  @Operation(
      operationId = "getPlannedChange",
      summary = "Show a planned change: what it does, whom it concerns, what became of it")
  Plan one(@RequestParam String id) {
    return board.one(id);
  }

  @GetMapping("/api/v1/planned-change/compare")
  @Operation(
      operationId = "comparePlannedChanges",
      summary = "Compare two planned changes: what each does to what either touches")
  Plan.Compared compare(@RequestParam String id, @RequestParam String with) {
    return board.compare(id, with);
  }

  @PostMapping(
      value = "/api/v1/planned-changes",
      consumes = {"application/json", "application/yaml", "application/x-yaml", "text/plain"})
  @Operation(
      operationId = "proposeChange",
      summary = "Propose a change: it is judged, kept, and judged again when the graph changes")
  Plan propose(
      @io.swagger.v3.oas.annotations.parameters.RequestBody(
              description = "A document by /api/v1/schemas/planned-change.json, YAML or JSON",
              content = @Content(mediaType = "application/yaml", schema = @Schema(type = "string")))
          @RequestBody
          byte[] body,
      Principal who) {
    String document = new String(body, java.nio.charset.StandardCharsets.UTF_8);
    return board.propose(ChangeJudge.document(document), who.getName());
  }

  @PostMapping("/api/v1/planned-changes/state")
  @Operation(
      operationId = "movePlannedChange",
      summary = "Say that a planned change is agreed, done, withdrawn, or proposed again")
  Plan move(@RequestParam String id, @RequestParam String to, Principal who) {
    if (!PlannedBoard.STATES.contains(to)) {
      throw ProblemException.badRequest(
          "unknown-state",
          "'"
              + to
              + "' is not a state of a planned change; use "
              + String.join(", ", PlannedBoard.STATES));
    }
    return board.move(id, to, who.getName());
  }

  @PostMapping("/api/v1/planned-changes/answer")
  @Operation(
      operationId = "answerPlannedChange",
      summary = "Answer to a planned change in the name of an owner whom it concerns")
  Plan answer(
      @RequestParam String id,
      @RequestParam String owner,
      @RequestParam String answer,
      @RequestParam(required = false) @Nullable String note,
      Principal who) {
    if (!List.of("agrees", "objects").contains(answer)) {
      throw ProblemException.badRequest(
          "unknown-answer", "'" + answer + "' is not an answer; use agrees or objects");
    }
    return board.answer(id, owner, answer, note, who.getName());
  }

  @GetMapping(value = "/api/v1/schemas/planned-change.json", produces = "application/schema+json")
  @Operation(operationId = "getPlannedChangeSchema", summary = "The JSON Schema of planned changes")
  String schema() {
    return ChangeDocument.schema();
  }
}
