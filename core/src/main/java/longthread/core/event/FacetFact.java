package longthread.core.event;

import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.json.LazyJson;
import tools.jackson.databind.JsonNode;

/**
 * A facet as one event carried it. Of all facts with the same subject and key the one with the
 * greatest event time, and of equal times the greatest digest, is the current one.
 *
 * @param digest SHA-256 of the value with sorted members, in hex
 * @param json the value, read when it is asked for
 */
public record FacetFact(Subject subject, String key, EventTime at, String digest, LazyJson json) {
  /** The schema of a dataset, as whoever writes it or the dataset itself reports it. */
  public static final String SCHEMA = "schema";

  /**
   * The key under which the schema is kept that a run reported of what it reads: often only the
   * columns that it asked for, so it stands apart from that of the writers.
   */
  public static final String READ_SCHEMA = "schema (as read)";

  public FacetFact(Subject subject, String key, EventTime at, String digest, JsonNode value) {
    this(subject, key, at, digest, LazyJson.of(value));
  }

  public JsonNode value() {
    return json.tree();
  }

  /** Whether a facet is a schema, whoever reported it. */
  public static boolean isSchema(String key) {
    return key.equals(SCHEMA) || key.equals(READ_SCHEMA);
  }

  /**
   * Whether a facet says nothing at all. Some engines send a schema with an empty list of fields
   * where they do not know them: that never wipes columns, only taking the facet away does.
   */
  public static boolean tellsNothing(String key, JsonNode value) {
    return isSchema(key)
        && value.path("fields").isEmpty()
        && !value.path("_deleted").booleanValue(false);
  }

  FacetFact withKey(String other) {
    return new FacetFact(subject, other, at, digest, json);
  }

  /** What a facet is about. */
  public sealed interface Subject {}

  public record OfDataset(DatasetName dataset) implements Subject {}

  public record OfJob(JobName job) implements Subject {}

  public record OfRun(UUID run, JobName job) implements Subject {}

  /** This run's reading or writing of a dataset. */
  public record OfRunDataset(UUID run, JobName job, DatasetName dataset, boolean output)
      implements Subject {}
}
