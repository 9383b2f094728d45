package longthread.service.cause;

import io.swagger.v3.oas.annotations.Operation;
import java.time.Clock;
import java.time.Instant;
import java.util.Locale;
import longthread.core.cause.Symptom;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.web.ProblemException;
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
      @RequestParam(required = false) @Nullable String column,
      @RequestParam(required = false) @Nullable String symptom,
      @RequestParam(required = false) @Nullable String at,
      @RequestParam(required = false) @Nullable String good,
      @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    String of = column == null || column.isBlank() ? ref : ref + "#" + column;
    Instant moment = at == null ? clock.instant() : Times.parse(at);
    Instant goodUntil = good == null ? null : Times.parse(good);
    if (goodUntil != null && !goodUntil.isBefore(moment)) {
      throw ProblemException.badRequest(
          "bad-time", "it cannot have been right until " + good + ", after the moment asked about");
    }
    return causes.find(references.resolve(of), symptom(symptom), moment, goodUntil);
  }

  private static Symptom symptom(@Nullable String word) {
    if (word == null) {
      return Symptom.ANY;
    }
    return Symptom.of(word.toLowerCase(Locale.ROOT))
        .orElseThrow(
            () ->
                ProblemException.badRequest(
                    "unknown-word",
                    "'"
                        + word
                        + "' is no symptom; use one of "
                        + String.join(", ", Symptom.words())));
  }
}
