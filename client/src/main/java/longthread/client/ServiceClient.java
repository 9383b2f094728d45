package longthread.client;

import dev.failsafe.Failsafe;
import dev.failsafe.FailsafeException;
import dev.failsafe.RetryPolicy;
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
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Calls the service over HTTP. Safe for many threads. */
public final class ServiceClient {
  private static final Duration TIMEOUT = Duration.ofSeconds(120);
  private static final String JSON = "application/json";
  private static final int MAX_TRIES = 6;

  static final JsonMapper MAPPER =
      JsonMapper.builder()
          .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
          .disable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES)
          .build();

  /**
   * An answer as it came, and as far as this program knows it.
   *
   * @param json all of it, with members that only a newer service has
   */
  public record Reply<T>(JsonNode json, T value) {}

  private final HttpClient http =
      HttpClient.newBuilder()
          .version(HttpClient.Version.HTTP_1_1)
          .connectTimeout(Duration.ofSeconds(5))
          .build();
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
   * Returns the answer to a query.
   *
   * @param parameters by name; those that are null are left out
   */
  public <T> Reply<T> get(
      String path, Map<String, ? extends @Nullable Object> parameters, Class<T> type) {
    return reply(send(request(path, parameters).header("Accept", JSON).GET()), type);
  }

  /** Returns the answer to a query as a list. */
  public <T> Reply<List<T>> list(String path, Class<T> element) {
    return listReply(send(request(path, Map.of()).header("Accept", JSON).GET()), element);
  }

  /** Returns the answer to a query as CSV text. */
  public String csv(String path, Map<String, ? extends @Nullable Object> parameters) {
    return text(path, parameters, "text/csv");
  }

  /** Returns an answer in another form than JSON, as text. */
  String text(String path, Map<String, ? extends @Nullable Object> parameters, String type) {
    return send(request(path, parameters).header("Accept", type).GET());
  }

  /** Returns an answer in another form than JSON, as it came. */
  byte[] bytes(String path, Map<String, ? extends @Nullable Object> parameters, String type) {
    return sendForBytes(request(path, parameters).header("Accept", type).GET());
  }

  /** Posts a value as JSON, or nothing for null, and returns the answer. */
  public <T> Reply<T> post(String path, @Nullable Object body, Class<T> type) {
    return reply(send(post(path, body)), type);
  }

  /** States something and waits until queries show it. */
  JsonNode state(
      String path, Map<String, ? extends @Nullable Object> parameters, String type, byte[] body) {
    String answer =
        send(
            request(path, parameters)
                .header("Content-Type", type)
                .header("Accept", JSON)
                .header("Prefer", "wait=4")
                .POST(HttpRequest.BodyPublishers.ofByteArray(body)));
    return MAPPER.readTree(answer);
  }

  /** Posts a value as JSON and returns the answer as a list. */
  public <T> Reply<List<T>> postForList(String path, Object body, Class<T> element) {
    return listReply(send(post(path, body)), element);
  }

  private HttpRequest.Builder post(String path, @Nullable Object body) {
    return request(path, Map.of())
        .header("Content-Type", JSON)
        .header("Accept", JSON)
        .POST(
            body == null
                ? HttpRequest.BodyPublishers.noBody()
                : HttpRequest.BodyPublishers.ofByteArray(MAPPER.writeValueAsBytes(body)));
  }

  /**
   * Sends events and waits until they are visible. While the service is too busy or unreachable it
   * tries again, each time after a longer pause.
   *
   * @param onRetry gets the reason before each further try
   */
  public <T> Reply<T> sendEvents(byte[] lines, Class<T> type, Consumer<String> onRetry) {
    RetryPolicy<Reply<T>> policy =
        RetryPolicy.<Reply<T>>builder()
            .handleIf(e -> e instanceof ServiceException problem && problem.isRetryable())
            .withBackoff(Duration.ofSeconds(1), Duration.ofSeconds(20))
            .withMaxAttempts(MAX_TRIES)
            .onRetry(event -> onRetry.accept(String.valueOf(event.getLastException().getMessage())))
            .build();
    try {
      return Failsafe.with(policy)
          .get(
              () ->
                  reply(
                      send(
                          request("/api/v1/lineage/batch", Map.of())
                              .header("Content-Type", "application/x-ndjson")
                              .header("Accept", JSON)
                              .header("Prefer", "wait=4")
                              .POST(HttpRequest.BodyPublishers.ofByteArray(lines))),
                      type));
    } catch (FailsafeException e) {
      throw new ServiceException(ServiceException.NOT_REACHABLE, "interrupted");
    }
  }

  /** Changes what a path and its parameters name, by PUT or PATCH, with a value as JSON. */
  public JsonNode change(
      String method, String path, Map<String, ? extends @Nullable Object> parameters, Object body) {
    String answer =
        send(
            request(path, parameters)
                .header("Content-Type", JSON)
                .header("Accept", JSON)
                .method(
                    method,
                    HttpRequest.BodyPublishers.ofByteArray(MAPPER.writeValueAsBytes(body))));
    return answer.isBlank() ? MAPPER.createObjectNode() : MAPPER.readTree(answer);
  }

  /** Puts the bytes of a JSON document as they are. */
  public <T> Reply<T> put(
      String path, Map<String, ? extends @Nullable Object> parameters, byte[] body, Class<T> type) {
    return reply(
        send(
            request(path, parameters)
                .header("Content-Type", JSON)
                .header("Accept", JSON)
                .PUT(HttpRequest.BodyPublishers.ofByteArray(body))),
        type);
  }

  /** Deletes what a path names. */
  public void delete(String path) {
    delete(path, Map.of());
  }

  /** Deletes what a path and its parameters name. */
  public void delete(String path, Map<String, ? extends @Nullable Object> parameters) {
    send(request(path, parameters).DELETE());
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
      request = HttpRequest.newBuilder(URI.create(url.toString())).timeout(TIMEOUT);
    } catch (IllegalArgumentException e) {
      throw new ServiceException(
          ServiceException.NOT_REACHABLE,
          "'" + base + "' is not the address of a service; write http://host:port");
    }
    return token.isEmpty() ? request : request.header("Authorization", "Bearer " + token);
  }

  private String send(HttpRequest.Builder request) {
    return new String(sendForBytes(request), StandardCharsets.UTF_8);
  }

  private byte[] sendForBytes(HttpRequest.Builder request) {
    try {
      HttpResponse<byte[]> answer =
          http.send(request.build(), HttpResponse.BodyHandlers.ofByteArray());
      if (answer.statusCode() / 100 == 2) {
        return answer.body();
      }
      String body = new String(answer.body(), StandardCharsets.UTF_8);
      throw ServiceException.of(answer.statusCode(), problem(body));
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
          "the connection to " + base + " broke: " + e.getMessage());
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ServiceException(ServiceException.NOT_REACHABLE, "interrupted");
    }
  }

  private static @Nullable JsonNode problem(String body) {
    try {
      return body.isBlank() ? null : MAPPER.readTree(body);
    } catch (JacksonException e) {
      return null;
    }
  }

  private <T> Reply<T> reply(String body, Class<T> type) {
    try {
      JsonNode json = MAPPER.readTree(body);
      return new Reply<>(json, MAPPER.treeToValue(json, type));
    } catch (JacksonException e) {
      throw foreign();
    }
  }

  private <T> Reply<List<T>> listReply(String body, Class<T> element) {
    try {
      JsonNode json = MAPPER.readTree(body);
      return new Reply<>(
          json,
          MAPPER
              .readerForListOf(element)
              .readValue(json.isArray() ? json : MAPPER.createArrayNode()));
    } catch (JacksonException e) {
      throw foreign();
    }
  }

  private ServiceException foreign() {
    return new ServiceException(
        ServiceException.REFUSED, "what answers at " + base + " is not this service");
  }
}
