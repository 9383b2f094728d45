package longthread.service.intake;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import java.util.Map;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Refused events over HTTP. */
@RestController
class RefusalController {
  record RefusalList(
      List<Refusals.Refused> refusals,
      Map<String, Integer> problems,
      int total,
      @Nullable String cursor) {}

  private final Refusals refusals;
  private final Pages pages;

  RefusalController(Refusals refusals, Pages pages) {
    this.refusals = refusals;
    this.pages = pages;
  }

  @GetMapping("/api/v1/intake/refused")
  @Operation(operationId = "listRefusals", summary = "List refused events with their reasons")
  RefusalList refused(
      @RequestParam(required = false) @Nullable String problem,
      @RequestParam(required = false) @Nullable String source,
      @RequestParam(defaultValue = "false") boolean fixed,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Refusals.Refused> page =
        pages.page(limit, cursor, () -> refusals.newest(problem, source, fixed));
    return new RefusalList(page.items(), refusals.openByProblem(), page.total(), page.cursor());
  }

  @GetMapping("/api/v1/intake/refused/{id}")
  @Operation(operationId = "getRefusal", summary = "Show one refused event with its bytes")
  Refusals.RefusedDetail one(@PathVariable long id) {
    return refusals.opened(id).orElseThrow(() -> unknown(id));
  }

  /** Tries one refused event again, by the rules that hold now. */
  @PostMapping("/api/v1/intake/refused/{id}/retry")
  @Operation(operationId = "retryRefusal", summary = "Try one refused event again")
  Refusals.Retried retry(@PathVariable long id) {
    one(id);
    return refusals.retry(List.of(id));
  }

  /** Tries all refused events again, or those with one problem or of one source. */
  @PostMapping("/api/v1/intake/refused/retry")
  @Operation(operationId = "retryRefusals", summary = "Try refused events again")
  Refusals.Retried retryAll(
      @RequestParam(required = false) @Nullable String problem,
      @RequestParam(required = false) @Nullable String source) {
    return refusals.retryAll(problem, source);
  }

  private static ProblemException unknown(long id) {
    return new ProblemException(
        HttpStatus.NOT_FOUND,
        "unknown-refusal",
        "There is no such refusal",
        "no refusal has the number " + id + "; GET /api/v1/intake/refused lists them");
  }
}
