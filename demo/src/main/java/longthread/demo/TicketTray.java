package longthread.demo;

import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.GreenMailUtil;
import com.icegreen.greenmail.util.ServerSetup;
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import jakarta.mail.MessagingException;
import jakarta.mail.internet.MimeMessage;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.URLDecoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.concurrent.CountDownLatch;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ObjectNode;

/**
 * The ticket stand-in: takes tickets and webhook messages by POST and mail over SMTP, shows them on
 * one page, and reports to the service when a ticket is closed. For one machine: it listens on
 * loopback, asks for no sign-in, and forgets everything when it ends but its tickets.
 */
@Command(name = "tray", description = "Runs the ticket stand-in of the demo world.")
public final class TicketTray implements Callable<Integer> {
  private static final JsonMapper JSON = new JsonMapper();
  private static final int MAX_BODY = 1 << 20;
  private static final int MAX_SHOWN = 50;

  /** A ticket. */
  private static final class Ticket {
    private final String id;
    private final JsonNode event;
    private @Nullable String outcome;

    Ticket(String id, JsonNode event) {
      this.id = id;
      this.event = event;
    }

    String title() {
      return event.path("data").path("title").asString(event.path("subject").asString(id));
    }
  }

  @Option(names = "--home", required = true)
  private Path home = Path.of("");

  private final Map<String, Ticket> tickets = new LinkedHashMap<>();
  private final List<JsonNode> messages = new ArrayList<>();
  private @Nullable GreenMail mail;
  private int port;

  public static void main(String[] args) {
    System.exit(new CommandLine(new TicketTray()).execute(args));
  }

  @Override
  public Integer call() throws IOException, InterruptedException {
    HttpServer server = start(kept("tray.port"), kept("smtp.port"));
    Files.writeString(home.resolve("tray.port"), "" + server.getAddress().getPort());
    Files.writeString(home.resolve("smtp.port"), "" + smtpPort());
    Files.writeString(home.resolve("tray.ready"), "yes");
    System.out.println("ticket tray at http://127.0.0.1:" + port);
    new CountDownLatch(1).await(); // until it is ended from outside
    return 0;
  }

  /** The port it had before, since the service was started with it; 0 for a free one. */
  private int kept(String file) throws IOException {
    Path path = home.resolve(file);
    return Files.exists(path) ? Integer.parseInt(Files.readString(path).strip()) : 0;
  }

  int smtpPort() {
    GreenMail running = mail;
    return running == null ? 0 : running.getSmtp().getPort();
  }

  /** Starts both servers; port 0 takes a free one. */
  HttpServer start(int httpPort, int smtpPort) throws IOException {
    var setup = new ServerSetup(smtpPort, "127.0.0.1", ServerSetup.PROTOCOL_SMTP);
    GreenMail server = new GreenMail(setup);
    server.start();
    mail = server;
    var address = new InetSocketAddress(InetAddress.getLoopbackAddress(), httpPort);
    HttpServer http = HttpServer.create(address, 0);
    port = http.getAddress().getPort();
    http.createContext("/", this::answer);
    http.start();
    return http;
  }

  private void answer(HttpExchange exchange) throws IOException {
    String path = exchange.getRequestURI().getPath();
    boolean isPost = "POST".equals(exchange.getRequestMethod());
    try {
      if (isPost && path.equals("/tickets")) {
        send(exchange, 201, "application/json", open(body(exchange)));
      } else if (isPost && path.equals("/close")) {
        close(form(exchange));
        exchange.getResponseHeaders().add("Location", "/");
        send(exchange, 303, "text/plain", "closed");
      } else if (isPost) {
        take(body(exchange));
        send(exchange, 204, "text/plain", "");
      } else {
        send(exchange, 200, "text/html; charset=utf-8", page());
      }
    } catch (RuntimeException e) {
      send(exchange, 400, "text/plain; charset=utf-8", String.valueOf(e.getMessage()));
    }
  }

  private synchronized String open(String body) {
    JsonNode event = JSON.readTree(body);
    String id = "HV-" + (101 + tickets.size());
    tickets.put(id, new Ticket(id, event));
    ObjectNode answer = JSON.createObjectNode();
    answer.put("id", id).put("url", "http://127.0.0.1:" + port + "/#" + id);
    return answer.toString();
  }

  private synchronized void take(String body) {
    JsonNode message = JSON.readTree(body);
    if (message.isArray()) {
      message.forEach(messages::add);
    } else {
      messages.add(message);
    }
  }

