package longthread.demo;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URLDecoder;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.concurrent.CountDownLatch;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * The BI stand-in as a server: a page on which its workspaces are refreshed and changed by hand,
 * and the descriptions it sends. For one machine: it listens on loopback and asks for no sign-in.
 */
@Command(name = "sightglass", description = "Runs the BI stand-in of the demo world.")
public final class SightglassServer implements Callable<Integer> {
  private static final List<String> LISTS =
      List.of("steps", "models", "charts", "reports", "dashboards");
  private static final int MAX_BODY = 1 << 20;

  @Option(names = "--service", required = true)
  private String service = "";

  @Option(names = "--token-file", required = true)
  private Path tokenFile = Path.of("");

  @Option(names = "--home", required = true)
  private Path home = Path.of("");

  @Option(names = "--port", defaultValue = "0")
  private int port;

  public static void main(String[] args) {
    System.exit(new CommandLine(new SightglassServer()).execute(args));
  }

  @Override
  public Integer call() throws IOException, InterruptedException {
    String token = Files.readString(tokenFile).strip();
    HttpServer server =
        start(
            new Sightglass(
                home, new Emitter(service, token, home.resolve("world").resolve("spool"))),
            port);
    Files.writeString(home.resolve("sightglass.port"), "" + server.getAddress().getPort());
    System.out.println("sightglass at http://127.0.0.1:" + server.getAddress().getPort());
    new CountDownLatch(1).await(); // until it is ended from outside
    return 0;
  }

  /** Starts a server; port 0 takes a free one. */
  static HttpServer start(Sightglass sightglass, int port) throws IOException {
    var address = new InetSocketAddress(InetAddress.getLoopbackAddress(), port);
    HttpServer server = HttpServer.create(address, 0);
    server.createContext("/", exchange -> answer(sightglass, exchange));
    server.start();
    return server;
  }

  private static void answer(Sightglass sightglass, HttpExchange exchange) throws IOException {
    String path = exchange.getRequestURI().getPath();
    boolean isForm = "POST".equals(exchange.getRequestMethod());
    try {
      if (isForm && path.equals("/edit")) {
        Map<String, String> form = form(exchange);
        sightglass.edit(
            form.getOrDefault("workspace", ""),
            form.getOrDefault("pointer", ""),
            form.containsKey("remove") ? null : form.getOrDefault("value", ""));
        done(exchange, form);
      } else if (isForm && path.equals("/refresh")) {
        Map<String, String> form = form(exchange);
        sightglass.refresh(
            form.getOrDefault("workspace", ""),
            form.getOrDefault("of", ""),
            form.containsKey("fault") ? form.get("fault") : null);
        done(exchange, form);
      } else if (path.equals("/")) {
        send(exchange, 200, "text/html; charset=UTF-8", page(sightglass));
      } else if (path.startsWith("/workspaces/")) {
        String id = path.substring("/workspaces/".length());
        byte[] description =
            sightglass.description(id, Instant.now().truncatedTo(ChronoUnit.MILLIS));
        send(exchange, 200, "application/json", new String(description, StandardCharsets.UTF_8));
      } else {
        send(exchange, 404, "text/plain; charset=UTF-8", "there is no page " + path + "\n");
      }
    } catch (IllegalArgumentException | IllegalStateException e) {
      send(exchange, 400, "text/plain; charset=UTF-8", e.getMessage() + "\n");
    } finally {
      exchange.close();
    }
  }

  /** A person goes back to the page; a program gets one line. */
  private static void done(HttpExchange exchange, Map<String, String> form) throws IOException {
    if (form.containsKey("page")) {
      exchange.getResponseHeaders().set("Location", "/#" + form.getOrDefault("workspace", ""));
      exchange.sendResponseHeaders(303, -1);
    } else {
      send(exchange, 200, "text/plain; charset=UTF-8", "done; the workspace is described anew\n");
    }
  }

