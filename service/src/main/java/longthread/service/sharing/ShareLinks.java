package longthread.service.sharing;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import longthread.service.access.Tokens;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.References;
import longthread.service.storage.sharing.SharingQueries;
import longthread.service.web.ProblemException;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;

/** Makes, lists, opens and revokes links to the state of one report. */
@Service
class ShareLinks {
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

  private static final Duration USUAL = Duration.ofDays(90);
  private static final Duration LONGEST = Duration.ofDays(366);

  private final SharingQueries stored;
  private final References references;
  private final Catalog catalog;
  private final Clock clock;

  ShareLinks(SharingQueries stored, References references, Catalog catalog, Clock clock) {
    this.stored = stored;
    this.references = references;
    this.catalog = catalog;
    this.clock = clock;
  }

  /** Makes a link; {@code base} is the address of the service. */
  MadeShareLink make(String by, NewShareLink wanted, String base) {
    Asset asset = references.resolve(wanted.ref() == null ? "" : wanted.ref()).asset();
    Instant now = clock.instant();
    Instant until = wanted.until() == null ? now.plus(USUAL) : Times.parse(wanted.until());
    if (!until.isAfter(now) || until.isAfter(now.plus(LONGEST))) {
      throw ProblemException.badRequest(
          "bad-time", "a link ends after now and within a year; it cannot end at " + until);
    }
    String id = UUID.randomUUID().toString();
    String token = Tokens.make();
    stored.addLink(id, Tokens.hash(token), asset.ref(), by, now, until);
    String page = base + "/shared/" + token;
    return new MadeShareLink(id, page, page + "/badge.svg", until);
  }

  /** The links to an asset, the newest first; all for null. */
  List<ListedShareLink> all(@Nullable String about) {
    return stored.links().stream()
        .map(this::listed)
        .filter(link -> about == null || link.ref().equals(about))
        .toList();
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

  /** The asset that a link opens; empty if it ended or never was. */
  Optional<Asset> opened(String token) {
    return stored
        .open(Tokens.hash(token), clock.instant())
        .flatMap(link -> catalog.asset(catalog.leadOf(link.ref())));
  }

  void revoke(String id) {
    if (stored.revoke(id, clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-link",
          "No open link has this id",
          "there is no open link '" + id + "'; GET /api/v1/share-links lists them");
    }
  }
}
