package longthread.service.apply;

import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.Timer;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.TimeUnit;

/** Where the applier's time goes, stage by stage; shown among the service's metrics. */
final class StageTimer {
  private final Map<String, Timer> timers = new LinkedHashMap<>();
  private final MeterRegistry meters;
  private long since = System.nanoTime();

  StageTimer(MeterRegistry meters) {
    this.meters = meters;
  }

  void begin() {
    since = System.nanoTime();
  }

  /** Books the time since the last call on a stage. */
  void done(String stage) {
    long now = System.nanoTime();
    timers
        .computeIfAbsent(
            stage,
            s ->
                Timer.builder("longthread.apply")
                    .description("Time spent applying events, by stage")
                    .tag("stage", s)
                    .register(meters))
        .record(now - since, TimeUnit.NANOSECONDS);
    since = now;
  }
}