  private static Map<String, String> form(HttpExchange exchange) throws IOException {
    byte[] bytes = exchange.getRequestBody().readNBytes(MAX_BODY);
    var form = new HashMap<String, String>();
    for (String pair : new String(bytes, StandardCharsets.UTF_8).split("&")) {
      int equals = pair.indexOf('=');
      if (equals > 0) {
        form.put(
            URLDecoder.decode(pair.substring(0, equals), StandardCharsets.UTF_8),
            URLDecoder.decode(pair.substring(equals + 1), StandardCharsets.UTF_8));
      }
    }
    return form;
  }

  /** A form's body, as {@link #form} reads it. */
  static String body(Map<String, String> form) {
    var text = new StringBuilder();
    form.forEach(
        (name, value) ->
            text.append(text.isEmpty() ? "" : "&")
                .append(URLEncoder.encode(name, StandardCharsets.UTF_8))
                .append('=')
                .append(URLEncoder.encode(value, StandardCharsets.UTF_8)));
    return text.toString();
  }

  private static void send(HttpExchange exchange, int status, String type, String text)
      throws IOException {
    byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
    exchange.getResponseHeaders().set("Content-Type", type);
    exchange.sendResponseHeaders(status, bytes.length);
    exchange.getResponseBody().write(bytes);
  }

  private static String page(Sightglass sightglass) throws IOException {
    var html = new StringBuilder();
    html.append(
        """
        <!doctype html><html lang="en"><meta charset="utf-8"><title>sightglass (stand-in)</title>
        <style>body{font:14px/1.5 sans-serif;margin:2rem;max-width:60rem}form{display:inline}
        td{padding:.1rem .8rem .1rem 0}input[name=value]{width:16rem}</style>
        <h1>sightglass</h1><p>A stand-in for a BI tool. What is changed here is described to
        Long Thread at once.</p>
        """);
    for (String id : Sightglass.WORKSPACES) {
      ObjectNode workspace = sightglass.workspace(id);
      html.append("<h2 id=\"" + id + "\">")
          .append(escaped(workspace.path("workspace").path("title").stringValue("")))
          .append("</h2><p><a href=\"/workspaces/" + id + "\">its description</a></p><table>");
      for (String list : LISTS) {
        for (int i = 0; i < workspace.path(list).size(); i++) {
          row(html, id, list, i, workspace.path(list).get(i));
        }
      }
      html.append("</table>");
    }
    return html.toString();
  }

  private static void row(StringBuilder html, String id, String list, int i, JsonNode item) {
    String kind = list.substring(0, list.length() - 1);
    String pointer = "/" + list + "/" + i;
    html.append("<tr><td>" + kind + "<td>")
        .append(
            form(
                id,
                "edit",
                Map.of("pointer", pointer + "/title"),
                "<input name=value value=\""
                    + escaped(item.path("title").stringValue(""))
                    + "\"><button>Rename</button>"))
        .append("<td>")
        .append(
            form(id, "edit", Map.of("pointer", pointer, "remove", "1"), "<button>Remove</button>"));
    if (item.has("schedule")) {
      String of = kind + "/" + item.path("id").stringValue("");
      html.append("<td>")
          .append(form(id, "refresh", Map.of("of", of), "<button>Refresh</button> "))
          .append(
              form(
                  id,
                  "refresh",
                  Map.of("of", of, "fault", "stopped by hand"),
                  "<button>Refresh with a fault</button>"));
    }
  }

  private static String form(String id, String action, Map<String, String> hidden, String inside) {
    var html = new StringBuilder("<form method=post action=\"/" + action + "\">");
    html.append("<input type=hidden name=page value=1>");
    html.append("<input type=hidden name=workspace value=\"" + id + "\">");
    hidden.forEach(
        (name, value) ->
            html.append(
                "<input type=hidden name=\"" + name + "\" value=\"" + escaped(value) + "\">"));
    return html.append(inside).append("</form>").toString();
  }

  private static String escaped(String text) {
    return text.replace("&", "&amp;").replace("<", "&lt;").replace("\"", "&quot;");
  }
}
