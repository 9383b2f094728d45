package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** One event opened. */
public record EventAnswer(
    @Nullable String type,
    @Nullable String job,
    @Nullable Instant eventTime,
    @Nullable Instant receivedAt,
    int bytes,
    @Nullable String body,
    @Nullable String producer,
    List<String> inputs,
    List<String> outputs,
    List<Link> links,
    List<Facet> facets,
    List<String> changed,
    List<String> warnings) {
  public EventAnswer {
    inputs = inputs == null ? List.of() : List.copyOf(inputs);
    outputs = outputs == null ? List.of() : List.copyOf(outputs);
    links = links == null ? List.of() : List.copyOf(links);
    facets = facets == null ? List.of() : List.copyOf(facets);
    changed = changed == null ? List.of() : List.copyOf(changed);
    warnings = warnings == null ? List.of() : List.copyOf(warnings);
  }

  /** A facet that it carried. */
  public record Facet(String about, String role, String key, boolean current) {}

  /** A column link that it reported. */
  public record Link(String from, String to) {}
}
