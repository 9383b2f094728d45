package longthread.service.intake;

import io.micrometer.core.instrument.Counter;
import io.micrometer.core.instrument.Gauge;
import io.micrometer.core.instrument.MeterRegistry;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.ArraySchema;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import longthread.core.event.EventWarning;
import longthread.service.live.GraphFollower;
import longthread.service.log.EventLog;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Takes events in, singly and in batches, and reports what came in. */
@RestController
class IntakeController {
  private static final int DEFAULT_LISTED = 50;
  private static final int MAX_BATCH_EVENTS = 50_000;

  /**
   * An accepted event; {@code receipt} may be passed to any query as {@code after}.
   *
   * @param warnings what its sender should know; absent if there is nothing
   */
  record Accepted(String receipt, boolean duplicate, @Nullable List<EventWarning> warnings) {}

  /**
   * What became of a batch; {@code index} counts its events from 0.
   *
   * @param warnings what its sender should know of accepted events; absent if there is nothing
   */
  record BatchAnswer(
      int received,
      int accepted,
      int duplicates,
      List<RefusedLine> refused,
      String receipt,
      @Nullable List<WarnedLine> warnings) {}

  record WarnedLine(int index, String problem, String detail) {}

  record RefusedLine(int index, String reason, String problem) {}

  private final EventLog log;
  private final WaitPreference wait;
  private final IntakeStatus status;
  private final IntakeLimits limits;
  private final KeyActivity activity;
  private final long largestEvent;
  private final long largestBatch;
  private final Counter accepted;

  IntakeController(
      EventLog log,
      GraphFollower follower,
      WaitPreference wait,
      IntakeStatus status,
      IntakeLimits limits,
      KeyActivity activity,
      MeterRegistry meters,
      @Value("${longthread.intake.largest-event}") long largestEvent,
      @Value("${longthread.intake.largest-batch}") long largestBatch) {
    this.log = log;
    this.wait = wait;
    this.status = status;
    this.limits = limits;
    this.activity = activity;
    this.largestEvent = largestEvent;
    this.largestBatch = largestBatch;
    this.accepted =
        Counter.builder("longthread.intake.accepted")
            .description("Events accepted over HTTP")
            .register(meters);
    Gauge.builder("longthread.intake.queue", log, EventLog::waiting)
        .description("Posts waiting for their commit")
        .register(meters);
    Gauge.builder("longthread.graph.change", follower, GraphFollower::number)
        .description("Number of the newest change that this replica's graph shows")
        .register(meters);
  }

  @PostMapping(path = {"/api/v1/lineage", "/api/v1/lineage/", "/"})
  @Operation(
      operationId = "sendEvent",
      summary = "Send one event of the open lineage standard",
      requestBody =
          @io.swagger.v3.oas.annotations.parameters.RequestBody(
              required = true,
              description =
                  "One event; its type is that of its members (run, job or dataset). May be packed"
                      + " with gzip.",
              content =
                  @Content(
                      mediaType = "application/json",
                      schema = @Schema(ref = "#/components/schemas/Event"))),
      responses =
          @ApiResponse(
              responseCode = "201",
              description = "The event is durable",
              content =
                  @Content(
                      mediaType = "application/json",
                      schema = @Schema(implementation = Accepted.class))))
  ResponseEntity<Accepted> one(HttpServletRequest request) throws IOException {
    try (IntakeLimits.Post post = limits.enter(request)) {
      return one(request, IntakeBody.read(request, largestEvent, post));
    }
  }

  private ResponseEntity<Accepted> one(HttpServletRequest request, byte[] body) {
    EventLog.Item item = log.item(body, largestEvent);
    EventLog.Kept kept = log.append(List.of(item), null);
    activity.note(request, List.of(item));
    if (item.refusal() != null) {
      throw ProblemException.badRequest(item.refusal().problem(), item.refusal().reason())
          .with("receipt", "" + kept.block());
    }
    accepted.increment();
    var answer = ResponseEntity.status(HttpStatus.CREATED);
    if (wait.isOver(request, kept.block())) {
      answer.header("Preference-Applied", "wait");
    }
    return answer.body(
        new Accepted("" + kept.block(), kept.duplicates() > 0, orAbsent(item.warnings())));
  }

  @PostMapping(path = {"/api/v1/lineage/batch", "/api/v1/lineage/batch/"})
  @Operation(
      operationId = "sendEvents",
      summary = "Send many events, as lines of NDJSON or as a JSON array",
      requestBody =
          @io.swagger.v3.oas.annotations.parameters.RequestBody(
              required = true,
              description = "Up to 50,000 events. May be packed with gzip.",
              content = {
                @Content(
                    mediaType = "application/json",
                    array = @ArraySchema(schema = @Schema(ref = "#/components/schemas/Event"))),
                @Content(mediaType = "application/x-ndjson", schema = @Schema(type = "string"))
              }))
  ResponseEntity<BatchAnswer> batch(HttpServletRequest request) throws IOException {
    try (IntakeLimits.Post post = limits.enter(request)) {
      return batch(request, BatchSplitter.split(IntakeBody.read(request, largestBatch, post)));
    }
  }

  private ResponseEntity<BatchAnswer> batch(HttpServletRequest request, List<byte[]> lines) {
    if (lines.size() > MAX_BATCH_EVENTS) {
      throw new ProblemException(
          HttpStatus.CONTENT_TOO_LARGE,
          "too-large",
          "The batch has too many events",
          "the batch has "
              + lines.size()
              + " events, at most "
              + MAX_BATCH_EVENTS
              + " are taken at once; nothing of it was kept, send it in parts");
    }
    var items = new ArrayList<EventLog.Item>();
    var bad = new ArrayList<RefusedLine>();
    var warned = new ArrayList<WarnedLine>();
    for (int i = 0; i < lines.size(); i++) {
      EventLog.Item item = log.item(lines.get(i), largestEvent);
      items.add(item);
      if (item.refusal() != null) {
        bad.add(new RefusedLine(i, item.refusal().reason(), item.refusal().problem()));
      }
      for (EventWarning warning : item.warnings()) {
        warned.add(new WarnedLine(i, warning.problem(), warning.detail()));
      }
    }
    EventLog.Kept kept = items.isEmpty() ? new EventLog.Kept(0, 0) : log.append(items, null);
    activity.note(request, items);
    int good = items.size() - bad.size();
    accepted.increment(good);
    var answer = ResponseEntity.ok();
    if (kept.block() > 0 && wait.isOver(request, kept.block())) {
      answer.header("Preference-Applied", "wait");
    }
    return answer.body(
        new BatchAnswer(
            lines.size(), good, kept.duplicates(), bad, "" + kept.block(), orAbsent(warned)));
  }

  private static <T> @Nullable List<T> orAbsent(List<T> list) {
    return list.isEmpty() ? null : list;
  }

  @GetMapping("/api/v1/intake")
  @Operation(
      operationId = "getIntake",
      summary = "Show what came in, what waits and what was refused")
  IntakeStatus.Intake intake(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String about) {
    return status.now(about, limit == null ? DEFAULT_LISTED : Pages.limit(limit));
  }
}
