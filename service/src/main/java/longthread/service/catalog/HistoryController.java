package longthread.service.catalog;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import java.util.function.Function;
import longthread.service.live.Asset;
import longthread.service.live.References;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The history, checks and statistics of an asset over HTTP. */
@RestController
class HistoryController {
  record History(String ref, List<AssetHistory.Entry> changes, @Nullable String cursor) {}

  private final References references;
  private final AssetHistory history;
  private final Pages pages;

  HistoryController(References references, AssetHistory history, Pages pages) {
    this.references = references;
    this.history = history;
    this.pages = pages;
  }

  @GetMapping("/api/v1/history")
  @Operation(operationId = "listHistory", summary = "List what changed on an asset, and when")
  History history(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    return page(ref, limit, cursor, history::changes, History::new);
  }

  @GetMapping("/api/v1/checks")
  @Operation(
      operationId = "listChecks",
      summary = "List the checks of an asset with their results over time")
  AssetHistory.Checks checks(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    return page(ref, limit, cursor, history::checks, AssetHistory.Checks::new);
  }

  @GetMapping("/api/v1/statistics")
  @Operation(
      operationId = "listStatistics",
      summary = "List row counts and column statistics of an asset")
  AssetHistory.StatisticList statistics(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    return page(ref, limit, cursor, history::statistics, AssetHistory.StatisticList::new);
  }

  /** Makes an answer of an asset's reference, the items of a page, and the cursor of the next. */
  private interface Form<T, A> {
    A of(String ref, List<T> items, @Nullable String cursor);
  }

  private <T, A> A page(
      String ref,
      @Nullable Integer limit,
      @Nullable String cursor,
      Function<Asset, List<T>> all,
      Form<T, A> form) {
    Asset asset = references.resolve(ref).asset();
    Pages.Page<T> page = pages.page(limit, cursor, () -> all.apply(asset));
    return form.of(asset.ref(), page.items(), page.cursor());
  }
}
