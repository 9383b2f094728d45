package longthread.demo;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.JsonNodeFactory;
import tools.jackson.databind.node.ObjectNode;

/**
 * Brings the stand-ins' events to the service: those of the orchestrator and its like by the
 * emitter for Java programs, in batches; what is to be seen at once, or is no plain event, by a
 * request of its own.
 */
final class Emitter {
  private static final String SPEC = "https://openlineage.io/spec/2-0-2/OpenLineage.json#/$defs/";
  private static final String FACETS = "https://openlineage.io/spec/facets/1-0-0/";
  private static final int TRIES = 3;

  private final HttpClient http =
      HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(5)).build();
  private final JsonMapper json = new JsonMapper();
  private final URI endpoint;
  private final URI workspaces;
  private final String token;
  private final longthread.emitter.Emitter outbox;
  private final List<String> problems = new CopyOnWriteArrayList<>();
  private int sent;

  /**
   * An emitter to a service.
   *
   * @param spool keeps what cannot be sent
   */
  Emitter(String service, String token, Path spool) {
    this.outbox =
        longthread.emitter.Emitter.to(service, token)
            .spool(spool)
            .timeout(Duration.ofSeconds(5))
            .onProblem(problems::add)
            .start();
    this.endpoint = URI.create(service + "/api/v1/lineage");
    this.workspaces = URI.create(service + "/api/v1/workspaces");
    this.token = token;
  }

  /** An event of the given kind (RunEvent, JobEvent, DatasetEvent) that happened then. */
  static ObjectNode event(String kind, Instant at, String producer) {
    ObjectNode event = JsonNodeFactory.instance.objectNode();
    event.put("eventTime", at.atOffset(ZoneOffset.UTC).toString());
    event.put("producer", producer);
    event.put("schemaURL", SPEC + kind);
    return event;
  }

  /** Adds an empty facet with its two required members. */
  static ObjectNode facet(ObjectNode facets, String key, String producer) {
    String type = Character.toUpperCase(key.charAt(0)) + key.substring(1) + "Facet.json";
    return facets.putObject(key).put("_producer", producer).put("_schemaURL", FACETS + type);
  }

  static void owner(ObjectNode facets, @Nullable String owner, String producer) {
    if (owner != null && !owner.isBlank()) {
      ArrayNode owners = facet(facets, "ownership", producer).putArray("owners");
      owners.addObject().put("name", owner).put("type", "OWNER");
    }
  }

  void send(ObjectNode event) {
    outbox.send(json.writeValueAsString(event));
    sent++;
  }

  /**
   * Waits until all events so far are at the service.
   *
   * @throws IllegalStateException if any was refused or could not be sent
   */
  void flush() {
    boolean all = outbox.flush(Duration.ofMinutes(2));
    if (!all || !problems.isEmpty()) {
      throw new IllegalStateException("events did not arrive: " + problems);
    }
  }

  /** Sends an event as its text stands, such as one that has a member twice. */
  void send(String event) {
    send(event.getBytes(StandardCharsets.UTF_8), false);
  }

  /** Sends and waits until queries show it. */
  void sendAndSee(ObjectNode event) {
    send(event, true);
  }

  private void send(ObjectNode event, boolean see) {
    send(json.writeValueAsBytes(event), see);
  }

  /** Puts a description of a workspace in the place of the one before, and waits as above. */
  void describe(byte[] description) {
    flush();
    send(
        request(workspaces)
            .PUT(HttpRequest.BodyPublishers.ofByteArray(description))
            .header("Prefer", "wait=4"));
  }

  private void send(byte[] event, boolean see) {
    flush(); // in the order in which they were sent
    HttpRequest.Builder request =
        request(endpoint).POST(HttpRequest.BodyPublishers.ofByteArray(event));
    if (see) {
      request.header("Prefer", "wait=4");
    }
    send(request);
  }

  private HttpRequest.Builder request(URI address) {
    return HttpRequest.newBuilder(address)
        .timeout(Duration.ofSeconds(20))
        .header("Content-Type", "application/json; charset=UTF-8")
        .header("Authorization", "Bearer " + token);
  }

  private void send(HttpRequest.Builder request) {
    for (int attempt = 1; ; attempt++) {
      try {
        HttpResponse<String> answer =
            http.send(request.build(), HttpResponse.BodyHandlers.ofString());
        if (answer.statusCode() / 100 == 2) {
          sent++;
          return;
        }
        boolean busy = answer.statusCode() == 503 || answer.statusCode() == 429;
        if (!busy || attempt == TRIES) {
          throw new IllegalStateException(
              "the service answered " + answer.statusCode() + ": " + answer.body());
        }
        Thread.sleep(1_000);
      } catch (IOException e) {
        throw new IllegalStateException("the service at " + endpoint + " cannot be reached", e);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        throw new IllegalStateException("interrupted", e);
      }
    }
  }

  int sent() {
    return sent;
  }
}
