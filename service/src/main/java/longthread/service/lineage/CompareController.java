package longthread.service.lineage;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Two states of the graph side by side, over HTTP. */
@RestController
class CompareController {
  private static final List<String> DIRECTIONS = List.of("upstream", "downstream", "both");

  /** A page of moments, oldest first. */
  record MomentList(List<LinkMoments.Moment> items, int total, @Nullable String cursor) {}

  private final Comparisons comparisons;
  private final LinkMoments moments;
  private final References references;
  private final Receipts receipts;
  private final Pages pages;

  CompareController(
      Comparisons comparisons,
      LinkMoments moments,
      References references,
      Receipts receipts,
      Pages pages) {
    this.comparisons = comparisons;
    this.moments = moments;
    this.references = references;
    this.receipts = receipts;
    this.pages = pages;
  }

  @GetMapping("/api/v1/compare")
  @Operation(
      operationId = "compare",
      summary = "Compare two moments, or two versions of a job: assets, columns, links, code")
  Comparisons.Comparison compare(
      @RequestParam(required = false) @Nullable String ref,
      @RequestParam String from,
      @RequestParam(required = false) @Nullable String to,
      @RequestParam(defaultValue = "both") String direction,
      @RequestParam(required = false) @Nullable Integer hops,
      @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    check(direction, hops);
    return comparisons.of(
        new Comparisons.Asked(
            ref == null ? null : references.resolve(ref),
            from,
            to,
            !direction.equals("downstream"),
            !direction.equals("upstream"),
            hops == null ? Integer.MAX_VALUE : hops));
  }

  @GetMapping("/api/v1/moments")
  @Operation(
      operationId = "listMoments",
      summary = "List the moments at which links around an asset began or ended")
  MomentList moments(
      @RequestParam String ref,
      @RequestParam(defaultValue = "both") String direction,
      @RequestParam(required = false) @Nullable Integer hops,
      @RequestParam(required = false) @Nullable String after,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    receipts.awaitVisible(after);
    check(direction, hops);
    References.Named named = references.resolve(ref);
    Pages.Page<LinkMoments.Moment> page =
        pages.page(
            limit,
            cursor,
            () ->
                moments.around(
                    named,
                    !direction.equals("downstream"),
                    !direction.equals("upstream"),
                    hops == null ? Integer.MAX_VALUE : hops));
    return new MomentList(page.items(), page.total(), page.cursor());
  }

  private static void check(String direction, @Nullable Integer hops) {
    if (!DIRECTIONS.contains(direction)) {
      throw ProblemException.badRequest(
          "bad-direction",
          "'" + direction + "' is not a direction; use " + String.join(", ", DIRECTIONS));
    }
    if (hops != null && hops < 0) {
      throw ProblemException.badRequest("bad-hops", "hops takes a number from 0 up");
    }
  }
}
