package longthread.service.sharing;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.http.HttpServletRequest;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import longthread.service.access.Tokens;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.References;
import longthread.service.storage.sharing.SharingQueries;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import longthread.service.web.PublicAddress;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Links to the state of one report, over HTTP. */
@RestController
class ShareController {
  /**
   * A link to be made.
   *
   * @param until when it ends; in 90 days if absent, at most in a year
   */
  record NewShareLink(String ref, @Nullable String until) {}

  /**
   * A link that was made; what opens it is shown only here.
   *
   * @param page the address of the plain page
   * @param badge the address of the badge, an SVG
   */
  record MadeShareLink(String id, String page, String badge, Instant until) {}

  /**
   * A link as it is listed.
   *
   * @param state open, ended or revoked
   */
  record ListedShareLink(
      String id,
      String ref,
      String name,
      String madeBy,
      Instant madeAt,
      Instant until,
      String state) {}

  record ShareLinkList(List<ListedShareLink> items, @Nullable String cursor) {}

  private static final Duration USUAL = Duration.ofDays(90);
  private static final Duration LONGEST = Duration.ofDays(366);

  private final SharingQueries stored;
  private final References references;
  private final Catalog catalog;
  private final PublicAddress address;
  private final Pages pages;
  private final Clock clock;

  ShareController(
      SharingQueries stored,
      References references,
      Catalog catalog,
      PublicAddress address,
      Pages pages,
      Clock clock) {
    this.stored = stored;
    this.references = references;
    this.catalog = catalog;
    this.address = address;
    this.pages = pages;
    this.clock = clock;
  }

  @PostMapping("/api/v1/share-links")
  @Operation(
      operationId = "makeShareLink",
      summary = "Make a link by which anybody sees the state of one asset, until it ends")
  MadeShareLink make(
      HttpServletRequest request, Authentication who, @RequestBody NewShareLink wanted) {
    Asset asset = references.resolve(wanted.ref() == null ? "" : wanted.ref()).asset();
    Instant now = clock.instant();
    Instant until = wanted.until() == null ? now.plus(USUAL) : Times.parse(wanted.until());
    if (!until.isAfter(now) || until.isAfter(now.plus(LONGEST))) {
      throw ProblemException.badRequest(
          "bad-time", "a link ends after now and within a year; it cannot end at " + until);
    }
    String id = UUID.randomUUID().toString();
    String token = Tokens.make();
    stored.addLink(id, Tokens.hash(token), asset.ref(), who.getName(), now, until);
    String page = address.base(request) + "/shared/" + token;
    return new MadeShareLink(id, page, page + "/badge.svg", until);
  }

  @GetMapping("/api/v1/share-links")
  @Operation(operationId = "listShareLinks", summary = "List the links that were made")
  ShareLinkList list(
      @RequestParam(required = false) @Nullable String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    String about = ref == null ? null : references.resolve(ref).asset().ref();
    Pages.Page<ListedShareLink> page =
        pages.page(
            limit,
            cursor,
            () ->
                stored.links().stream()
                    .map(this::listed)
                    .filter(link -> about == null || link.ref().equals(about))
                    .toList());
    return new ShareLinkList(page.items(), page.cursor());
  }

  private ListedShareLink listed(SharingQueries.Link link) {
    String lead = catalog.leadOf(link.ref());
    String state =
        link.revokedAt() != null
            ? "revoked"
            : link.until().isAfter(clock.instant()) ? "open" : "ended";
    return new ListedShareLink(
        link.id(),
        lead,
        catalog.asset(lead).map(Asset::shown).orElse(lead),
        link.madeBy(),
        link.madeAt(),
        link.until(),
        state);
  }

  @DeleteMapping("/api/v1/share-links")
  @Operation(operationId = "revokeShareLink", summary = "Revoke a link: it opens nothing any more")
  void revoke(@RequestParam String id) {
    if (stored.revoke(id, clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-link",
          "No open link has this id",
          "there is no open link '" + id + "'; GET /api/v1/share-links lists them");
    }
  }
}
