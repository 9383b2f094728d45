package longthread.service.intake;

import java.nio.charset.StandardCharsets;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What was refused and exactly why; and trying it again, after a fix or an upgrade. */
@RestController
class RefusalController {
  private static final int MOST = 5_000;
  private static final int RETRIED_AT_ONCE = 500;
  private static final long LARGEST = Long.MAX_VALUE; // its size was judged when it came

  /**
   * A refusal.
   *
   * @param source the file or topic it came from; null for HTTP
   * @param outcome of the last retry: accepted, or why it is refused still; null if there was none
   */
  record Refused(
      long id,
      Instant receivedAt,
      String problem,
      String reason,
      @Nullable String source,
      @Nullable Instant retriedAt,
      @Nullable String outcome) {}

  /** A refusal with the bytes that were received; {@code body} is null once they are aged. */
  record RefusedDetail(Refused refusal, @Nullable String body, int bytes) {}

  record Refusals(
      List<Refused> refusals, Map<String, Integer> problems, int total, @Nullable String cursor) {}

  /** What became of a retry. */
  record Retried(int tried, int accepted, List<StillRefused> refused, String receipt) {}

  record StillRefused(long id, String problem, String reason) {}

  private static final String COLUMNS =
      "select id, received_at, problem, reason, source, retried_at, outcome from refused_event";
  private static final String OPEN = "(outcome is null or outcome <> 'accepted')";

  private final JdbcTemplate jdbc;
  private final EventLog log;
  private final Pages pages;
  private final Clock clock;

  RefusalController(JdbcTemplate jdbc, EventLog log, Pages pages, Clock clock) {
    this.jdbc = jdbc;
    this.log = log;
    this.pages = pages;
    this.clock = clock;
  }

  /** The newest refusals that no retry has mended. */
  List<Refused> open(int most) {
    return jdbc.query(
        COLUMNS + " where " + OPEN + " order by id desc limit ?", (row, n) -> row(row), most);
  }

  @GetMapping("/api/v1/intake/refused")
  Refusals refused(
      @RequestParam(required = false) @Nullable String problem,
      @RequestParam(required = false) @Nullable String source,
      @RequestParam(defaultValue = "false") boolean mended,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    int most = Pages.limit(limit);
    Pages.Page<Refused> page =
        cursor != null
            ? pages.next(cursor, most)
            : pages.first(
                jdbc.query(
                    COLUMNS
                        + " where (?::text is null or problem = ?)"
                        + " and (?::text is null or source = ?) and (? or "
                        + OPEN
                        + ") order by id desc limit ?",
                    (row, n) -> row(row),
                    problem,
                    problem,
                    source,
                    source,
                    mended,
                    MOST),
                most);
    var problems = new TreeMap<String, Integer>();
    jdbc.query(
        "select problem, count(*) from refused_event where " + OPEN + " group by 1",
        row -> {
          problems.put(row.getString(1), row.getInt(2));
        });
    return new Refusals(page.items(), problems, page.total(), page.cursor());
  }

  @GetMapping("/api/v1/intake/refused/{id}")
  RefusedDetail one(@PathVariable long id) {
    byte[] bytes = bytes(List.of(id)).get(id);
    Refused refusal = known(id);
    return new RefusedDetail(
        refusal,
        bytes == null ? null : new String(bytes, StandardCharsets.UTF_8),
        bytes == null ? 0 : bytes.length);
  }

  /** Tries one refused event again, by the rules that hold now. */
  @PostMapping("/api/v1/intake/refused/{id}/retry")
  Retried retry(@PathVariable long id) {
    known(id);
    return retry(List.of(id));
  }

  /** Tries all refused events again, or those with one problem or of one source. */
  @PostMapping("/api/v1/intake/refused/retry")
  Retried retryAll(
      @RequestParam(required = false) @Nullable String problem,
      @RequestParam(required = false) @Nullable String source) {
    List<Long> ids =
        jdbc.queryForList(
            "select id from refused_event where "
                + OPEN
                + " and (?::text is null or problem = ?) and (?::text is null or source = ?)"
                + " order by id",
            Long.class,
            problem,
            problem,
            source,
            source);
    int tried = 0;
    int accepted = 0;
    String receipt = "0";
    var refused = new ArrayList<StillRefused>();
    for (int from = 0; from < ids.size(); from += RETRIED_AT_ONCE) {
      Retried some = retry(ids.subList(from, Math.min(ids.size(), from + RETRIED_AT_ONCE)));
      tried += some.tried();
      accepted += some.accepted();
      refused.addAll(some.refused());
      receipt = some.receipt().equals("0") ? receipt : some.receipt();
    }
    return new Retried(tried, accepted, refused, receipt);
  }

  private Retried retry(List<Long> ids) {
    Map<Long, byte[]> bytes = bytes(ids);
    var good = new ArrayList<EventLog.Item>();
    var refused = new ArrayList<StillRefused>();
    Timestamp now = Timestamp.from(clock.instant());
    var outcomes = new ArrayList<Object[]>();
    for (long id : ids) {
      EventLog.Item item = bytes.containsKey(id) ? EventLog.Item.of(bytes.get(id), LARGEST) : null;
      if (item == null) {
        refused.add(new StillRefused(id, "aged", "its bytes are no longer kept"));
      } else if (item.refusal() != null) {
        refused.add(new StillRefused(id, item.refusal().problem(), item.refusal().reason()));
      } else {
        good.add(item);
        outcomes.add(new Object[] {now, "accepted", id});
      }
    }
    long block = good.isEmpty() ? 0 : log.append(good, "retry").block();
    refused.forEach(
        still -> outcomes.add(new Object[] {now, StoredText.clean(still.reason()), still.id()}));
    jdbc.batchUpdate("update refused_event set retried_at = ?, outcome = ? where id = ?", outcomes);
    return new Retried(ids.size(), good.size(), refused, "" + block);
  }

  /** The bytes of refused events as received, by id; without those that are aged. */
  private Map<Long, byte[]> bytes(List<Long> ids) {
    var bytes = new HashMap<Long, byte[]>();
    var opened = new HashMap<Long, List<Packed.Entry>>();
    jdbc.query(
        "select r.id, r.position, b.id, b.body from refused_event r join event_block b"
            + " on b.id = r.block_id where r.id = any(?) and b.body is not null",
        row -> {
          byte[] body = row.getBytes(4);
          List<Packed.Entry> entries =
              opened.computeIfAbsent(row.getLong(3), block -> Packed.entries(body));
          bytes.put(row.getLong(1), entries.get(row.getInt(2)).bytes());
        },
        (Object) ids.toArray(Long[]::new));
    return bytes;
  }

  private Refused known(long id) {
    List<Refused> found = jdbc.query(COLUMNS + " where id = ?", (row, n) -> row(row), id);
    if (found.isEmpty()) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-refusal",
          "There is no such refusal",
          "no refusal has the number " + id + "; GET /api/v1/intake/refused lists them");
    }
    return found.get(0);
  }

  private static Refused row(ResultSet row) throws SQLException {
    Timestamp retried = row.getTimestamp(6);
    return new Refused(
        row.getLong(1),
        row.getTimestamp(2).toInstant(),
        row.getString(3),
        row.getString(4),
        row.getString(5),
        retried == null ? null : retried.toInstant(),
        row.getString(7));
  }
}
