package longthread.service.trail;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.http.HttpServletRequest;
import java.util.List;
import longthread.service.intake.WaitPreference;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.statements.Statements;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What people looked at, and what they found right, over HTTP. */
@RestController
class TrailController {
  /**
   * The trail of a person.
   *
   * @param shared whether others may see it
   * @param others who lets others see theirs
   */
  record Trail(
      String person,
      boolean shared,
      List<String> others,
      List<Trails.TrailStep> items,
      @Nullable String cursor) {}

  /** Whether others may see one's trail. */
  record TrailSharing(boolean shared) {}

  /** That a thread was followed from one end to the other and is right. */
  record NewFollowed(String from, String to, @Nullable String note) {}

  record FollowedList(List<FollowedThreads.Followed> items, @Nullable String cursor) {}

  private final Trails trails;
  private final FollowedThreads followed;
  private final References references;
  private final Receipts receipts;
  private final WaitPreference wait;
  private final Pages pages;

  TrailController(
      Trails trails,
      FollowedThreads followed,
      References references,
      Receipts receipts,
      WaitPreference wait,
      Pages pages) {
    this.trails = trails;
    this.followed = followed;
    this.references = references;
    this.receipts = receipts;
    this.wait = wait;
    this.pages = pages;
  }

  @GetMapping("/api/v1/trail")
  @Operation(
      operationId = "getTrail",
      summary = "List what you looked at and what you mean to look at, newest first")
  Trail trail(
      Authentication who,
      @RequestParam(required = false) @Nullable String person,
      @RequestParam(required = false) @Nullable Boolean later,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Trails.Seen seen = trails.of(who.getName(), person, later);
    Pages.Page<Trails.TrailStep> page = pages.page(limit, cursor, seen::steps);
    return new Trail(seen.person(), seen.shared(), seen.others(), page.items(), page.cursor());
  }

  @PostMapping("/api/v1/trail")
  @Operation(operationId = "addToTrail", summary = "Note that you looked at an asset, or will")
  void add(Authentication who, @RequestBody Trails.NewStep step) {
    trails.add(who.getName(), step);
  }

  @DeleteMapping("/api/v1/trail")
  @Operation(operationId = "endLater", summary = "Take an asset off what you will look at later")
  void remove(Authentication who, @RequestParam String ref) {
    trails.noLongerLater(who.getName(), ref);
  }

  @PutMapping("/api/v1/trail/sharing")
  @Operation(operationId = "shareTrail", summary = "Let others see your trail, or not")
  void share(Authentication who, @RequestBody TrailSharing sharing) {
    trails.share(who.getName(), sharing.shared());
  }

  // ------------------------------------------------------------------ followed threads

  @GetMapping("/api/v1/followed")
  @Operation(
      operationId = "listFollowed",
      summary = "List threads that people followed and found right, and whether that holds")
  FollowedList followed(
      @RequestParam(required = false) @Nullable String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor,
      @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    String asset = ref == null ? null : references.resolve(ref).asset().ref();
    Pages.Page<FollowedThreads.Followed> page =
        pages.page(limit, cursor, () -> followed.all(asset));
    return new FollowedList(page.items(), page.cursor());
  }

  @PostMapping("/api/v1/followed")
  @Operation(
      operationId = "noteFollowed",
      summary = "Note that you followed a thread and found it right")
  ResponseEntity<Statements.Stated> note(
      HttpServletRequest request, Authentication who, @RequestBody NewFollowed wanted) {
    References.Named from = references.resolve(wanted.from() == null ? "" : wanted.from());
    References.Named to = references.resolve(wanted.to() == null ? "" : wanted.to());
    Statements.Stated stated =
        followed.note(who.getName(), from, to, wanted.note() == null ? "" : wanted.note());
    var answer = ResponseEntity.ok();
    String receipt = stated.receipt();
    if (receipt != null && wait.isOver(request, Long.parseLong(receipt))) {
      answer.header(WaitPreference.APPLIED, "wait");
    }
    return answer.body(stated);
  }
}
