package longthread.service.labels;

import io.swagger.v3.oas.annotations.Operation;
import java.util.Arrays;
import java.util.List;
import longthread.core.label.LabelSpread;
import longthread.service.live.LabelBoard;
import longthread.service.live.Receipts;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Labels over HTTP. */
@RestController
class LabelController {
  private static final List<String> HOW =
      Arrays.stream(LabelSpread.How.values()).map(LabelBoard::word).toList();

  record LabelList(List<Labels.LabelCounts> items, @Nullable String cursor) {}

  /** What has a label; {@code total} counts all pages. */
  record LabelPlaces(
      Labels.LabelCounts label,
      List<Labels.LabelledPlace> items,
      int total,
      @Nullable String cursor) {}

  private final Labels labels;
  private final Receipts receipts;
  private final Pages pages;

  LabelController(Labels labels, Receipts receipts, Pages pages) {
    this.labels = labels;
    this.receipts = receipts;
    this.pages = pages;
  }

  @GetMapping("/api/v1/labels")
  @Operation(
      operationId = "listLabels",
      summary = "List the labels, how each travels and how far it came")
  LabelList list(
      @RequestParam(required = false) @Nullable String after,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    receipts.awaitVisible(after);
    Pages.Page<Labels.LabelCounts> page = pages.page(limit, cursor, labels::all);
    return new LabelList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/label")
  @Operation(
      operationId = "getLabel",
      summary = "List what has a label: set there or inherited, from where and by which way")
  LabelPlaces one(
      @RequestParam String id,
      @RequestParam(required = false) @Nullable String how,
      @RequestParam(required = false) @Nullable String after,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    receipts.awaitVisible(after);
    if (how != null && !HOW.contains(how)) {
      throw ProblemException.badRequest(
          "bad-how", "how is '" + how + "'; it takes " + String.join(", ", HOW));
    }
    Labels.LabelCounts label = labels.one(id);
    Pages.Page<Labels.LabelledPlace> page = pages.page(limit, cursor, () -> labels.places(id, how));
    return new LabelPlaces(label, page.items(), page.total(), page.cursor());
  }
}
