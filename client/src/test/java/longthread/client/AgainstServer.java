package longthread.client;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;

/** A server that answers as set and notes what it was asked, and the commands run against it. */
abstract class AgainstServer {
  record Asked(String line, String key, String body) {}

  record Said(int code, String out, String err) {}

  protected final List<Asked> asked = new ArrayList<>();
  private HttpServer server;
  protected int status = 200;
  protected int failAfter = Integer.MAX_VALUE;
  protected String answer = "{}";

  /** Answers by path; what is not in it gets {@link #answer}. */
  protected Map<String, String> answers = Map.of();

  @BeforeEach
  void startServer() throws IOException {
    server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
    server.createContext("/", this::answer);
    server.start();
  }

  @AfterEach
  void stopServer() {
    server.stop(0);
  }

  private void answer(HttpExchange exchange) throws IOException {
    String body = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
    asked.add(
        new Asked(
            exchange.getRequestMethod() + " " + exchange.getRequestURI(),
            exchange.getRequestHeaders().getFirst("Authorization"),
            body));
    byte[] bytes =
        answers
            .getOrDefault(exchange.getRequestURI().getPath(), answer)
            .getBytes(StandardCharsets.UTF_8);
    int said = asked.size() > failAfter ? 400 : status;
    exchange.sendResponseHeaders(said, bytes.length == 0 ? -1 : bytes.length);
    exchange.getResponseBody().write(bytes);
    exchange.close();
  }

  protected String url() {
    return "http://127.0.0.1:" + server.getAddress().getPort();
  }

  protected Said run(String... words) {
    return run(Map.of("LONGTHREAD_URL", url(), "LONGTHREAD_TOKEN", "lt_key"), words);
  }

  protected Said run(Map<String, String> environment, String... words) {
    var out = new StringWriter();
    var err = new StringWriter();
    int code = Main.run(words, environment, new PrintWriter(out), new PrintWriter(err));
    return new Said(code, out.toString(), err.toString());
  }
}
