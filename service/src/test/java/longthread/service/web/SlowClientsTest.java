package longthread.service.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicLong;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** More slow callers than the server has threads, and others that go on meanwhile. */
@ExtendWith(RunningService.Extension.class)
class SlowClientsTest {
  private static final int CALLERS = 260;

  private final List<Socket> sockets = new ArrayList<>();
  private RunningService service;

  @BeforeEach
  void useService(RunningService running) {
    service = running;
  }

  @AfterEach
  void hangUp() throws IOException {
    for (Socket socket : sockets) {
      socket.close();
    }
  }

  private Socket open(String start) throws IOException {
    URI base = URI.create(service.base());
    var socket = new Socket(base.getHost(), base.getPort());
    socket.setSoTimeout(20_000);
    sockets.add(socket);
    socket.getOutputStream().write(start.getBytes(StandardCharsets.UTF_8));
    return socket;
  }

  private static String post(String path, String headers) {
    return "POST " + path + " HTTP/1.1\r\nHost: h\r\n" + headers + "Content-Length: 5000\r\n\r\n{";
  }

  private void othersGoOn() {
    long start = System.nanoTime();
    assertThat(new Api(service.base(), "").get("/health/liveness").status()).isEqualTo(200);
    assertThat(new Api(service.healthBase(), "").get("/health/liveness").status()).isEqualTo(200);
    String event = Events.run("COMPLETE", "2026-05-01T02:00:00Z", UUID.randomUUID(), "s", "j", "");
    assertThat(service.api().post("/api/v1/lineage", event.replace('\'', '"')).status())
        .isEqualTo(201);
    assertThat((System.nanoTime() - start) / 1_000_000).as("ms").isLessThan(8_000);
  }

  @Test
  void who_has_no_key_is_answered_before_the_body_is_there() throws IOException {
    for (String path : List.of("/api/v1/lineage", "/api/v1/lineage/batch", "/api/v1/keys", "/")) {
      for (int i = 0; i < CALLERS / 4; i++) {
        open(post(path, ""));
      }
    }
    othersGoOn();
    for (Socket socket : sockets) {
      String answer = new String(socket.getInputStream().readNBytes(12), StandardCharsets.UTF_8);
      assertThat(answer).isEqualTo("HTTP/1.1 401");
    }
  }

  @Test
  void slow_bodies_of_a_good_key_and_of_sign_ins_leave_room_for_others() throws IOException {
    String key = "Authorization: Bearer " + RunningService.TOKEN + "\r\n";
    for (int i = 0; i < CALLERS / 2; i++) {
      open(post("/api/v1/sql/lineage", key + "Content-Type: application/json\r\n"));
      open(
          post(
              "/api/v1/session",
              "X-XSRF-TOKEN: a\r\nCookie: XSRF-TOKEN=a\r\nContent-Type: application/json\r\n"));
    }
    othersGoOn();
  }

  @Test
  void a_body_that_a_read_request_carries_is_not_waited_for() throws IOException {
    for (int i = 0; i < CALLERS; i++) {
      open("GET /health/liveness HTTP/1.1\r\nHost: h\r\nContent-Length: 5000\r\n\r\n{");
    }
    othersGoOn();
  }

  @Test
  void a_body_that_comes_after_its_headers_and_that_nobody_reads_harms_no_answer()
      throws Exception {
    String head = "GET /api/v1/session HTTP/1.1\r\nHost: h\r\nContent-Length: %d\r\n\r\n";
    for (int pause : new int[] {0, 5, 60, 400}) {
      Socket socket = open(head.formatted(2));
      Thread.sleep(pause);
      socket.getOutputStream().write("{}".getBytes(StandardCharsets.UTF_8));
      String answer = new String(socket.getInputStream().readNBytes(12), StandardCharsets.UTF_8);
      assertThat(answer).as("after " + pause + " ms").isEqualTo("HTTP/1.1 200");
    }
    Socket never = open(head.formatted(5_000));
    String answer = new String(never.getInputStream().readNBytes(12), StandardCharsets.UTF_8);
    assertThat(answer).isEqualTo("HTTP/1.1 200");
  }

  @Test
  void headers_that_do_not_come_to_an_end_close_the_connection() throws IOException {
    Socket socket = open("GET /health HTTP/1.1\r\nHost: h\r\nX-Slow: ");
    int answer = 0;
    long start = System.nanoTime();
    try {
      for (int i = 0; i < 40 && answer == 0; i++) {
        socket.getOutputStream().write('x');
        socket.setSoTimeout(200);
        try {
          answer = socket.getInputStream().read();
        } catch (java.net.SocketTimeoutException e) {
          answer = 0; // still open
        }
      }
    } catch (IOException e) {
      answer = -1; // closed while we wrote
    }
    assertThat(answer).as("closed after three seconds").isEqualTo(-1);
    assertThat((System.nanoTime() - start) / 1_000_000).isBetween(2_500L, 7_000L);
  }

  @Test
  void a_refused_post_with_a_whole_body_keeps_its_answer_and_its_connection() throws IOException {
    String request = "POST /api/v1/lineage HTTP/1.1\r\nHost: h\r\nContent-Length: 2\r\n\r\n{}";
    Socket socket = open(request);
    for (int i = 0; i < 3; i++) {
      byte[] head = new byte[4_096];
      int n = socket.getInputStream().read(head);
      assertThat(new String(head, 0, n, StandardCharsets.UTF_8)).startsWith("HTTP/1.1 401");
      socket.getOutputStream().write(request.getBytes(StandardCharsets.UTF_8));
    }
  }

  @Test
  void the_port_of_the_state_answers_nothing_else() {
    var port = new Api(service.healthBase(), RunningService.TOKEN);
    assertThat(port.get("/health/readiness").status()).isEqualTo(200);
    assertThat(port.get("/metrics").status()).isEqualTo(200);
    assertThat(port.get("/api/v1/search").status()).isEqualTo(404);
    assertThat(port.get("/").status()).isEqualTo(404);
  }

  @Test
  void the_time_for_a_body_grows_with_what_has_arrived() {
    var now = new AtomicLong();
    var time = new SlowBody(now::get);
    now.set(29_000_000_000L);
    time.check(0);
    now.set(120_000_000_000L);
    time.check(100 * 65_536);
    assertThatThrownBy(() -> time.check(80 * 65_536))
        .isInstanceOf(ProblemException.class)
        .hasMessageContaining("30 seconds");
  }
}
