package longthread.service.watches;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import java.util.Locale;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Watches and their messages over HTTP. */
@RestController
class WatchController {
  record WatchList(List<Watches.ListedWatch> items, @Nullable String cursor) {}

  record DeliveryList(List<Watches.ListedDelivery> items, @Nullable String cursor) {}

  private static final List<String> STATES = List.of("waiting", "sent", "dead");

  private final Watches watches;
  private final Pages pages;

  WatchController(Watches watches, Pages pages) {
    this.watches = watches;
    this.pages = pages;
  }

  @GetMapping("/api/v1/watches")
  @Operation(operationId = "listWatches", summary = "List who is notified of what, and where to")
  WatchList list(
      Authentication who,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Watches.ListedWatch> page =
        pages.page(limit, cursor, () -> watches.all(who.getName(), has(who, "ADMIN")));
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
    watches.tryOut(who.getName(), has(who, "ADMIN"), id);
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
    Pages.Page<Watches.ListedDelivery> page =
        pages.page(limit, cursor, () -> watches.deliveries(watch == null ? "" : watch, word));
    return new DeliveryList(page.items(), page.cursor());
  }

  @PostMapping("/api/v1/deliveries/retry")
  @Operation(operationId = "retryDelivery", summary = "Send a message again that was given up")
  void retry(@RequestParam String id) {
    watches.retry(id);
  }

  private static boolean has(Authentication who, String role) {
    return who.getAuthorities().stream().anyMatch(a -> ("ROLE_" + role).equals(a.getAuthority()));
  }
}
