package longthread.service.live;

import static org.assertj.core.api.Assertions.assertThat;

import ch.qos.logback.classic.Logger;
import ch.qos.logback.classic.spi.ILoggingEvent;
import ch.qos.logback.core.read.ListAppender;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.UUID;
import java.util.stream.Collectors;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.io.TempDir;
import org.slf4j.LoggerFactory;

/** A start from a file is a start from the database, only sooner; and a bad file is found out. */
@ExtendWith(RunningService.Extension.class)
class GraphFileTest {
  private final RunningService service;
  private final Api api;
  @TempDir private Path folder;
  private Path file;

  GraphFileTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  @BeforeEach
  void keepAGraph() {
    file = folder.resolve("graph.image");
    service.forgetEverything();
    send(1, "a", "b", "x", "y");
    send(2, "b", "c", "x");
    start();
    assertThat(file).exists();
    assertThat(Memory.loaded(service)).anyMatch(line -> line.contains("w/b#x w/c#x IDENTITY"));
  }

  private void send(int job, String from, String to, String... columns) {
    String event =
        Events.run(
            "COMPLETE",
            "2026-11-0" + job + "T02:00:00Z",
            UUID.randomUUID(),
            "n",
            "job" + job,
            Events.copies("w", from, to, columns));
    api.event(event);
  }

  /** Starts, compares with a start from the database, and returns what was logged. */
  private String start() {
    List<String> loaded = Memory.loaded(service);
    var logger = (Logger) LoggerFactory.getLogger("longthread.service.live");
    var lines = new ListAppender<ILoggingEvent>();
    lines.start();
    logger.addAppender(lines);
    try {
      assertThat(Memory.caughtUp(service, file)).isEqualTo(loaded);
    } finally {
      logger.detachAppender(lines);
    }
    return lines.list.stream()
        .map(ILoggingEvent::getFormattedMessage)
        .collect(Collectors.joining("\n"));
  }

  private void startIsFromTheDatabase(String why) {
    assertThat(start()).contains("left aside: " + why);
    assertThat(start()).as("it is kept anew").contains("from its file");
  }

  @Test
  void what_changed_since_is_caught_up_with() {
    send(2, "a", "c", "y"); // its link from b to c is gone
    send(3, "c", "d", "x");
    assertThat(start()).contains("from its file").doesNotContain("aside");
  }

  @Test
  void a_single_wrong_bit_is_found() throws IOException {
    byte[] bytes = Files.readAllBytes(file);
    for (int at : new int[] {0, 5, 40, bytes.length / 2, bytes.length - 1}) {
      bytes = Files.readAllBytes(file);
      bytes[at] ^= 4;
      Files.write(file, bytes);
      startIsFromTheDatabase("its checksum is wrong");
    }
  }

  @Test
  void a_file_that_is_cut_off_is_found() throws IOException {
    byte[] bytes = Files.readAllBytes(file);
    Files.write(file, Arrays.copyOf(bytes, bytes.length - 9));
    startIsFromTheDatabase("its checksum is wrong");
    Files.write(file, new byte[0]);
    startIsFromTheDatabase("it is cut off");
  }

  @Test
  void the_graph_of_another_database_is_not_taken() {
    service.jdbc().update("update graph_head set epoch = gen_random_uuid()");
    startIsFromTheDatabase("it is of another database");
  }

  @Test
  void the_graph_of_a_state_that_was_given_up_is_not_taken() {
    // as when the database is put back to a backup and goes on from there to as many changes
    service.jdbc().update("update graph_head set changed_at = changed_at - interval '1 minute'");
    startIsFromTheDatabase("the database was put back");
    service.jdbc().update("update graph_head set number = number - 1");
    startIsFromTheDatabase("it is of change");
  }

  @Test
  void names_that_were_joined_since_are_noticed() {
    String link =
        "'symlinks':{'_producer':'p','_schemaURL':'s','identifiers':[{'namespace':'w','name':'a',"
            + "'type':'TABLE'}]}";
    api.event(Events.dataset("2026-11-09T00:00:00Z", "w", "c", link));
    startIsFromTheDatabase("names were joined or parted");
  }
}
