package longthread.service.watches;

import io.swagger.v3.oas.annotations.Operation;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import longthread.core.json.CanonicalJson;
import longthread.service.storage.watches.WatchQueries;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.node.ObjectNode;

/** Watches and their messages over HTTP. */
@RestController
class WatchController {
  record WatchList(List<Watches.ListedWatch> items, @Nullable String cursor) {}

  /**
   * A message of a watch.
   *
   * @param state waiting, sent or dead
   * @param tries how often it was tried
   * @param nextAt when it is tried next
   * @param problem why the last try failed
   */
  record ListedDelivery(
      String id,
      String watch,
      Instant madeAt,
      String subject,
      String state,
      int tries,
      @Nullable Instant nextAt,
      @Nullable Instant sentAt,
      @Nullable String problem) {
    static ListedDelivery of(WatchQueries.Delivery row) {
      return new ListedDelivery(
          row.id(),
          row.watchId(),
          row.madeAt(),
          row.subject(),
          row.state(),
          row.tries(),
          row.state().equals("waiting") ? row.nextAt() : null,
          row.sentAt(),
          row.problem());
    }
  }

  record DeliveryList(List<ListedDelivery> items, @Nullable String cursor) {}

  private static final List<String> STATES = List.of("waiting", "sent", "dead");
  private static final int MAX_LISTED = 5_000;

  private final Watches watches;
  private final WatchRunner runner;
  private final WatchQueries stored;
  private final Pages pages;
  private final Clock clock;

  WatchController(
      Watches watches, WatchRunner runner, WatchQueries stored, Pages pages, Clock clock) {
    this.watches = watches;
    this.runner = runner;
    this.stored = stored;
    this.pages = pages;
    this.clock = clock;
  }

  @GetMapping("/api/v1/watches")
  @Operation(operationId = "listWatches", summary = "List who is notified of what, and where to")
  WatchList list(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Watches.ListedWatch> page = pages.page(limit, cursor, watches::all);
    return new WatchList(page.items(), page.cursor());
  }

  @PostMapping("/api/v1/watches")
  @Operation(
      operationId = "makeWatch",
      summary = "Be notified of an asset, owner, label, workspace")
  Watches.MadeWatch make(Authentication who, @RequestBody Watches.NewWatch wanted) {
    return watches.make(who.getName(), has(who, "STEWARD") || has(who, "ADMIN"), wanted);
  }

  @DeleteMapping("/api/v1/watches")
  @Operation(operationId = "endWatch", summary = "End a watch; its messages are forgotten")
  void end(Authentication who, @RequestParam String id) {
    watches.end(who.getName(), has(who, "ADMIN"), id);
  }

  @PostMapping("/api/v1/watches/try")
  @Operation(operationId = "tryWatch", summary = "Send a test message to a watch")
  void send(Authentication who, @RequestParam String id) {
    WatchQueries.Watch watch = watches.watch(id);
    ObjectNode data = CanonicalJson.MAPPER.createObjectNode();
    data.put("by", who.getName()).put("text", "This is a test of the watch " + watch.title() + ".");
    String subject = "Test of the watch " + watch.title();
    runner.send(watch, "longthread.test", subject, data, clock.instant());
  }

  @GetMapping("/api/v1/deliveries")
  @Operation(
      operationId = "listDeliveries",
      summary = "List the messages of watches, newest first; dead ones were given up")
  DeliveryList deliveries(
      @RequestParam(required = false) @Nullable String watch,
      @RequestParam(required = false) @Nullable String state,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    String word = state == null ? "" : state.toLowerCase(Locale.ROOT);
    if (!word.isEmpty() && !STATES.contains(word)) {
      throw ProblemException.badRequest(
          "unknown-word",
          "'" + state + "' is no state of a message; use " + String.join(", ", STATES));
    }
    Pages.Page<ListedDelivery> page =
        pages.page(
            limit,
            cursor,
            () ->
                stored.deliveries(watch == null ? "" : watch, word, MAX_LISTED).stream()
                    .map(ListedDelivery::of)
                    .toList());
    return new DeliveryList(page.items(), page.cursor());
  }

  @PostMapping("/api/v1/deliveries/retry")
  @Operation(operationId = "retryDelivery", summary = "Send a message again that was given up")
  void retry(@RequestParam String id) {
    if (stored.retry(id, clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-delivery",
          "No dead message has this id",
          "no message '" + id + "' was given up; GET /api/v1/deliveries?state=dead lists them");
    }
  }

  private static boolean has(Authentication who, String role) {
    return who.getAuthorities().stream().anyMatch(a -> ("ROLE_" + role).equals(a.getAuthority()));
  }
}
