package longthread.service.apply;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.UUID;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import longthread.service.testing.StatementCount;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** A batch is written with whole sets of rows: its statements do not grow with its events. */
@ExtendWith(RunningService.Extension.class)
class BatchStatementsTest {
  /**
   * Statements that come with time and not with events: looking for blocks, and for SQL to read.
   */
  private static final int POLLS = 30;

  private final RunningService service;

  BatchStatementsTest(RunningService service) {
    this.service = service;
  }

  @BeforeEach
  void start() {
    service.forgetEverything();
  }

  @Test
  void tenTimesTheEventsTakeNoMoreStatements() {
    apply("warm", 20);
    List<String> few = apply("few", 40);
    List<String> many = apply("many", 400);
    assertThat(few).as("a batch is applied by statements that pass here").isNotEmpty();
    assertThat(many).hasSizeLessThan(few.size() + POLLS);
  }

  /** Sends events of as many jobs, runs, tables and columns in one batch. */
  private List<String> apply(String mark, int events) {
    String lines =
        IntStream.range(0, events).mapToObj(i -> event(mark, i)).collect(Collectors.joining("\n"));
    StatementCount.take();
    Api api = service.api();
    api.see(api.post("/api/v1/lineage/batch", lines).json().path("receipt").stringValue(""));
    assertThat(
            service
                .jdbc()
                .queryForObject(
                    "select count(*) from job where ref like ?", Long.class, "@n/" + mark + "%"))
        .isEqualTo(events);
    return StatementCount.take();
  }

  private static String event(String mark, int i) {
    return Events.run(
            "COMPLETE",
            "2026-05-01T00:00:%02dZ".formatted(i % 60),
            UUID.nameUUIDFromBytes((mark + i).getBytes()),
            "n",
            mark + i,
            Events.copies("n", mark + ".from" + i, mark + ".to" + i, "a", "b" + i))
        .replace('\'', '"');
  }
}
