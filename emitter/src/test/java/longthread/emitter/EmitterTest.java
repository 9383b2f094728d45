package longthread.emitter;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

class EmitterTest {
  private static final JsonMapper JSON = new JsonMapper();
  private static final String TARGET = "postgres://barn:5432/barn.raw.pickup";

  @TempDir Path spool;
  private HttpServer server;
  private final List<JsonNode> received = new CopyOnWriteArrayList<>();
  private final List<String> problems = new CopyOnWriteArrayList<>();
  private volatile int status = 200;

  @BeforeEach
  void serve() throws IOException {
    server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
    server.createContext(
        "/api/v1/lineage/batch",
        exchange -> {
          String body =
              new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
          int accepted = 0;
          var refused = new StringBuilder();
          if (status == 200) {
            List<String> lines = body.lines().toList();
            for (int i = 0; i < lines.size(); i++) {
              if (lines.get(i).contains("\"bad\"")) {
                refused.append("{\"index\":" + i + ",\"reason\":\"it is bad\"}");
              } else {
                received.add(JSON.readTree(lines.get(i)));
                accepted++;
              }
            }
          }
          byte[] answer =
              ("{\"accepted\":" + accepted + ",\"refused\":[" + refused + "]}").getBytes();
          exchange.sendResponseHeaders(status, answer.length);
          exchange.getResponseBody().write(answer);
          exchange.close();
        });
    server.start();
  }

  @AfterEach
  void end() {
    server.stop(0);
  }

  private Emitter emitter() {
    return Emitter.to("http://127.0.0.1:" + server.getAddress().getPort(), "key")
        .namespace("nightshift")
        .spool(spool)
        .timeout(Duration.ofMillis(500))
        .onProblem(problems::add)
        .start();
  }

  @Test
  void a_run_is_reported_with_all_that_was_stated_of_it() {
    try (Emitter emitter = emitter();
        Run run =
            emitter
                .run("load_pickups")
                .column(TARGET, "litres", "collect/pickup", "l", Run.Flow.IDENTITY)
                .sql("insert …", "postgres")
                .property("worker", "7")
                .start()) {
      run.rows(TARGET, 12).complete();
    }
    assertThat(received).hasSize(2);
    JsonNode end = received.get(1);
    assertThat(end.path("eventType").stringValue()).isEqualTo("COMPLETE");
    assertThat(end.path("job").path("namespace").stringValue()).isEqualTo("nightshift");
    assertThat(end.path("inputs").get(0).path("name").stringValue()).isEqualTo("pickup");
    JsonNode output = end.path("outputs").get(0);
    assertThat(output.path("name").stringValue()).isEqualTo("barn.raw.pickup");
    assertThat(output.toString()).contains("\"rowCount\":12", "\"field\":\"l\"", "IDENTITY");
    assertThat(end.toString()).contains("\"worker\":\"7\"", "insert …");
    assertThat(end.path("run").path("runId")).isEqualTo(received.get(0).path("run").path("runId"));
  }

  @Test
  void a_run_that_is_left_has_failed_with_its_reason() {
    try (Emitter emitter = emitter()) {
      emitter.run("left").writes(TARGET).start().close();
      emitter.run("broken").writes(TARGET).start().fail(new IllegalStateException("no disk"));
    }
    assertThat(received.get(1).path("eventType").stringValue()).isEqualTo("FAIL");
    assertThat(received.get(3).toString()).contains("no disk", "stackTrace");
  }

  interface Pipeline {
    @Makes(value = TARGET, reads = "collect/pickup", returnsRows = true, properties = "team=milk")
    long load();

    @Makes(value = "w/other", job = "named")
    void breaks();

    String plain();
  }

  @Test
  void marked_methods_are_runs_and_do_what_they_did() {
    try (Emitter emitter = emitter()) {
      Pipeline pipeline =
          emitter.watch(
              Pipeline.class,
              new Pipeline() {
                @Override
                public long load() {
                  return 41;
                }

                @Override
                public void breaks() {
                  throw new IllegalStateException("as before");
                }

                @Override
                public String plain() {
                  return "plain";
                }
              });
      assertThat(pipeline.load()).isEqualTo(41);
      assertThat(pipeline.plain()).isEqualTo("plain");
      assertThatThrownBy(pipeline::breaks).hasMessage("as before");
    }
    assertThat(received).hasSize(4);
    assertThat(received.get(1).toString()).contains("\"rowCount\":41", "\"team\":\"milk\"");
    assertThat(received.get(3).path("job").path("name").stringValue()).isEqualTo("named");
  }

  @Test
  void what_cannot_be_sent_is_kept_and_sent_later_in_order() {
    status = 503;
    try (Emitter emitter = emitter()) {
      emitter.run("first").start().complete();
      assertThat(emitter.flush(Duration.ofSeconds(5))).isTrue();
      assertThat(emitter.kept()).isEqualTo(2);
    }
    assertThat(problems).anyMatch(problem -> problem.contains("503"));
    assertThat(new Spool(spool).size()).isPositive();
    status = 200;
    try (Emitter emitter = emitter()) {
      emitter.run("second").start().complete();
    }
    assertThat(received)
        .extracting(event -> event.path("job").path("name").stringValue())
        .containsExactly("first", "first", "second", "second");
    assertThat(new Spool(spool).size()).isZero();
  }

  @Test
  void a_service_that_is_away_delays_nothing_and_loses_nothing() {
    server.stop(0);
    long start = System.nanoTime();
    try (Emitter emitter = emitter()) {
      Run run = emitter.run("job").start();
      assertThat(Duration.ofNanos(System.nanoTime() - start)).isLessThan(Duration.ofMillis(400));
      run.complete();
    }
    assertThat(new Spool(spool).size()).isPositive();
  }

  @Test
  void what_is_refused_is_set_aside_and_holds_up_nothing() throws IOException {
    try (Emitter emitter = emitter()) {
      emitter.emit("{\"bad\":1}");
      emitter.run("good").start().complete();
    }
    assertThat(received).hasSize(2);
    try (var aside = Files.list(spool.resolve("refused"))) {
      assertThat(aside).anyMatch(file -> file.toString().endsWith(".reason"));
    }
    assertThat(problems).anyMatch(problem -> problem.contains("it is bad"));
  }

  @Test
  void references_are_read_as_everywhere() {
    assertThat(Asset.of("s3://lake/pickup/day=1"))
        .isEqualTo(new Asset("s3://lake", "pickup/day=1"));
    assertThat(Asset.of("a%2Fb/c")).isEqualTo(new Asset("a/b", "c"));
    assertThatThrownBy(() -> Asset.of("nothing")).hasMessageContaining("no '/'");
  }
}
