package longthread.service.statements;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.Supplier;
import java.util.stream.Stream;
import longthread.core.json.CanonicalJson;
import longthread.service.intake.WaitPreference;
import longthread.service.live.References;
import longthread.service.web.Csv;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** What people set, over HTTP. */
@RestController
class StatementController {
  /**
   * Changes that a person wants to make.
   *
   * @param changes each with {@code set}, what it is {@code of}, and {@code value}, see
   *     docs/by-hand.md
   */
  record NewStatement(@Nullable String reason, List<Map<String, Object>> changes) {}

  record StatementList(List<Statements.ListedStatement> items, @Nullable String cursor) {}

  record RecordedList(List<RecordedLinks.RecordedLink> items, @Nullable String cursor) {}

  private static final int MAX_LISTED = 10_000;

  private final Statements statements;
  private final RecordedLinks recorded;
  private final References references;
  private final WaitPreference wait;
  private final Pages pages;

  StatementController(
      Statements statements,
      RecordedLinks recorded,
      References references,
      WaitPreference wait,
      Pages pages) {
    this.statements = statements;
    this.recorded = recorded;
    this.references = references;
    this.wait = wait;
    this.pages = pages;
  }

  @PostMapping("/api/v1/statements")
  @Operation(
      operationId = "state",
      summary = "Set values by hand, record lineage, join names, define terms and rules")
  ResponseEntity<Statements.Stated> state(
      HttpServletRequest request,
      Authentication who,
      @RequestParam(required = false) boolean dryRun,
      @RequestBody NewStatement wanted) {
    if (wanted.changes() == null || wanted.changes().isEmpty()) {
      throw ProblemException.badRequest(
          "bad-statement", "the statement has no changes; give at least one");
    }
    JsonNode changes = CanonicalJson.MAPPER.valueToTree(wanted.changes());
    String reason = wanted.reason() == null ? "" : wanted.reason();
    return answer(request, statements.state(who.getName(), reason, changes, dryRun));
  }

  @PostMapping("/api/v1/statements/undo")
  @Operation(operationId = "undoStatement", summary = "Take a statement back")
  ResponseEntity<Statements.Stated> undo(
      HttpServletRequest request,
      Authentication who,
      @RequestParam String id,
      @RequestParam(required = false) boolean dryRun) {
    return answer(request, statements.undo(who.getName(), id, dryRun));
  }

  private ResponseEntity<Statements.Stated> answer(
      HttpServletRequest request, Statements.Stated stated) {
    var answer = ResponseEntity.ok();
    String receipt = stated.receipt();
    if (receipt != null && wait.isOver(request, Long.parseLong(receipt))) {
      answer.header(WaitPreference.APPLIED, "wait");
    }
    return answer.body(stated);
  }

  @GetMapping("/api/v1/statements")
  @Operation(operationId = "listStatements", summary = "List what people stated, newest first")
  StatementList list(
      @RequestParam(required = false) @Nullable String ref,
      @RequestParam(required = false) @Nullable String by,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    String about = ref == null ? null : references.resolve(ref).asset().ref();
    Pages.Page<Statements.ListedStatement> page =
        pages.page(limit, cursor, () -> statements.list(about, by, MAX_LISTED, 0));
    return new StatementList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/recorded")
  @Operation(
      operationId = "listRecorded",
      summary = "List lineage that people recorded, and what became of it")
  @Nullable RecordedList recorded(
      HttpServletRequest request,
      HttpServletResponse response,
      @RequestParam(required = false) @Nullable String ref,
      @RequestParam(required = false) @Nullable String state,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor)
      throws IOException {
    String word = state == null ? null : state.toLowerCase(Locale.ROOT);
    if (word != null && !RecordedLinks.STATES.contains(word)) {
      throw ProblemException.badRequest(
          "unknown-word",
          "'" + state + "' is not a state; use " + String.join(", ", RecordedLinks.STATES));
    }
    var about = ref == null ? null : references.resolve(ref).asset();
    Supplier<List<RecordedLinks.RecordedLink>> all =
        () ->
            recorded.all(about).stream()
                .filter(link -> word == null || link.state().equals(word))
                .toList();
    if (Csv.isWanted(request)) {
      Csv.send(
          response,
          "recorded.csv",
          List.of("id", "title", "job", "reads", "writes", "from", "to", "flow", "until", "reason"),
          all.get().stream().flatMap(StatementController::rows).toList());
      return null;
    }
    Pages.Page<RecordedLinks.RecordedLink> page = pages.page(limit, cursor, all);
    return new RecordedList(page.items(), page.cursor());
  }

  /** One line for each column link; a record without any has one line. */
  private static Stream<List<String>> rows(RecordedLinks.RecordedLink link) {
    if (link.columns().isEmpty()) {
      return Stream.of(row(link, "", "", ""));
    }
    return link.columns().stream().map(c -> row(link, c.from(), c.to(), c.flow()));
  }

  private static List<String> row(
      RecordedLinks.RecordedLink link, String from, String to, String flow) {
    return List.of(
        link.id(),
        link.title() == null ? "" : link.title(),
        link.job() == null ? "" : link.job(),
        String.join(" ", link.reads()),
        String.join(" ", link.writes()),
        from,
        to,
        flow,
        link.until() == null ? "" : link.until().toString(),
        link.reason());
  }
}
