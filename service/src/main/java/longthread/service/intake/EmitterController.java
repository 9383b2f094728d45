package longthread.service.intake;

import java.util.List;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RestController;

/** Emitters over HTTP. */
@RestController
class EmitterController {
  /** Emitters, those that are overdue first. */
  record EmitterList(List<Emitters.Emitter> emitters, int overdue) {}

  private final Emitters emitters;

  EmitterController(Emitters emitters) {
    this.emitters = emitters;
  }

  @GetMapping("/api/v1/intake/emitters")
  EmitterList emitters() {
    List<Emitters.Emitter> all = emitters.all();
    return new EmitterList(all, (int) all.stream().filter(Emitters.Emitter::isOverdue).count());
  }
}
