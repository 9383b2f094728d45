package longthread.emitter;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Sends batches of events to a service over HTTP. */
final class Sender {
  /** An event that the service cannot take, and why. */
  record Refused(String event, String reason) {}

  /**
   * What became of a batch.
   *
   * @param delivered whether the service has it, refused events among it; else it is to be sent
   *     again
   * @param problem why it was not delivered; empty if it was
   */
  record Outcome(boolean delivered, int accepted, List<Refused> refused, String problem) {
    static Outcome failed(String problem) {
      return new Outcome(false, 0, List.of(), problem);
    }
  }

  private static final JsonMapper JSON = new JsonMapper();

  private final HttpClient http;
  private final URI batch;
  private final String key;
  private final Duration timeout;

  Sender(String service, String key, Duration timeout) {
    this.http = HttpClient.newBuilder().connectTimeout(timeout).build();
    this.batch = URI.create(service.replaceAll("/+$", "") + "/api/v1/lineage/batch");
    this.key = key;
    this.timeout = timeout;
  }

  Outcome send(List<String> events) {
    if (events.isEmpty()) {
      return new Outcome(true, 0, List.of(), "");
    }
    HttpRequest request =
        HttpRequest.newBuilder(batch)
            .timeout(timeout.multipliedBy(5))
            .header("Content-Type", "application/x-ndjson")
            .header("Authorization", "Bearer " + key)
            .POST(HttpRequest.BodyPublishers.ofString(String.join("\n", events)))
            .build();
    try {
      HttpResponse<String> answer = http.send(request, HttpResponse.BodyHandlers.ofString());
      return answer.statusCode() == 200
          ? outcome(events, answer.body())
          : Outcome.failed("the service answered " + answer.statusCode() + ": " + detail(answer));
    } catch (IOException e) {
      return Outcome.failed("the service at " + batch + " cannot be reached: " + e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      return Outcome.failed("interrupted");
    }
  }

  private static Outcome outcome(List<String> events, String body) {
    try {
      JsonNode answer = JSON.readTree(body);
      var refused = new ArrayList<Refused>();
      for (JsonNode one : answer.path("refused")) {
        int index = one.path("index").intValue(-1);
        if (index >= 0 && index < events.size()) {
          refused.add(new Refused(events.get(index), one.path("reason").stringValue("")));
        }
      }
      return new Outcome(true, answer.path("accepted").intValue(0), refused, "");
    } catch (JacksonException e) {
      return Outcome.failed("this is no Long Thread service: its answer is no JSON");
    }
  }

  private static String detail(HttpResponse<String> answer) {
    try {
      return JSON.readTree(answer.body()).path("detail").stringValue("");
    } catch (JacksonException e) {
      return "";
    }
  }
}
