package longthread.client;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Asks the service what changes do. */
final class ServiceJudge implements GateJudge {
  private static final int MAX_ITEMS = 1_000;
  private static final String NO_LINEAGE = "no-lineage";

  private final ServiceClient service;

  ServiceJudge(ServiceClient service) {
    this.service = service;
  }

  @Override
  public @Nullable String known(String name) {
    try {
      return service
          .get("/api/v1/graph", Map.of("ref", name, "hops", 0, "limit", 1), JsonNode.class)
          .json()
          .path("focus")
          .path("ref")
          .stringValue(null);
    } catch (ServiceException e) {
      if (e.exitCode() != ServiceException.NOT_FOUND || e.isAmbiguous()) {
        throw e;
      }
      return null;
    }
  }

  @Override
  public Answer judge(List<GateReport.Step> steps) throws NoLineageException {
    var changes = new ArrayList<Map<String, String>>();
    for (GateReport.Step step : steps) {
      changes.add(
          step.to().isEmpty()
              ? Map.of("change", step.change(), "of", step.ref())
              : Map.of("change", step.change(), "of", step.ref(), "to", step.to()));
    }
    JsonNode answer;
    try {
      answer =
          service
              .post("/api/v1/impact?limit=" + MAX_ITEMS, Map.of("steps", changes), JsonNode.class)
              .json();
    } catch (ServiceException e) {
      if (e.type().equals(NO_LINEAGE)) {
        throw new NoLineageException(String.valueOf(e.getMessage()));
      }
      throw e;
    }
    var refs = new ArrayList<String>();
    answer.path("changes").forEach(change -> refs.add(change.path("ref").stringValue("")));
    var items = new ArrayList<Touched>();
    answer.path("items").forEach(item -> items.add(touched(item)));
    return new Answer(refs, items, answer.path("total").intValue(items.size()));
  }

  private static Touched touched(JsonNode item) {
    var thread = new ArrayList<String>();
    for (JsonNode hop : item.path("thread")) {
      if (thread.isEmpty()) {
        thread.add(hop.path("from").stringValue(""));
      }
      thread.add(hop.path("to").stringValue(""));
    }
    return new Touched(
        item.path("ref").stringValue(""),
        item.path("kind").stringValue(""),
        item.path("name").stringValue(""),
        item.path("system").stringValue(""),
        item.path("verdict").stringValue(""),
        item.path("certainty").stringValue(""),
        item.path("hops").intValue(),
        strings(item.path("owners")),
        strings(item.path("labels")),
        thread,
        item.path("url").stringValue(""));
  }

  private static List<String> strings(JsonNode list) {
    var strings = new LinkedHashSet<String>();
    list.forEach(one -> strings.add(one.stringValue("")));
    return List.copyOf(strings);
  }

  @Override
  public boolean isRead(String asset) {
    Map<String, Object> near =
        Map.of("ref", asset, "direction", "downstream", "hops", 1, "limit", 2);
    return service.get("/api/v1/graph", near, JsonNode.class).json().path("nodes").size() > 1;
  }

  @Override
  public List<String> notes() {
    return List.of();
  }
}
