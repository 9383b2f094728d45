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
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.zip.GZIPInputStream;
import java.util.zip.ZipException;
import longthread.service.lineage.GraphFollower;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.dao.DataAccessException;
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

  /**
   * What came in so far.
   *
   * @param lagSeconds how long the oldest event that waits has waited
   * @param awaySince since when the database does not answer; null while it does
   * @param minutes how many events were received in each of the last sixty minutes that had any
   */
  record Intake(
      long received,
      long applied,
      long duplicates,
      long refused,
      long waiting,
      double lagSeconds,
      long graphChange,
      @Nullable Instant newest,
      boolean applying,
      @Nullable Instant awaySince,
      List<Minute> minutes,
      List<Recent> recent,
      List<RefusalController.Refused> refusals) {}

  record Minute(Instant minute, String emitter, long events) {}

  /**
   * An event as it is listed.
   *
   * @param id by which it can be opened
   * @param changed what of the catalog it changed, in words
   */
  record Recent(
      String id,
      Instant receivedAt,
      Instant eventTime,
      String type,
      String about,
      String producer,
      List<String> changed) {}

  private final EventLog log;
  private final Applier applier;
  private final GraphFollower follower;
  private final JdbcTemplate jdbc;
  private final RefusalController refusals;
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
      RefusalController refusals,
      Clock clock,
      MeterRegistry meters,
      @Value("${longthread.intake.largest-event}") long largestEvent,
      @Value("${longthread.intake.largest-batch}") long largestBatch) {
    this.log = log;
    this.applier = applier;
    this.follower = follower;
    this.jdbc = jdbc;
    this.refusals = refusals;
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
    EventLog.Item item = EventLog.Item.of(body, largestEvent);
    EventLog.Kept kept = log.append(List.of(item), null);
    if (item.refusal() != null) {
      refused.increment();
      throw ProblemException.badRequest(item.refusal().problem(), item.refusal().reason())
          .with("receipt", "" + kept.block());
    }
    accepted.increment();
    var answer = ResponseEntity.status(HttpStatus.CREATED);
    if (waited(request, kept.block())) {
      answer.header("Preference-Applied", "wait");
    }
    return answer.body(new Accepted("" + kept.block(), kept.duplicates() > 0));
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
    for (int i = 0; i < lines.size(); i++) {
      EventLog.Item item = EventLog.Item.of(lines.get(i), largestEvent);
      items.add(item);
      if (item.refusal() != null) {
        bad.add(new RefusedLine(i, item.refusal().reason(), item.refusal().problem()));
      }
    }
    EventLog.Kept kept = items.isEmpty() ? new EventLog.Kept(0, 0) : log.append(items, null);
    int good = items.size() - bad.size();
    accepted.increment(good);
    refused.increment(bad.size());
    var answer = ResponseEntity.ok();
    if (kept.block() > 0 && waited(request, kept.block())) {
      answer.header("Preference-Applied", "wait");
    }
    return answer.body(
        new BatchAnswer(lines.size(), good, kept.duplicates(), bad, "" + kept.block()));
  }

  @GetMapping("/api/v1/intake")
  Intake intake(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String about) {
    int most = limit == null ? 50 : Pages.limit(limit);
    return jdbc.queryForObject(
        "select c.received + coalesce(w.events, 0), c.applied, c.duplicates,"
            + " (select count(*) from refused_event where outcome is null or outcome <> 'accepted'),"
            + " coalesce(w.events, 0), w.oldest,"
            + " (select max(received_at) from event_block) from intake_count c,"
            + " (select sum(events) as events, min(received_at) as oldest from event_block"
            + "   where applied_at is null) w",
        (row, n) ->
            new Intake(
                row.getLong(1),
                row.getLong(2),
                row.getLong(3),
                row.getLong(4),
                row.getLong(5),
                row.getTimestamp(6) == null
                    ? 0
                    : Duration.between(row.getTimestamp(6).toInstant(), clock.instant()).toMillis()
                        / 1000.0,
                follower.number(),
                row.getTimestamp(7) == null ? null : row.getTimestamp(7).toInstant(),
                applier.isApplying(),
                log.awaySince(),
                minutes(),
                recent(about, most),
                refusals.open(most)));
  }

  private List<Minute> minutes() {
    return jdbc.query(
        "select m.minute, e.namespace, sum(m.events) from emitter_minute m join emitter e on"
            + " e.id = m.emitter_id where m.minute > ? group by 1, 2 order by 1, 2",
        (row, n) -> new Minute(row.getTimestamp(1).toInstant(), row.getString(2), row.getLong(3)),
        Timestamp.from(clock.instant().minus(Duration.ofHours(1))));
  }

  private List<Recent> recent(@Nullable String about, int most) {
    String wanted = about == null || about.isBlank() ? null : about.strip();
    return jdbc.query(
        "select block_id, position, received_at, event_time, type, about, producer, changed"
            + " from recent_event where ?::text is null or strpos(about, ?) > 0"
            + " or strpos(producer, ?) > 0 order by block_id desc, position desc limit ?",
        (row, n) ->
            new Recent(
                row.getLong(1) + "." + row.getInt(2),
                row.getTimestamp(3).toInstant(),
                row.getTimestamp(4).toInstant(),
                row.getString(5),
                row.getString(6),
                row.getString(7),
                List.of((String[]) row.getArray(8).getArray())),
        wanted,
        wanted,
        wanted,
        most);
  }

  /** Waits as {@code Prefer: wait=n} asks (RFC 7240); returns whether the events show now. */
  private boolean waited(HttpServletRequest request, long block) {
    String prefer = request.getHeader("Prefer");
    Matcher wait = WAIT.matcher(prefer == null ? "" : prefer);
    if (!wait.find()) {
      return false;
    }
    Duration asked = Duration.ofSeconds(Long.parseLong(wait.group(1)));
    try {
      return follower.await("" + block, asked.compareTo(LONGEST_WAIT) < 0 ? asked : LONGEST_WAIT);
    } catch (DataAccessException e) {
      return false; // it is durable all the same; only the wait is over
    }
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
