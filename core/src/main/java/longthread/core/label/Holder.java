package longthread.core.label;

import java.util.List;

/**
 * What policies ask of an asset that holds labelled data.
 *
 * @param kind such as table or report
 * @param workspace the title of its workspace; empty where it is in none
 * @param audience who may read it, as its own source says; empty where that says nothing
 * @param locations its namespace, and what a tag {@code location} says
 */
public record Holder(
    String kind, String system, String workspace, List<String> audience, List<String> locations) {
  public Holder {
    audience = List.copyOf(audience);
    locations = List.copyOf(locations);
  }
}
