package longthread.service.notices;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.http.HttpServletRequest;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.UUID;
import longthread.core.json.CanonicalJson;
import longthread.service.intake.WaitPreference;
import longthread.service.live.Asset;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.statements.Statements;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** Notices over HTTP. */
@RestController
class NoticeController {
  /**
   * A notice to be put on an asset or column.
   *
   * @param level info, warning or stop; a warning if absent
   * @param from when it begins; at once if absent
   * @param until when it ends by itself; absent if only lifting ends it
   * @param ticket the address of a ticket
   */
  record NewNotice(
      String ref,
      @Nullable String level,
      String text,
      @Nullable String from,
      @Nullable String until,
      @Nullable String ticket) {}

  /**
   * What became of a notice.
   *
   * @param receipt may be passed to any query as {@code after}
   */
  record NoticeKept(String id, @Nullable String receipt) {}

  record NoticeList(List<Notice> items, @Nullable String cursor) {}

  private static final List<String> STATES = List.of("active", "planned", "ended", "lifted", "all");

  private final NoticeBoard board;
  private final Statements statements;
  private final References references;
  private final Receipts receipts;
  private final WaitPreference wait;
  private final Pages pages;
  private final Clock clock;

  NoticeController(
      NoticeBoard board,
      Statements statements,
      References references,
      Receipts receipts,
      WaitPreference wait,
      Pages pages,
      Clock clock) {
    this.board = board;
    this.statements = statements;
    this.references = references;
    this.receipts = receipts;
    this.wait = wait;
    this.pages = pages;
    this.clock = clock;
  }

  @GetMapping("/api/v1/notices")
  @Operation(operationId = "listNotices", summary = "List notices, the most serious first")
  NoticeList list(
      @RequestParam(required = false) @Nullable String ref,
      @RequestParam(required = false) @Nullable String state,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor,
      @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    String wanted = state == null ? "active" : state.toLowerCase(Locale.ROOT);
    if (!STATES.contains(wanted)) {
      throw ProblemException.badRequest(
          "unknown-word",
          "'" + state + "' is no state of a notice; use one of " + String.join(", ", STATES));
    }
    Asset about = ref == null ? null : references.resolve(ref).asset();
    List<String> shown =
        about == null ? List.of() : board.on(about).stream().map(ShownNotice::id).toList();
    Pages.Page<Notice> page =
        pages.page(
            limit,
            cursor,
            () ->
                board.all().stream()
                    .filter(notice -> wanted.equals("all") || notice.state().equals(wanted))
                    .filter(notice -> about == null || isAbout(notice, about, shown))
                    .toList());
    return new NoticeList(page.items(), page.cursor());
  }

  private static boolean isAbout(Notice notice, Asset asset, List<String> shown) {
    int hash = notice.ref().indexOf('#');
    String on = hash < 0 ? notice.ref() : notice.ref().substring(0, hash);
    return shown.contains(notice.id()) || on.equals(asset.ref());
  }

  @PostMapping("/api/v1/notices")
  @Operation(
      operationId = "putNotice",
      summary = "Put a notice on an asset or column; it is shown on all that is affected")
  ResponseEntity<NoticeKept> put(
      HttpServletRequest request, Authentication who, @RequestBody NewNotice wanted) {
    if (wanted.text() == null || wanted.text().isBlank()) {
      throw ProblemException.badRequest(
          "bad-notice", "a notice has a text; say what is the matter");
    }
    References.Named named = references.resolve(wanted.ref() == null ? "" : wanted.ref());
    if (named.asset().isJob()) {
      throw ProblemException.badRequest(
          "bad-notice", named.ref() + " is a job; put the notice on what it writes");
    }
    ObjectNode value = CanonicalJson.MAPPER.createObjectNode();
    value.put("on", named.ref());
    value.put(
        "level", wanted.level() == null ? "warning" : wanted.level().toLowerCase(Locale.ROOT));
    value.put("text", wanted.text().strip());
    Instant from = wanted.from() == null ? clock.instant() : Times.parse(wanted.from());
    value.put("from", from.toString());
    if (wanted.until() != null) {
      Instant until = Times.parse(wanted.until());
      if (!until.isAfter(from) || !until.isAfter(clock.instant())) {
        throw ProblemException.badRequest(
            "bad-notice", "the notice would be over already; let it end later than " + until);
      }
      value.put("until", until.toString());
    }
    if (wanted.ticket() != null && !wanted.ticket().isBlank()) {
      value.put("ticket", wanted.ticket().strip());
    }
    String id = UUID.randomUUID().toString();
    return kept(request, id, state(who, id, value, ""));
  }

  @PostMapping("/api/v1/notices/lift")
  @Operation(operationId = "liftNotice", summary = "Lift a notice: it is shown no more")
  ResponseEntity<NoticeKept> lift(
      HttpServletRequest request,
      Authentication who,
      @RequestParam String id,
      @RequestParam(defaultValue = "") String reason) {
    Notice notice =
        board
            .byId(id)
            .orElseThrow(
                () ->
                    new ProblemException(
                        HttpStatus.NOT_FOUND,
                        "unknown-notice",
                        "No notice has this id",
                        "there is no notice '" + id + "'; GET /api/v1/notices?state=all lists"));
    if (notice.liftedAt() != null) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "already-lifted",
          "This notice was lifted already",
          "the notice was lifted " + notice.liftedAt() + " by " + notice.liftedBy());
    }
    ObjectNode value = CanonicalJson.MAPPER.createObjectNode();
    value.put("on", notice.ref()).put("level", notice.level()).put("text", notice.text());
    value.put("from", notice.from().toString());
    if (notice.until() != null) {
      value.put("until", notice.until().toString());
    }
    if (notice.ticket() != null) {
      value.put("ticket", notice.ticket());
    }
    value.put("author", notice.by());
    value.put("lifted", clock.instant().toString()).put("lifter", who.getName());
    return kept(request, id, state(who, id, value, reason));
  }

  private Statements.Stated state(Authentication who, String id, ObjectNode value, String reason) {
    ArrayNode changes = CanonicalJson.MAPPER.createArrayNode();
    changes.addObject().put("set", "notice").put("id", id).set("value", value);
    return statements.state(who.getName(), reason, changes, false);
  }

  private ResponseEntity<NoticeKept> kept(
      HttpServletRequest request, String id, Statements.Stated stated) {
    var answer = ResponseEntity.ok();
    String receipt = stated.receipt();
    if (receipt != null && wait.isOver(request, Long.parseLong(receipt))) {
      answer.header(WaitPreference.APPLIED, "wait");
    }
    return answer.body(new NoticeKept(id, receipt));
  }
}
