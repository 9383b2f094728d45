package longthread.demo;

import java.io.IOException;
import java.net.CookieManager;
import java.net.HttpCookie;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.LocalDate;
import java.time.ZoneOffset;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.JsonNodeFactory;
import tools.jackson.databind.node.ObjectNode;

/** A steward of the demo world, who signs in and sets by hand what no program reports. */
final class Steward {
  private final CookieManager cookies = new CookieManager();
  private final HttpClient http = HttpClient.newBuilder().cookieHandler(cookies).build();
  private final String service;

  Steward(String service) {
    this.service = service;
  }

  /** Signs in and makes all statements of the world, one after the other. */
  void state(String name, String password, JsonNode statements) throws IOException {
    signIn(name, password);
    for (JsonNode statement : statements) {
      post("/api/v1/statements", dated(statement.toString()));
    }
  }

  /** Sets where rows of the world can be looked at; who states has signed in before. */
  void show(String name, String under, String from, String schema) throws IOException {
    ObjectNode source = JsonNodeFactory.instance.objectNode();
    source.put("name", name).put("under", under).put("sampled", true);
    if (from.startsWith("postgres:")) {
      source.put("kind", "postgres").put("url", from);
      source.put("passwordVariable", "LONGTHREAD_PREVIEW_PASSWORD");
    } else {
      source.put("kind", "files").put("folder", from);
    }
    if (!schema.isEmpty()) {
      source.put("schema", schema);
    }
    request("PUT", "/api/v1/preview/sources", source.toString());
  }

  private void signIn(String name, String password) throws IOException {
    send(HttpRequest.newBuilder(URI.create(service + "/api/v1/session")).GET());
    ObjectNode who = JsonNodeFactory.instance.objectNode();
    post("/api/v1/session", who.put("name", name).put("password", password).toString());
  }

  /** Dates that depend on today are written as so many days from now. */
  private static String dated(String text) {
    LocalDate today = LocalDate.now(ZoneOffset.UTC);
    String dated = text;
    for (int days : new int[] {20, 400}) {
      dated = dated.replace("{in " + days + " days}", "" + today.plusDays(days));
    }
    return dated;
  }

  private void post(String path, String body) throws IOException {
    request("POST", path, body);
  }

  private void request(String method, String path, String body) throws IOException {
    HttpRequest.Builder request =
        HttpRequest.newBuilder(URI.create(service + path))
            .header("Content-Type", "application/json")
            .header("Prefer", "wait=4")
            .method(method, HttpRequest.BodyPublishers.ofString(body));
    for (HttpCookie cookie : cookies.getCookieStore().getCookies()) {
      if (cookie.getName().equals("XSRF-TOKEN")) {
        request.header("X-XSRF-TOKEN", cookie.getValue());
      }
    }
    send(request);
  }

  private void send(HttpRequest.Builder request) throws IOException {
    try {
      HttpResponse<String> answer =
          http.send(request.build(), HttpResponse.BodyHandlers.ofString());
      if (answer.statusCode() != 200) {
        throw new IOException("the service answered " + answer.statusCode() + ": " + answer.body());
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new IOException("interrupted", e);
    }
  }
}
