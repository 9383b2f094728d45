package longthread.service.audit;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import longthread.core.json.CanonicalJson;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.node.ObjectNode;

/** The audit log over HTTP. */
@RestController
class AuditController {
  /**
   * An entry of the audit log.
   *
   * @param who an account or key; empty where nobody was known
   * @param byKey whether it was a key, not a person who is signed in
   * @param action the operation of the interface
   * @param outcome done or refused
   * @param times how many equal refusals within a minute it stands for
   */
  record AuditEntry(
      long id,
      Instant at,
      String who,
      String role,
      boolean byKey,
      String address,
      String action,
      String about,
      String outcome,
      String detail,
      int times) {}

  record AuditList(List<AuditEntry> items, @Nullable String cursor) {}

  record ActionList(List<String> items, @Nullable String cursor) {}

  private static final String LINES = "application/x-ndjson";
  private static final List<String> OUTCOMES = List.of("done", "refused");
  private static final Instant LATEST = Instant.parse("9999-01-01T00:00:00Z");
  private static final int LINES_AT_ONCE = 1_000;

  private final AuditLog log;
  private final Pages pages;

  AuditController(AuditLog log, Pages pages) {
    this.log = log;
    this.pages = pages;
  }

  @GetMapping("/api/v1/audit")
  @Operation(
      operationId = "listAudit",
      summary = "List who did what, and who was refused what, newest first",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(
                    mediaType = "application/json",
                    schema = @Schema(implementation = AuditList.class)),
                @Content(mediaType = LINES, schema = @Schema(type = "string"))
              }))
  @Nullable AuditList list(
      HttpServletRequest request,
      HttpServletResponse response,
      @RequestParam(defaultValue = "") String who,
      @RequestParam(defaultValue = "") String action,
      @RequestParam(defaultValue = "") String outcome,
      @RequestParam(defaultValue = "") String about,
      @RequestParam(required = false) @Nullable String since,
      @RequestParam(required = false) @Nullable String until,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor)
      throws IOException {
    String ended = outcome.toLowerCase(Locale.ROOT);
    if (!ended.isEmpty() && !OUTCOMES.contains(ended)) {
      throw ProblemException.badRequest(
          "unknown-word", "'" + outcome + "' is no outcome; use " + String.join(", ", OUTCOMES));
    }
    var filter =
        new AuditLog.Filter(
            since == null ? Instant.EPOCH : Times.parse(since),
            until == null ? LATEST : Times.parse(until),
            who.replace('\0', ' '),
            action.replace('\0', ' '),
            ended,
            about.replace('\0', ' '));
    String accept = request.getHeader("Accept");
    if (accept != null && accept.contains(LINES)) {
      response.setContentType(LINES);
      response.setHeader("Content-Disposition", "attachment; filename=\"audit.ndjson\"");
      write(filter, response.getOutputStream());
      return null;
    }
    int most = Pages.limit(limit);
    List<AuditEntry> found =
        log.before(before(cursor), filter, most + 1).stream().map(AuditController::entry).toList();
    boolean isMore = found.size() > most;
    List<AuditEntry> items = isMore ? found.subList(0, most) : found;
    return new AuditList(items, isMore ? "b" + items.get(most - 1).id() : null);
  }

  private static AuditEntry entry(longthread.service.storage.audit.AuditQueries.Entry row) {
    return new AuditEntry(
        row.id(),
        row.at(),
        row.who(),
        row.role(),
        row.byKey(),
        row.address(),
        row.action(),
        row.about(),
        row.outcome(),
        row.detail(),
        row.times());
  }

  /** The entry that a page ends before; the log only grows, so a number is enough of a cursor. */
  private static long before(@Nullable String cursor) {
    if (cursor == null) {
      return Long.MAX_VALUE;
    }
    try {
      return Long.parseLong(cursor.startsWith("b") ? cursor.substring(1) : "no number");
    } catch (NumberFormatException e) {
      throw ProblemException.badRequest("bad-cursor", "the cursor was changed; pass it as given");
    }
  }

  private void write(AuditLog.Filter filter, OutputStream out) throws IOException {
    long before = Long.MAX_VALUE;
    var page = log.before(before, filter, LINES_AT_ONCE);
    while (!page.isEmpty()) {
      for (var row : page) {
        ObjectNode line = CanonicalJson.MAPPER.valueToTree(entry(row));
        line.put("at", row.at().toString());
        out.write((line + "\n").getBytes(StandardCharsets.UTF_8));
        before = row.id();
      }
      page = log.before(before, filter, LINES_AT_ONCE);
    }
  }

  @GetMapping("/api/v1/audit/actions")
  @Operation(operationId = "listAuditActions", summary = "List the actions that are in the log")
  ActionList actions(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<String> page = pages.page(limit, cursor, log::actions);
    return new ActionList(page.items(), page.cursor());
  }
}
