package longthread.service.testing;

import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import jakarta.mail.internet.MimeMessage;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** A real web server and a real mail server on loopback, which keep what they are sent. */
public final class Receiver implements AutoCloseable {
  /** A request as it came. */
  public record Taken(String path, com.sun.net.httpserver.Headers headers, String body) {
    public JsonNode json() {
      return new JsonMapper().readTree(body);
    }
  }

  private final HttpServer server;
  private final GreenMail mail =
      new GreenMail(new ServerSetup(0, "127.0.0.1", ServerSetup.PROTOCOL_SMTP));
  private final List<Taken> taken = new CopyOnWriteArrayList<>();
  private final Map<String, Integer> statuses = new ConcurrentHashMap<>();

  Receiver() {
    try {
      server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
    server.createContext("/", this::take);
    server.start();
    mail.start();
  }

  private void take(HttpExchange exchange) throws IOException {
    String path = exchange.getRequestURI().getPath();
    String body = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
    int status = statuses.getOrDefault(path, 200);
    if (status < 300) {
      taken.add(new Taken(path, exchange.getRequestHeaders(), body));
    }
    byte[] answer =
        ("{\"id\":\"T-" + taken.size() + "\",\"url\":\"" + address("/t/1") + "\"}")
            .getBytes(StandardCharsets.UTF_8);
    exchange.sendResponseHeaders(status, answer.length);
    exchange.getResponseBody().write(answer);
    exchange.close();
  }

  public String address(String path) {
    return "http://127.0.0.1:" + server.getAddress().getPort() + path;
  }

  /** Answers requests for a path with a status from now on. */
  public void answer(String path, int status) {
    statuses.put(path, status);
  }

  /** What came to a path, in order. */
  public List<Taken> at(String path) {
    return taken.stream().filter(one -> one.path().equals(path)).toList();
  }

  public int smtpPort() {
    return mail.getSmtp().getPort();
  }

  public List<MimeMessage> mails() {
    return List.of(mail.getReceivedMessages());
  }

  @Override
  public void close() {
    server.stop(0);
    mail.stop();
  }
}
