package longthread.service.web;

import static org.assertj.core.api.Assertions.assertThat;

import ch.qos.logback.classic.Level;
import ch.qos.logback.classic.Logger;
import ch.qos.logback.classic.LoggerContext;
import ch.qos.logback.core.spi.FilterReply;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** What whoever runs the service sees of it: metrics, ids of requests, its log. */
@ExtendWith(RunningService.Extension.class)
class WatchabilityTest {
  @Test
  void every_metric_of_the_service_has_help_and_the_main_ones_are_there(RunningService service) {
    service.api().post("/api/v1/lineage", "no json");
    String event = Events.run("COMPLETE", "2026-05-01T02:00:00Z", UUID.randomUUID(), "w", "j", "");
    service.api().event(event);
    String text = service.api().get("/metrics").body();
    var helped = new HashSet<String>();
    var bare = new ArrayList<String>();
    for (String line : text.split("\n")) {
      if (line.startsWith("# HELP longthread_") && line.split(" ", 4).length == 4) {
        helped.add(line.split(" ")[2]);
      } else if (line.startsWith("# HELP longthread_")) {
        bare.add(line);
      }
    }
    assertThat(bare).as("without help").isEmpty();
    assertThat(helped)
        .contains(
            "longthread_apply_lag_seconds",
            "longthread_events_duplicates_total",
            "longthread_events_received_total",
            "longthread_intake_refused_total",
            "longthread_apply_failed_total",
            "longthread_graph_nodes",
            "longthread_graph_links",
            "longthread_applier_stuck");
    assertThat(text).contains("longthread_intake_refused_total{problem=\"not-json\"}");
    assertThat(text)
        .as("the fast path by its route")
        .containsPattern("http_server_requests_seconds_count\\{[^}]*uri=\"/api/v1/lineage\"");
  }

  @Test
  void a_request_keeps_its_id_or_gets_one(RunningService service) {
    String[] none = new String[0];
    Api api = service.api();
    assertThat(
            api.get("/api/v1/search", none, "X-Request-Id", "abc-1")
                .headers()
                .firstValue("X-Request-Id"))
        .hasValue("abc-1");
    assertThat(
            api.get("/api/v1/search", none, "X-Request-Id", "a b\u00e9")
                .headers()
                .firstValue("X-Request-Id"))
        .get()
        .asString()
        .matches("[0-9a-f]{16}");
    assertThat(api.get("/health").headers().firstValue("X-Request-Id")).isPresent();
  }

  @Test
  void what_repeats_is_one_line_a_minute_and_who_is_refused_never_hides_another() {
    var now = new AtomicLong();
    var filter = new RepeatedFaultFilter(now::get);
    Logger log = new LoggerContext().getLogger("longthread.service.log.EventLog");
    Logger access = new LoggerContext().getLogger("longthread.service.access.SignIns");
    assertThat(decide(filter, log, Level.WARN, "gone {}", "a")).isEqualTo(FilterReply.NEUTRAL);
    assertThat(decide(filter, log, Level.WARN, "gone {}", "b")).isEqualTo(FilterReply.DENY);
    assertThat(decide(filter, log, Level.ERROR, "gone {}", "b")).isEqualTo(FilterReply.NEUTRAL);
    assertThat(decide(filter, log, Level.INFO, "there", "")).isEqualTo(FilterReply.NEUTRAL);
    assertThat(decide(filter, log, Level.INFO, "there", "")).isEqualTo(FilterReply.NEUTRAL);
    now.addAndGet(TimeUnit.SECONDS.toNanos(61));
    assertThat(decide(filter, log, Level.WARN, "gone {}", "c")).isEqualTo(FilterReply.NEUTRAL);
    assertThat(decide(filter, access, Level.WARN, "no {}", "a")).isEqualTo(FilterReply.NEUTRAL);
    assertThat(decide(filter, access, Level.WARN, "no {}", "b")).isEqualTo(FilterReply.NEUTRAL);
    assertThat(decide(filter, access, Level.WARN, "no {}", "a")).isEqualTo(FilterReply.DENY);
  }

  private static FilterReply decide(
      RepeatedFaultFilter filter, Logger log, Level level, String text, String place) {
    return filter.decide(null, log, level, text, new Object[] {place}, null);
  }
}
