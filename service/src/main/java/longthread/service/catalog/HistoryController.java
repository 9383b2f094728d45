package longthread.service.catalog;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
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
    Asset asset = references.resolve(ref).asset();
    Pages.Page<AssetHistory.Entry> page = pages.page(limit, cursor, () -> history.changes(asset));
    return new History(asset.ref(), page.items(), page.cursor());
  }

  @GetMapping("/api/v1/checks")
  @Operation(
      operationId = "listChecks",
      summary = "List the checks of an asset with their results over time")
  AssetHistory.Checks checks(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Asset asset = references.resolve(ref).asset();
    var page = pages.page(limit, cursor, () -> history.checks(asset));
    return new AssetHistory.Checks(asset.ref(), page.items(), page.cursor());
  }

  @GetMapping("/api/v1/statistics")
  @Operation(
      operationId = "listStatistics",
      summary = "List row counts and column statistics of an asset")
  AssetHistory.StatisticList statistics(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Asset asset = references.resolve(ref).asset();
    var page = pages.page(limit, cursor, () -> history.statistics(asset));
    return new AssetHistory.StatisticList(asset.ref(), page.items(), page.cursor());
  }
}
