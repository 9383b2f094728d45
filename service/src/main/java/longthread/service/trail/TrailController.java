package longthread.service.trail;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.http.HttpServletRequest;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import longthread.service.intake.WaitPreference;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.statements.Statements;
import longthread.service.storage.sharing.SharingQueries;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
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
   * Something that was looked at, or is to be.
   *
   * @param later true to mark it as to be looked at later
   */
  record NewStep(String ref, @Nullable Boolean later, @Nullable String note) {}

  record TrailStep(
      String ref, String name, String kind, Instant at, boolean later, @Nullable String note) {}

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
      List<TrailStep> items,
      @Nullable String cursor) {}

  /** Whether others may see one's trail. */
  record TrailSharing(boolean shared) {}

  /** That a thread was followed from one end to the other and is right. */
  record NewFollowed(String from, String to, @Nullable String note) {}

  record FollowedList(List<FollowedThreads.Followed> items, @Nullable String cursor) {}

  private static final int KEPT = 200;

  private final SharingQueries stored;
  private final FollowedThreads followed;
  private final References references;
  private final Catalog catalog;
  private final Receipts receipts;
  private final WaitPreference wait;
  private final Pages pages;
  private final Clock clock;

  TrailController(
      SharingQueries stored,
      FollowedThreads followed,
      References references,
      Catalog catalog,
      Receipts receipts,
      WaitPreference wait,
      Pages pages,
      Clock clock) {
    this.stored = stored;
    this.followed = followed;
    this.references = references;
    this.catalog = catalog;
    this.receipts = receipts;
    this.wait = wait;
    this.pages = pages;
    this.clock = clock;
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
    String of = person == null || person.isBlank() ? who.getName() : person.strip();
    List<String> sharing = stored.sharing();
    if (!of.equals(who.getName()) && !sharing.contains(of)) {
      throw new ProblemException(
          HttpStatus.FORBIDDEN,
          "forbidden",
          "This trail is not shared",
          "'" + of + "' does not share a trail; ask them to share it");
    }
    Pages.Page<TrailStep> page =
        pages.page(
            limit,
            cursor,
            () ->
                stored.trail(of, 2 * KEPT).stream()
                    .filter(step -> later == null || step.later() == later)
                    .map(this::step)
                    .toList());
    List<String> others = sharing.stream().filter(one -> !one.equals(who.getName())).toList();
    return new Trail(of, sharing.contains(of), others, page.items(), page.cursor());
  }

  private TrailStep step(SharingQueries.Step row) {
    String lead = catalog.leadOf(row.ref());
    Asset asset = catalog.asset(lead).orElse(null);
    return new TrailStep(
        lead,
        asset == null ? lead : asset.shown(),
        asset == null ? "dataset" : asset.kind().word(),
        row.at(),
        row.later(),
        row.note());
  }

  @PostMapping("/api/v1/trail")
  @Operation(operationId = "addToTrail", summary = "Note that you looked at an asset, or will")
  void add(Authentication who, @RequestBody NewStep step) {
    Asset asset = references.resolve(step.ref() == null ? "" : step.ref()).asset();
    boolean later = Boolean.TRUE.equals(step.later());
    String note = step.note() == null ? "" : step.note().strip();
    if (note.length() > 500) {
      throw ProblemException.badRequest("bad-note", "the note has over 500 characters; shorten it");
    }
    stored.step(who.getName(), asset.ref(), clock.instant(), later, note);
    stored.keepNewest(who.getName(), KEPT);
  }

  @DeleteMapping("/api/v1/trail")
  @Operation(operationId = "endLater", summary = "Take an asset off what you will look at later")
  void remove(Authentication who, @RequestParam String ref) {
    stored.noLongerLater(who.getName(), references.resolve(ref).asset().ref());
  }

  @PutMapping("/api/v1/trail/sharing")
  @Operation(operationId = "shareTrail", summary = "Let others see your trail, or not")
  void share(Authentication who, @RequestBody TrailSharing sharing) {
    if (sharing.shared()) {
      stored.share(who.getName());
    } else {
      stored.unshare(who.getName());
    }
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
