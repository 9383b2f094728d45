package longthread.service.intake;

import io.micrometer.core.instrument.Counter;
import io.micrometer.core.instrument.MeterRegistry;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import jakarta.servlet.http.HttpServletRequest;
import java.io.ByteArrayOutputStream;
import java.io.EOFException;
import java.io.IOException;
import java.io.InputStream;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.zip.GZIPInputStream;
import java.util.zip.ZipException;
import longthread.core.event.EventReader;
import longthread.core.event.UnreadableEventException;
import longthread.service.lineage.GraphFollower;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Takes events in and says what came in. */
@RestController
class IntakeController {
  private static final Pattern WAIT = Pattern.compile("(?:^|[,;\\s])wait\\s*=\\s*(\\d{1,6})");
  private static final Duration LONGEST_WAIT = Duration.ofSeconds(4);

  /** An accepted event; {@code receipt} may be passed to any query as {@code after}. */
  record Accepted(String receipt, boolean duplicate) {}

  /** What became of a batch; {@code index} counts its events from 0. */
  record BatchAnswer(
      int received, int accepted, int duplicates, List<RefusedLine> refused, String receipt) {}

  record RefusedLine(int index, String reason, String problem) {}

  /** What came in so far. */
  record Intake(
      long received,
      long applied,
      long duplicates,
      long refused,
      long waiting,
      long graphChange,
      @Nullable Instant newest,
      List<Recent> recent,
      List<Refused> refusals) {}

  record Recent(
      Instant receivedAt, Instant eventTime, String type, String about, String producer) {}

  record Refused(long id, Instant receivedAt, String problem, String reason) {}

  private final EventLog log;
  private final Applier applier;
  private final GraphFollower follower;
  private final JdbcTemplate jdbc;
  private final Clock clock;
  private final long largestEvent;
  private final long largestBatch;
  private final Counter accepted;
  private final Counter refused;

  IntakeController(
      EventLog log,
      Applier applier,
      GraphFollower follower,
      JdbcTemplate jdbc,
      Clock clock,
      MeterRegistry meters,
      @Value("${longthread.intake.largest-event}") long largestEvent,
      @Value("${longthread.intake.largest-batch}") long largestBatch) {
    this.log = log;
    this.applier = applier;
    this.follower = follower;
    this.jdbc = jdbc;
    this.clock = clock;
    this.largestEvent = largestEvent;
    this.largestBatch = largestBatch;
    this.accepted = meters.counter("longthread.intake.accepted");
    this.refused = meters.counter("longthread.intake.refused");
    meters.gauge("longthread.intake.queue", log, EventLog::waiting);
    meters.gauge("longthread.graph.change", follower, GraphFollower::number);
  }

  @PostMapping(path = {"/api/v1/lineage", "/api/v1/lineage/", "/"})
  @Operation(
      summary = "Takes one event of the open lineage standard",
      requestBody =
          @io.swagger.v3.oas.annotations.parameters.RequestBody(
              content =
                  @Content(mediaType = "application/json", schema = @Schema(type = "object"))))
  ResponseEntity<Accepted> one(HttpServletRequest request) throws IOException {
    byte[] body = body(request, largestEvent);
    try {
      EventReader.read(body, clock.instant());
    } catch (UnreadableEventException e) {
      refused.increment();
      long block =
          log.append(
              List.of(EventLog.Item.refused(body, new EventLog.Refusal(e.problem(), e.reason()))));
      throw ProblemException.badRequest(e.problem(), e.reason()).with("receipt", "" + block);
    }
    EventLog.Item item = EventLog.Item.accepted(body);
    boolean known = !log.known(List.of(item.digest())).isEmpty();
    long block = known ? blockOf(item) : log.append(List.of(item));
    accepted.increment();
    var answer = ResponseEntity.status(HttpStatus.CREATED);
    if (waited(request, block)) {
      answer.header("Preference-Applied", "wait");
    }
    return answer.body(new Accepted("" + block, known));
  }

  private long blockOf(EventLog.Item item) {
    Long block =
        jdbc.queryForObject(
            "select block_id from event_seen where digest = decode(?, 'hex')",
            Long.class,
            item.digest());
    return block == null ? 0 : block;
  }

