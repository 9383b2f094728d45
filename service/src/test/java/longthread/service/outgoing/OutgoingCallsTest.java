package longthread.service.outgoing;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Receivers that answer as none should, on raw sockets. */
class OutgoingCallsTest {
  private ServerSocket server;
  private final AtomicInteger met = new AtomicInteger();
  private volatile String head = "";
  private volatile int endless;

  @BeforeEach
  void listen() throws IOException {
    server = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
    var thread = new Thread(this::serve, "odd-receiver");
    thread.setDaemon(true);
    thread.start();
  }

  @AfterEach
  void end() throws IOException {
    server.close();
  }

  private void serve() {
    while (!server.isClosed()) {
      try {
        Socket socket = server.accept();
        met.incrementAndGet();
        var one =
            new Thread(
                () -> {
                  try (socket) {
                    socket.getOutputStream().write(head.getBytes(StandardCharsets.UTF_8));
                    byte[] more = new byte[10_000];
                    for (int i = 0; i < endless; i++) {
                      socket.getOutputStream().write(more);
                    }
                    socket.getOutputStream().flush();
                    Thread.sleep(60_000);
                  } catch (IOException | InterruptedException e) {
                    // the caller went away, as it should
                  }
                });
        one.setDaemon(true);
        one.start();
      } catch (IOException e) {
        return;
      }
    }
  }

  private URI address() {
    return URI.create("http://127.0.0.1:" + server.getLocalPort() + "/hook");
  }

  private static OutgoingCalls calls(String... allowed) {
    return new OutgoingCalls(new Destinations(List.of(allowed)));
  }

  @Test
  void a_head_without_its_body_is_an_answer_and_holds_nobody() throws Exception {
    head = "HTTP/1.1 200 OK\r\nContent-Length: 1000000\r\n\r\n";
    assertThat(calls("127.0.0.1").post(address(), Map.of(), "text/plain", new byte[1]))
        .isEqualTo(200);
  }

  @Test
  void a_machine_that_is_not_allowed_is_never_connected_to() {
    head = "HTTP/1.1 200 OK\r\nContent-Length: 0\r\n\r\n";
    assertThatThrownBy(() -> calls().post(address(), Map.of(), "text/plain", new byte[1]))
        .isInstanceOf(IOException.class);
    URI other = URI.create("http://localhost:" + server.getLocalPort() + "/");
    assertThatThrownBy(() -> calls("127.0.0.1:1").post(other, Map.of(), "text/plain", new byte[1]))
        .isInstanceOf(IOException.class);
    assertThat(met.get()).isZero();
  }

  @Test
  void a_redirect_is_an_answer_and_not_followed() throws Exception {
    head =
        "HTTP/1.1 307 Elsewhere\r\nLocation: http://127.0.0.1:"
            + server.getLocalPort()
            + "/other\r\nContent-Length: 0\r\n\r\n";
    assertThat(calls("127.0.0.1").post(address(), Map.of(), "text/plain", new byte[1]))
        .isEqualTo(307);
    assertThat(met.get()).isEqualTo(1);
  }

  @Test
  void an_answer_larger_than_its_limit_is_refused_before_it_is_read() {
    head = "HTTP/1.1 200 OK\r\nContent-Length: 900000000\r\n\r\n";
    endless = 50;
    assertThatThrownBy(() -> calls().postTrusted(address(), "text/plain", new byte[1], 100_000))
        .hasMessageContaining("more than 100000 bytes");
  }

  @Test
  void an_answer_that_never_comes_ends_by_the_time_of_the_whole_exchange() {
    head = "HTTP/1.1 200 OK\r\nContent-Length: 100\r\n\r\nbegins";
    assertThatThrownBy(() -> calls().postTrusted(address(), "text/plain", new byte[1], 100_000))
        .isInstanceOf(IOException.class);
  }

  @Test
  void a_port_that_there_is_not_is_a_failed_call() {
    URI odd = URI.create("http://127.0.0.1:99999/");
    assertThatThrownBy(() -> calls("127.0.0.1").post(odd, Map.of(), "text/plain", new byte[1]))
        .isInstanceOf(IOException.class);
  }
}
