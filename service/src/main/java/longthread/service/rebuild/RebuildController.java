package longthread.service.rebuild;

import io.swagger.v3.oas.annotations.Operation;
import longthread.service.web.ProblemException;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Starts a rebuild of the catalog and says how it stands. */
@RestController
class RebuildController {
  private final Rebuilder rebuilder;

  RebuildController(Rebuilder rebuilder) {
    this.rebuilder = rebuilder;
  }

  /**
   * Starts it; the answer comes at once, and {@code GET} reports its progress.
   *
   * @param accept whether to switch even if the new catalog differs, as after a change of rules
   */
  @PostMapping("/api/v1/rebuild")
  @Operation(operationId = "startRebuild", summary = "Rebuild the catalog from the log")
  ResponseEntity<Rebuilder.Status> start(@RequestParam(defaultValue = "false") boolean accept) {
    if (!rebuilder.start(accept)) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "rebuild-running",
          "A rebuild is running",
          "wait for it to end; GET /api/v1/rebuild reports its progress");
    }
    return ResponseEntity.status(HttpStatus.ACCEPTED).body(rebuilder.status());
  }

  @GetMapping("/api/v1/rebuild")
  @Operation(operationId = "getRebuild", summary = "Show how far a rebuild is, and what it found")
  Rebuilder.Status status() {
    return rebuilder.status();
  }
}
