package longthread.client;

import java.io.IOException;
import java.net.ConnectException;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpTimeoutException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Asks the service over HTTP. Safe for many threads. */
public final class ServiceClient {
  private static final Duration PATIENCE = Duration.ofSeconds(120);

  private final HttpClient http =
      HttpClient.newBuilder()
          .version(HttpClient.Version.HTTP_1_1)
          .connectTimeout(Duration.ofSeconds(5))
          .build();
  private final JsonMapper json = new JsonMapper();
  private final String base;
  private final String token;

  /**
   * A client of the service at an address.
   *
   * @param base such as {@code http://127.0.0.1:8080}
   * @param token a bearer key; may be empty
   */
  public ServiceClient(String base, String token) {
    this.base = base.endsWith("/") ? base.substring(0, base.length() - 1) : base;
    this.token = token;
  }

  /**
   * Returns the answer to a query as JSON.
   *
   * @param parameters by name; those that are null are left out
   */
  public JsonNode get(String path, Map<String, ? extends @Nullable Object> parameters) {
    return json(send(request(path, parameters).header("Accept", "application/json").GET()));
  }

  /** Returns the answer to a query as CSV text. */
  public String csv(String path, Map<String, ? extends @Nullable Object> parameters) {
    return send(request(path, parameters).header("Accept", "text/csv").GET());
  }

  /** Posts bytes and returns the answer as JSON. */
  public JsonNode post(String path, byte[] body, String contentType, boolean see) {
    HttpRequest.Builder request =
        request(path, Map.of())
            .header("Content-Type", contentType)
            .header("Accept", "application/json")
            .POST(HttpRequest.BodyPublishers.ofByteArray(body));
    if (see) {
      request.header("Prefer", "wait=4");
    }
    return json(send(request));
  }

  /** Deletes what a path names. */
  public void delete(String path) {
    send(request(path, Map.of()).DELETE());
  }

  private HttpRequest.Builder request(
      String path, Map<String, ? extends @Nullable Object> parameters) {
    var url = new StringBuilder(base).append(path);
    String separator = "?";
    for (var parameter : parameters.entrySet()) {
      if (parameter.getValue() != null) {
        url.append(separator)
            .append(parameter.getKey())
            .append('=')
            .append(URLEncoder.encode(parameter.getValue().toString(), StandardCharsets.UTF_8));
        separator = "&";
      }
    }
    HttpRequest.Builder request;
    try {
      request = HttpRequest.newBuilder(URI.create(url.toString())).timeout(PATIENCE);
    } catch (IllegalArgumentException e) {
      throw new ServiceException(
          ServiceException.NOT_REACHABLE, "'" + base + "' is no address of a service");
    }
    return token.isEmpty() ? request : request.header("Authorization", "Bearer " + token);
  }

  private String send(HttpRequest.Builder request) {
    try {
      HttpResponse<String> answer =
          http.send(request.build(), HttpResponse.BodyHandlers.ofString(StandardCharsets.UTF_8));
      if (answer.statusCode() / 100 == 2) {
        return answer.body();
      }
      throw ServiceException.of(answer.statusCode(), problem(answer.body()));
    } catch (ConnectException | HttpTimeoutException e) {
      throw new ServiceException(
          ServiceException.NOT_REACHABLE,
          "no service answers at "
              + base
              + "; start one with ./longthread demo, or name it with"
              + " --url or LONGTHREAD_URL");
    } catch (IOException e) {
      throw new ServiceException(
          ServiceException.NOT_REACHABLE,
          "the connection to " + base + " broke off: " + e.getMessage());
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ServiceException(ServiceException.NOT_REACHABLE, "interrupted");
    }
  }

  private @Nullable JsonNode problem(String body) {
    try {
      return body.isBlank() ? null : json.readTree(body);
    } catch (JacksonException e) {
      return null;
    }
  }

  private JsonNode json(String body) {
    try {
      return json.readTree(body);
    } catch (JacksonException e) {
      throw new ServiceException(
          ServiceException.REFUSED, "what answers at " + base + " is not this service");
    }
  }
}
