package longthread.service.cause;

import io.swagger.v3.oas.annotations.Operation;
import java.time.Clock;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Why something is wrong or late, over HTTP. */
@RestController
class CauseController {
  private final CauseFinder causes;
  private final References references;
  private final Receipts receipts;
  private final Clock clock;

  CauseController(CauseFinder causes, References references, Receipts receipts, Clock clock) {
    this.causes = causes;
    this.references = references;
    this.receipts = receipts;
    this.clock = clock;
  }

  @GetMapping("/api/v1/causes")
  @Operation(
      operationId = "getCauses",
      summary = "List the likely causes of a symptom, ranked, with evidence")
  CauseFinder.CauseAnswer causes(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable String at,
      @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    return causes.find(references.resolve(ref), at == null ? clock.instant() : Times.parse(at));
  }
}
