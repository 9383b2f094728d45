package longthread.core.change;

import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * A planned change as it is written down.
 *
 * @param planned when it is to be made; null if that is open
 */
public record ChangeDocument(
    String title,
    @Nullable String reason,
    @Nullable String author,
    @Nullable Instant planned,
    List<Step> steps) {
  /** How documents of this version begin. */
  public static final String FORMAT = "longthread-change/1";

  private static final DocumentReader READER =
      new DocumentReader(ChangeDocument.class, "planned-change.json");

  /**
   * One step.
   *
   * @param change drop, rename, retype, values, rows or delay
   * @param of the reference of what changes
   * @param to the new name or type; null where there is none
   */
  public record Step(String change, String of, @Nullable String to) {}

  public ChangeDocument {
    steps = List.copyOf(steps);
  }

  /** The JSON Schema of documents, as text. */
  public static String schema() {
    return READER.schema();
  }

  /**
   * Returns the change in a document, which is YAML or JSON.
   *
   * @throws BadDocumentException with each place that is wrong
   */
  public static ChangeDocument read(String document) throws BadDocumentException {
    JsonNode root = READER.read(document);
    var steps = new ArrayList<Step>();
    for (JsonNode step : root.path("steps")) {
      steps.add(
          new Step(
              step.path("change").stringValue(""),
              step.path("of").stringValue(""),
              text(step, "to")));
    }
    String planned = text(root, "planned");
    return new ChangeDocument(
        root.path("title").stringValue(""),
        text(root, "reason"),
        text(root, "author"),
        planned == null ? null : OffsetDateTime.parse(planned).toInstant(),
        steps);
  }

  private static @Nullable String text(JsonNode node, String member) {
    return node.path(member).stringValue(null);
  }
}