  /** Closes a ticket and reports it to where it came from. */
  private void close(Map<String, String> form) throws IOException {
    Ticket ticket;
    synchronized (this) {
      ticket = tickets.get(form.getOrDefault("id", ""));
    }
    if (ticket == null) {
      throw new IllegalArgumentException("there is no ticket " + form.get("id"));
    }
    String outcome = form.getOrDefault("outcome", "done");
    ObjectNode closed = JSON.createObjectNode().put("id", ticket.id).put("outcome", outcome);
    String token = Files.readString(home.resolve("token")).strip();
    HttpRequest request =
        HttpRequest.newBuilder(URI.create(ticket.event.path("data").path("closed").asString("")))
            .header("Authorization", "Bearer " + token)
            .header("Content-Type", "application/json")
            .POST(HttpRequest.BodyPublishers.ofString(closed.toString()))
            .build();
    try {
      int status =
          HttpClient.newHttpClient()
              .send(request, HttpResponse.BodyHandlers.discarding())
              .statusCode();
      if (status / 100 != 2) {
        throw new IllegalArgumentException("the closing was not taken: " + status);
      }
      ticket.outcome = outcome;
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  // ------------------------------------------------------------------ the page

  private synchronized String page() {
    var page = new StringBuilder();
    page.append("<!doctype html><meta charset=utf-8><title>Ticket tray</title><style>");
    page.append("body{font:15px/1.4 sans-serif;max-width:900px;margin:24px auto}");
    page.append("li{margin:10px 0}pre{background:#f4f2ec;padding:8px;white-space:pre-wrap}");
    page.append("</style><h1>Ticket tray</h1><h2>Tickets</h2><ul>");
    tickets.values().forEach(ticket -> page.append(row(ticket)));
    page.append("</ul><h2>Webhook messages</h2><ul>");
    for (int at = messages.size() - 1; at >= Math.max(0, messages.size() - MAX_SHOWN); at--) {
      JsonNode message = messages.get(at);
      page.append("<li><b>").append(escaped(message.path("type").asString("")));
      page.append("</b> ").append(escaped(message.path("subject").asString(""))).append("</li>");
    }
    page.append("</ul><h2>Mail</h2><ul>");
    mails().forEach(one -> page.append(row(one)));
    return page.append("</ul>").toString();
  }

  private static String row(Ticket ticket) {
    String outcome = ticket.outcome;
    String state =
        outcome == null
            ? "<form method=post action=/close><input type=hidden name=id value="
                + ticket.id
                + "><input name=outcome placeholder=outcome> <button>Close</button></form>"
            : "closed: " + escaped(outcome);
    String data = ticket.event.path("data").toPrettyString();
    return "<li id="
        + ticket.id
        + "><b>"
        + ticket.id
        + "</b> "
        + escaped(ticket.title())
        + " "
        + state
        + "<details><summary>All that came with it</summary><pre>"
        + escaped(data)
        + "</pre></details></li>";
  }

  private List<MimeMessage> mails() {
    GreenMail running = mail;
    return running == null ? List.of() : List.of(running.getReceivedMessages());
  }

  private static String row(MimeMessage message) {
    try {
      return "<li><b>"
          + escaped(String.valueOf(message.getSubject()))
          + "</b> to "
          + escaped(String.valueOf(message.getAllRecipients()[0]))
          + "<pre>"
          + escaped(GreenMailUtil.getBody(message))
          + "</pre></li>";
    } catch (MessagingException e) {
      return "<li>a message that cannot be read</li>";
    }
  }

  private static String escaped(String text) {
    return text.replace("&", "&amp;").replace("<", "&lt;").replace("\"", "&quot;");
  }

  // ------------------------------------------------------------------ requests

  private static String body(HttpExchange exchange) throws IOException {
    byte[] bytes = exchange.getRequestBody().readNBytes(MAX_BODY);
    return new String(bytes, StandardCharsets.UTF_8);
  }

  private static Map<String, String> form(HttpExchange exchange) throws IOException {
    var form = new HashMap<String, String>();
    for (String pair : body(exchange).split("&")) {
      int equals = pair.indexOf('=');
      if (equals > 0) {
        form.put(
            URLDecoder.decode(pair.substring(0, equals), StandardCharsets.UTF_8),
            URLDecoder.decode(pair.substring(equals + 1), StandardCharsets.UTF_8));
      }
    }
    return form;
  }

  private static void send(HttpExchange exchange, int status, String type, String body)
      throws IOException {
    byte[] bytes = body.getBytes(StandardCharsets.UTF_8);
    exchange.getResponseHeaders().add("Content-Type", type);
    exchange.sendResponseHeaders(status, bytes.length == 0 ? -1 : bytes.length);
    try (var out = exchange.getResponseBody()) {
      out.write(bytes);
    }
  }
}