  @PostMapping(path = {"/api/v1/lineage/batch", "/api/v1/lineage/batch/"})
  @Operation(
      summary = "Takes many events, as lines of NDJSON or as a JSON array",
      requestBody =
          @io.swagger.v3.oas.annotations.parameters.RequestBody(
              content = {
                @Content(mediaType = "application/x-ndjson", schema = @Schema(type = "string")),
                @Content(mediaType = "application/json", schema = @Schema(type = "array"))
              }))
  ResponseEntity<BatchAnswer> batch(HttpServletRequest request) throws IOException {
    List<byte[]> lines = BatchLines.split(body(request, largestBatch));
    var items = new ArrayList<EventLog.Item>();
    var bad = new ArrayList<RefusedLine>();
    var digests = new ArrayList<String>();
    for (int i = 0; i < lines.size(); i++) {
      byte[] line = lines.get(i);
      try {
        if (line.length > largestEvent) {
          throw new UnreadableEventException("too-large", tooLarge(largestEvent));
        }
        EventReader.read(line, clock.instant());
        items.add(EventLog.Item.accepted(line));
        digests.add(items.get(items.size() - 1).digest());
      } catch (UnreadableEventException e) {
        bad.add(new RefusedLine(i, e.reason(), e.problem()));
        items.add(EventLog.Item.refused(line, new EventLog.Refusal(e.problem(), e.reason())));
      }
    }
    var known = new HashSet<>(log.known(digests));
    int duplicates = 0;
    var fresh = new ArrayList<EventLog.Item>();
    for (EventLog.Item item : items) {
      if (item.refusal() == null && !known.add(item.digest())) {
        duplicates++;
      } else {
        fresh.add(item);
      }
    }
    long block = fresh.isEmpty() ? 0 : log.append(fresh);
    accepted.increment(digests.size());
    refused.increment(bad.size());
    var answer = ResponseEntity.ok();
    if (block > 0 && waited(request, block)) {
      answer.header("Preference-Applied", "wait");
    }
    return answer.body(new BatchAnswer(lines.size(), digests.size(), duplicates, bad, "" + block));
  }

  @GetMapping("/api/v1/intake")
  Intake intake(@RequestParam(required = false) @Nullable Integer limit) {
    int most = limit == null ? 50 : Pages.limit(limit);
    Map<String, Object> counts =
        jdbc.queryForMap(
            "select coalesce(sum(events), 0) as received,"
                + " (select count(*) from event_seen) as applied,"
                + " (select count(*) from refused_event) as refused,"
                + " max(received_at) as newest from event_block");
    long received = ((Number) counts.get("received")).longValue();
    long applied = (long) counts.get("applied");
    long refusedSoFar = (long) counts.get("refused");
    long waiting = applier.backlog();
    Timestamp newest = (Timestamp) counts.get("newest");
    return new Intake(
        received,
        applied,
        Math.max(0, received - applied - refusedSoFar - waiting),
        refusedSoFar,
        waiting,
        follower.number(),
        newest == null ? null : newest.toInstant(),
        jdbc.query(
            "select received_at, event_time, type, about, producer from recent_event"
                + " order by block_id desc, position desc limit ?",
            (row, n) ->
                new Recent(
                    row.getTimestamp(1).toInstant(),
                    row.getTimestamp(2).toInstant(),
                    row.getString(3),
                    row.getString(4),
                    row.getString(5)),
            most),
        jdbc.query(
            "select id, received_at, problem, reason from refused_event order by id desc limit ?",
            (row, n) ->
                new Refused(
                    row.getLong(1),
                    row.getTimestamp(2).toInstant(),
                    row.getString(3),
                    row.getString(4)),
            most));
  }

  /** Waits as {@code Prefer: wait=n} asks (RFC 7240); returns whether the events show now. */
  private boolean waited(HttpServletRequest request, long block) {
    String prefer = request.getHeader("Prefer");
    Matcher wait = WAIT.matcher(prefer == null ? "" : prefer);
    if (!wait.find()) {
      return false;
    }
    Duration asked = Duration.ofSeconds(Long.parseLong(wait.group(1)));
    return follower.await("" + block, asked.compareTo(LONGEST_WAIT) < 0 ? asked : LONGEST_WAIT);
  }

  private static String tooLarge(long most) {
    return "the body has more than " + most + " bytes; send less at once, or smaller facets";
  }

  private static byte[] body(HttpServletRequest request, long most) throws IOException {
    String encoding = request.getHeader(HttpHeaders.CONTENT_ENCODING);
    boolean gzip = encoding != null && encoding.toLowerCase().contains("gzip");
    if (encoding != null && !gzip && !encoding.equalsIgnoreCase("identity")) {
      throw ProblemException.badRequest(
          "unknown-encoding", "Content-Encoding " + encoding + " is not known; send gzip or none");
    }
    try (InputStream in =
        gzip ? new GZIPInputStream(request.getInputStream()) : request.getInputStream()) {
      var out = new ByteArrayOutputStream();
      byte[] part = new byte[16_384];
      for (int n = in.read(part); n >= 0; n = in.read(part)) {
        out.write(part, 0, n);
        if (out.size() > most) {
          throw new ProblemException(
              HttpStatus.CONTENT_TOO_LARGE, "too-large", "The body is too large", tooLarge(most));
        }
      }
      if (out.size() == 0) {
        throw ProblemException.badRequest("empty-body", "the body is empty; send an event as JSON");
      }
      return out.toByteArray();
    } catch (ZipException | EOFException e) {
      throw ProblemException.badRequest(
          "bad-gzip", "the body is said to be gzip but does not unpack; send it whole");
    }
  }
}
