package longthread.service.testing;

import java.io.IOException;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** The HTTP interface, called as any program would. */
public final class Api {
  private static final HttpClient HTTP = HttpClient.newHttpClient();
  private static final JsonMapper JSON = new JsonMapper();

  /** How many times ten seconds to wait for the applier. */
  private static final int PATIENCE = 12;

  /** An answer of whatever status. */
  public record Answer(int status, String body, java.net.http.HttpHeaders headers) {
    public JsonNode json() {
      return JSON.readTree(body);
    }

    public String type() {
      return json().path("type").stringValue("");
    }

    public String detail() {
      return json().path("detail").stringValue("");
    }
  }

  private final String base;
  private final String token;

  public Api(String base, String token) {
    this.base = base;
    this.token = token;
  }

  /** Asks with parameters given as name, value, name, value. */
  public Answer get(String path, String... parameters) {
    return send(request(url(path, parameters)).GET());
  }

  /** Asks with parameters and headers, each given as name, value. */
  public Answer get(String path, String[] parameters, String... headers) {
    return send(request(url(path, parameters)).headers(headers).GET());
  }

  /** Sends a JSON body by any method. */
  public Answer send(String method, String path, String body) {
    return send(
        request(base + path)
            .header("Content-Type", "application/json")
            .method(method, HttpRequest.BodyPublishers.ofString(body)));
  }

  public Answer csv(String path, String... parameters) {
    return send(request(url(path, parameters)).header("Accept", "text/csv").GET());
  }

  public Answer post(String path, byte[] body, String... headers) {
    HttpRequest.Builder request =
        request(base + path).POST(HttpRequest.BodyPublishers.ofByteArray(body));
    for (int i = 0; i < headers.length; i += 2) {
      request.header(headers[i], headers[i + 1]);
    }
    return send(request);
  }

  public Answer post(String path, String body, String... headers) {
    return post(path, body.getBytes(StandardCharsets.UTF_8), headers);
  }

  /** Sends an event written with single quotes, and waits until queries show it. */
  public Answer event(String event) {
    Answer answer =
        post(
            "/api/v1/lineage",
            event.replace('\'', '"'),
            "Content-Type",
            "application/json; charset=UTF-8");
    if (answer.status() == 201) {
      see(answer.json().path("receipt").stringValue(""));
    }
    return answer;
  }

  /** Waits until queries show what a receipt stands for, however slow the machine is. */
  public void see(String receipt) {
    int status = 503;
    for (int tries = 0; status == 503 && tries < PATIENCE; tries++) {
      status = get("/api/v1/search", "limit", "1", "after", receipt).status();
    }
    if (status != 200) {
      throw new IllegalStateException("receipt " + receipt + " is not seen: " + status);
    }
  }

  public Answer delete(String path) {
    return send(request(base + path).DELETE());
  }

  private String url(String path, String... parameters) {
    var url = new StringBuilder(base).append(path);
    for (int i = 0; i < parameters.length; i += 2) {
      url.append(i == 0 ? '?' : '&')
          .append(parameters[i])
          .append('=')
          .append(URLEncoder.encode(parameters[i + 1], StandardCharsets.UTF_8));
    }
    return url.toString();
  }

  private HttpRequest.Builder request(String url) {
    HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(url));
    return token.isEmpty() ? request : request.header("Authorization", "Bearer " + token);
  }

  /** An answer in another form than JSON, byte by byte. */
  public HttpResponse<byte[]> bytes(String accept, String path, String... parameters) {
    return send(
        request(url(path, parameters)).header("Accept", accept).GET(),
        HttpResponse.BodyHandlers.ofByteArray());
  }

  private static Answer send(HttpRequest.Builder request) {
    HttpResponse<String> answer =
        send(request, HttpResponse.BodyHandlers.ofString(StandardCharsets.UTF_8));
    return new Answer(answer.statusCode(), answer.body(), answer.headers());
  }

  private static <T> HttpResponse<T> send(
      HttpRequest.Builder request, HttpResponse.BodyHandler<T> body) {
    try {
      return HTTP.send(request.build(), body);
    } catch (IOException e) {
      throw new IllegalStateException(e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new IllegalStateException(e);
    }
  }

  /** Makes the catalog anew from the log, waits for the end, and returns how it ended. */
  public JsonNode rebuild() throws InterruptedException {
    if (post("/api/v1/rebuild", "").status() != 202) {
      throw new IllegalStateException("the rebuild did not start");
    }
    for (int tries = 0; tries < 600; tries++) {
      JsonNode status = get("/api/v1/rebuild").json();
      if (!status.path("state").stringValue("").equals("running")) {
        return status;
      }
      Thread.sleep(100);
    }
    throw new AssertionError("the rebuild did not end");
  }
}
