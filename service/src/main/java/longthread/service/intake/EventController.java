package longthread.service.intake;

import io.swagger.v3.oas.annotations.Operation;
import longthread.service.web.ProblemException;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** One event over HTTP. */
@RestController
class EventController {
  private final EventInspector inspector;

  EventController(EventInspector inspector) {
    this.inspector = inspector;
  }

  /** Opens the event with this id, as {@code GET /api/v1/intake} lists it. */
  @GetMapping("/api/v1/intake/event")
  @Operation(
      operationId = "getEvent",
      summary = "Show one event: its bytes, its facts, the assets it names")
  EventInspector.EventDetail event(@RequestParam String id) {
    int dot = id.indexOf('.');
    try {
      return inspector
          .open(
              Long.parseLong(id.substring(0, Math.max(0, dot))),
              Integer.parseInt(id.substring(dot + 1)))
          .orElseThrow(
              () ->
                  new ProblemException(
                      HttpStatus.NOT_FOUND,
                      "unknown-event",
                      "There is no such event",
                      "no event has the id " + id + "; GET /api/v1/intake lists the newest"));
    } catch (NumberFormatException e) {
      throw ProblemException.badRequest(
          "bad-id",
          "'" + id + "' is not the id of an event; use one that GET /api/v1/intake lists");
    }
  }
}
