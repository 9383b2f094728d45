package longthread.service.intake;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Emitters over HTTP. */
@RestController
class EmitterController {
  /** Emitters, those that are overdue first. */
  record EmitterList(
      List<Emitters.Emitter> emitters, int overdue, int total, @Nullable String cursor) {}

  private final Emitters emitters;

  private final Pages pages;

  EmitterController(Emitters emitters, Pages pages) {
    this.pages = pages;
    this.emitters = emitters;
  }

  @GetMapping("/api/v1/intake/emitters")
  @Operation(operationId = "listEmitters", summary = "List who sends events, and who is silent")
  EmitterList emitters(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    List<Emitters.Emitter> all = emitters.all();
    var page = pages.page(limit, cursor, () -> all);
    int overdue = (int) all.stream().filter(Emitters.Emitter::isOverdue).count();
    return new EmitterList(page.items(), overdue, page.total(), page.cursor());
  }
}
