package longthread.core.asset;

import java.util.Locale;
import org.jspecify.annotations.Nullable;

/** What an asset is: a closed list. */
public enum Kind {
  TABLE,
  VIEW,
  FILE,
  TOPIC,
  DATASET,
  MODEL,
  CHART,
  REPORT,
  DASHBOARD,
  JOB,
  PIPELINE,
  /** Something that the caller may not see; no event makes an asset one. */
  RESTRICTED;

  /** The word used in the interface. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** Whether a source may say so of what it reports. */
  public boolean isReported() {
    return this != RESTRICTED;
  }

  /**
   * Whether it is made anew whenever it is read, and so fails whatever reads it while it is broken.
   */
  public boolean isLive() {
    return switch (this) {
      case VIEW, CHART, REPORT, DASHBOARD -> true;
      default -> false;
    };
  }

  private boolean isProgram() {
    return this == JOB || this == PIPELINE;
  }

  /**
   * The kind of a dataset: what its type facet says, else what its namespace's scheme is known to
   * hold, else the general {@link #DATASET}.
   */
  public static Kind ofDataset(DatasetName name, @Nullable String datasetType) {
    if (datasetType != null) {
      String word = datasetType.toUpperCase(Locale.ROOT);
      if (word.endsWith("VIEW")) {
        return VIEW;
      }
      for (Kind kind : values()) {
        if (kind.name().equals(word) && kind.isReported() && !kind.isProgram()) {
          return kind;
        }
      }
      if (word.endsWith("TABLE")) {
        return TABLE;
      }
      if (word.endsWith("STREAM")) {
        return TOPIC;
      }
    }
    int end = name.namespace().indexOf(':');
    String scheme = (end < 0 ? name.namespace() : name.namespace().substring(0, end));
    return switch (scheme.toLowerCase(Locale.ROOT)) {
      case "postgres",
          "mysql",
          "redshift",
          "sqlserver",
          "oracle",
          "db2",
          "crate",
          "trino",
          "teradata",
          "oceanbase",
          "clickhouse",
          "cassandra",
          "snowflake",
          "bigquery",
          "awsathena",
          "hive",
          "azurecosmos",
          "azurekusto" ->
          TABLE;
      case "kafka", "pubsub" -> TOPIC;
      case "file", "s3", "gs", "abfss", "wasbs", "hdfs", "dbfs" -> FILE;
      default -> DATASET;
    };
  }
}
