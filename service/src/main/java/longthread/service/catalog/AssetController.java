package longthread.service.catalog;

import io.swagger.v3.oas.annotations.Operation;
import longthread.service.live.Receipts;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** One asset over HTTP. */
@RestController
class AssetController {
  private final AssetDetails details;
  private final Receipts receipts;

  AssetController(AssetDetails details, Receipts receipts) {
    this.details = details;
    this.receipts = receipts;
  }

  @GetMapping("/api/v1/asset")
  @Operation(operationId = "getAsset", summary = "Show one asset, whole")
  AssetDetails.AssetDetail asset(
      @RequestParam String ref, @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    return details.of(ref);
  }
}
