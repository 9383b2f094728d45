package longthread.service.leaks;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import longthread.core.asset.Owner;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.LabelScheme;
import longthread.service.live.LabelSettings;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.web.Csv;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Leaks over HTTP. */
@RestController
class LeakController {
  private static final List<String> STATES = List.of("open", "accepted", "all");

  /**
   * A page of the leaks.
   *
   * @param total how many there are on all pages
   * @param open how many there are that nobody accepts, whatever state was asked for
   * @param certain how many of the open ones are certain
   * @param possible how many of the open ones are possible
   */
  record LeakList(
      List<Leak> items, int total, int open, int certain, int possible, @Nullable String cursor) {}

  private final LeakBoard board;
  private final LabelScheme scheme;
  private final Catalog catalog;
  private final References references;
  private final Receipts receipts;
  private final Pages pages;

  LeakController(
      LeakBoard board,
      LabelScheme scheme,
      Catalog catalog,
      References references,
      Receipts receipts,
      Pages pages) {
    this.catalog = catalog;
    this.board = board;
    this.scheme = scheme;
    this.references = references;
    this.receipts = receipts;
    this.pages = pages;
  }

  @GetMapping("/api/v1/leaks")
  @Operation(
      operationId = "listLeaks",
      summary = "List where labelled columns reach places that may not hold them",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(
                    mediaType = "application/json",
                    schema = @Schema(implementation = LeakList.class)),
                @Content(mediaType = "text/csv", schema = @Schema(type = "string"))
              }))
  @Nullable LeakList list(
      HttpServletRequest request,
      HttpServletResponse response,
      @RequestParam(required = false) @Nullable String label,
      @RequestParam(required = false) @Nullable String ref,
      @RequestParam(required = false) @Nullable String system,
      @RequestParam(required = false) @Nullable String owner,
      @RequestParam(required = false) @Nullable String state,
      @RequestParam(required = false) @Nullable String after,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor)
      throws IOException {
    receipts.awaitVisible(after);
    String wanted = state == null ? "open" : state.toLowerCase(Locale.ROOT);
    if (!STATES.contains(wanted)) {
      throw ProblemException.badRequest(
          "unknown-word",
          "'" + state + "' is no state of a leak; use one of " + String.join(", ", STATES));
    }
    String ofLabel = label == null ? null : scheme.named(label).id();
    Asset at = ref == null ? null : references.resolve(ref).asset();
    Map<String, LabelSettings.Accepted> accepted = board.accepted();
    List<LeakBoard.Found> found =
        board.all().stream()
            .filter(leak -> ofLabel == null || leak.label().id().equals(ofLabel))
            .filter(leak -> at == null || leak.ref().equals(at.ref()))
            .filter(leak -> system == null || catalog.systemOf(leak.ref()).equals(system))
            .filter(leak -> owner == null || isOwnedBy(leak, owner))
            .toList();
    List<LeakBoard.Found> open =
        found.stream().filter(leak -> !accepted.containsKey(leak.id())).toList();
    List<LeakBoard.Found> shown =
        switch (wanted) {
          case "all" -> found;
          case "open" -> open;
          default -> found.stream().filter(leak -> accepted.containsKey(leak.id())).toList();
        };
    List<Leak> leaks = Pages.made(shown, leak -> board.leak(leak, accepted));
    if (Csv.isWanted(request)) {
      Csv.send(
          response,
          "leaks.csv",
          List.of(
              "name",
              "kind",
              "label",
              "certainty",
              "columns",
              "from",
              "unmasked from",
              "unmasked to",
              "job",
              "readers",
              "owners",
              "policy",
              "state",
              "accepted until",
              "reference"),
          Pages.made(leaks, LeakController::row));
      return null;
    }
    Pages.Page<Leak> page = pages.page(limit, cursor, () -> leaks);
    int certain = (int) open.stream().filter(one -> one.leak().isCertain()).count();
    return new LeakList(
        page.items(), page.total(), open.size(), certain, open.size() - certain, page.cursor());
  }

  private boolean isOwnedBy(LeakBoard.Found leak, String owner) {
    return catalog.asset(leak.ref()).stream()
        .flatMap(asset -> asset.ownerNames().stream())
        .anyMatch(owner::equals);
  }

  private static List<String> row(Leak leak) {
    var unmasked = leak.unmasked();
    var accepted = leak.accepted();
    return List.of(
        leak.name(),
        leak.kind(),
        leak.label(),
        leak.certainty(),
        String.join(" ", leak.columns().stream().map(Leak.LabelledColumn::name).toList()),
        leak.fromName(),
        unmasked == null ? "" : unmasked.fromName(),
        unmasked == null ? "" : unmasked.toName(),
        unmasked == null || unmasked.job() == null ? "" : unmasked.job(),
        String.join("; ", leak.readers()),
        String.join("; ", leak.owners().stream().map(Owner::name).toList()),
        leak.policy().words(),
        leak.state(),
        accepted == null ? "" : accepted.until().toString(),
        leak.ref());
  }
}
