package longthread.service.coverage;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import longthread.service.live.Receipts;
import longthread.service.web.Csv;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Coverage and blind spots over HTTP. */
@RestController
class CoverageController {
  record CoverageList(List<Coverage.SystemCoverage> items, @Nullable String cursor) {}

  /** Blind spots; {@code counts} has how many there are of each kind, on all pages. */
  record BlindSpotList(
      List<BlindSpots.BlindSpot> items,
      int total,
      Map<String, Integer> counts,
      @Nullable String cursor) {}

  private final Coverage coverage;
  private final BlindSpots spots;
  private final Receipts receipts;
  private final Pages pages;

  CoverageController(Coverage coverage, BlindSpots spots, Receipts receipts, Pages pages) {
    this.coverage = coverage;
    this.spots = spots;
    this.receipts = receipts;
    this.pages = pages;
  }

  @GetMapping("/api/v1/coverage")
  @Operation(
      operationId = "getCoverage",
      summary = "Show of how much lineage is known, by system and workspace")
  CoverageList coverage(
      @RequestParam(required = false) @Nullable String system,
      @RequestParam(required = false) @Nullable String after,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    receipts.awaitVisible(after);
    Pages.Page<Coverage.SystemCoverage> page =
        pages.page(
            limit,
            cursor,
            () ->
                coverage.all().stream()
                    .filter(c -> system == null || c.system().equals(system))
                    .toList());
    return new CoverageList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/blind-spots")
  @Operation(
      operationId = "listBlindSpots",
      summary = "List what the catalog has reason to expect and does not have",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(
                    mediaType = "application/json",
                    schema = @Schema(implementation = BlindSpotList.class)),
                @Content(mediaType = "text/csv", schema = @Schema(type = "string"))
              }))
  @Nullable BlindSpotList blindSpots(
      HttpServletRequest request,
      HttpServletResponse response,
      @RequestParam(required = false) @Nullable String kind,
      @RequestParam(required = false) @Nullable String system,
      @RequestParam(required = false) boolean ignored,
      @RequestParam(required = false) @Nullable String after,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor)
      throws IOException {
    receipts.awaitVisible(after);
    if (Csv.isWanted(request)) {
      Csv.send(
          response,
          "blind-spots.csv",
          List.of("name", "kind", "ref", "system", "why", "owners", "since", "rests", "action"),
          spots.all(kind, system, ignored).stream().map(CoverageController::row).toList());
      return null;
    }
    if (cursor != null) {
      Pages.Page<BlindSpots.BlindSpot> page = pages.page(limit, cursor, List::of);
      return new BlindSpotList(page.items(), page.total(), Map.of(), page.cursor());
    }
    List<BlindSpots.BlindSpot> all = spots.all(null, system, ignored);
    var counts = new TreeMap<String, Integer>();
    all.forEach(spot -> counts.merge(spot.kind(), 1, Integer::sum));
    List<BlindSpots.BlindSpot> wanted = kind == null ? all : spots.all(kind, system, ignored);
    Pages.Page<BlindSpots.BlindSpot> page = pages.page(limit, null, () -> wanted);
    return new BlindSpotList(page.items(), page.total(), counts, page.cursor());
  }

  private static List<Object> row(BlindSpots.BlindSpot spot) {
    return List.of(
        spot.name(),
        spot.kind(),
        spot.ref() == null ? "" : spot.ref(),
        spot.system(),
        spot.why(),
        String.join("; ", spot.owners()),
        spot.since() == null ? "" : spot.since().toString(),
        spot.rests(),
        spot.action());
  }
}
