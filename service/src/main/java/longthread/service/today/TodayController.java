package longthread.service.today;

import io.swagger.v3.oas.annotations.Operation;
import longthread.service.live.Receipts;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What needs somebody, over HTTP. */
@RestController
class TodayController {
  private final Today today;
  private final Receipts receipts;

  TodayController(Today today, Receipts receipts) {
    this.today = today;
    this.receipts = receipts;
  }

  @GetMapping("/api/v1/today")
  @Operation(
      operationId = "getToday",
      summary = "Show what needs somebody now: causes, late reports, blind spots, intake")
  Today.TodayAnswer today(
      @RequestParam(required = false) @Nullable String owner,
      @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    return today.now(owner == null || owner.isBlank() ? null : owner.strip());
  }
}
