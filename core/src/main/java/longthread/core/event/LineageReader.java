package longthread.core.event;

import java.util.TreeSet;
import java.util.function.Consumer;
import longthread.core.asset.BadNameException;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.ReportedLineage;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Gathers the lineage of one event: its lists and the facets that hold column maps. */
final class LineageReader {
  private final TreeSet<DatasetName> inputs = new TreeSet<>();
  private final TreeSet<DatasetName> outputs = new TreeSet<>();
  private final TreeSet<ColumnLink> columns = new TreeSet<>();
  private final TreeSet<ColumnName> described = new TreeSet<>();
  private final TreeSet<DatasetName> detailed = new TreeSet<>();
  private boolean gap;

  /** The dataset that a node names; null if it names none that can be kept. */
  static @Nullable DatasetName dataset(JsonNode node) {
    if (!node.path("namespace").isString() || !node.path("name").isString()) {
      return null;
    }
    try {
      var name =
          new DatasetName(node.path("namespace").stringValue(), node.path("name").stringValue());
      return EventReader.fits(name) ? name : null;
    } catch (BadNameException e) {
      return null;
    }
  }

  /** The job that a node names; null if it names none that can be kept. */
  static @Nullable JobName job(JsonNode node) {
    if (!node.path("namespace").isString() || !node.path("name").isString()) {
      return null;
    }
    try {
      var name = new JobName(node.path("namespace").stringValue(), node.path("name").stringValue());
      return EventReader.fits(name) ? name : null;
    } catch (BadNameException e) {
      return null;
    }
  }

  void reads(DatasetName name) {
    inputs.add(name);
  }

  void writes(DatasetName name) {
    outputs.add(name);
  }

  void sawGap() {
    gap = true;
  }

  ReportedLineage lineage() {
    return new ReportedLineage(inputs, outputs, columns, described, detailed, gap);
  }

  /** One of the facets by which a dataset reports where its data comes from. */
  void facet(DatasetName output, String key, JsonNode facet) {
    switch (key) {
      case "columnLineage" -> columnLineage(output, facet);
      case "lineage" -> lineage(output, facet);
      case "longthread_holds" -> holds(output, facet);
      default -> throw new IllegalArgumentException(key + " reports no lineage");
    }
  }

  /** Whether a lineage facet says anything, be it that there are no sources. */
  static boolean isStated(JsonNode facet) {
    return facet.has("fields") || facet.has("inputs") || facet.has("items");
  }

  /** The columnLineage facet of {@code output}, in its new and its old style. */
  private void columnLineage(DatasetName output, JsonNode facet) {
    if (!facet.path("fields").isObject()) {
      return;
    }
    for (var field : facet.path("fields").properties()) {
      ColumnName to = target(output, field.getKey());
      JsonNode oldStyle = field.getValue();
      for (JsonNode source : oldStyle.path("inputFields")) {
        link(source, output, to, oldStyle);
      }
    }
    for (JsonNode source : facet.path("dataset")) {
      link(source, output, null, source);
    }
  }

  /**
   * The newer lineage facet of {@code output}: sources of the whole set and of its columns. It says
   * which inputs feed this output, so others of the same event do not.
   */
  private void lineage(DatasetName output, JsonNode facet) {
    if (!facet.has("inputs") && !facet.has("fields")) {
      return;
    }
    detailed.add(output);
    for (JsonNode source : facet.path("inputs")) {
      link(source, output, null, source);
    }
    if (facet.path("fields").isObject()) {
      for (var field : facet.path("fields").properties()) {
        ColumnName to = target(output, field.getKey());
        for (JsonNode source : field.getValue().path("inputs")) {
          link(source, output, to, source);
        }
      }
    }
  }

  /** The lineage facet of a job: for each of its targets, that target's own sources. */
  void jobLineage(JobName job, JsonNode facet) {
    for (JsonNode entry : facet.path("entries")) {
      if ("JOB".equals(entry.path("type").stringValue(""))) {
        if (job.equals(job(entry))) {
          for (JsonNode source : entry.path("inputs")) {
            DatasetName read = isJob(source) ? null : dataset(source);
            if (read != null) {
              inputs.add(read);
            }
          }
        }
        continue;
      }
      DatasetName output = dataset(entry);
      if (output == null) {
        gap = true;
      } else {
        outputs.add(output);
        lineage(output, entry);
      }
    }
  }

  static boolean isJob(JsonNode source) {
    return "JOB".equals(source.path("type").stringValue(""));
  }

  /** The charts that a report or dashboard holds; their fields appear as {@code chart.field}. */
  void holds(DatasetName holder, JsonNode facet) {
    for (JsonNode item : facet.path("items")) {
      DatasetName held = dataset(item);
      if (held == null) {
        gap = true;
        continue;
      }
      inputs.add(held);
      outputs.add(holder);
      String as = item.path("as").stringValue(lastPart(held.name()));
      columns.add(
          new ColumnLink(ColumnName.rowsOf(held), ColumnName.rowsOf(holder), Flow.HOLDS, false));
      for (JsonNode field : item.path("fields")) {
        ColumnName from = field.isString() ? column(held, field.stringValue()) : null;
        ColumnName to = from == null ? null : target(holder, as + "." + field.stringValue());
        if (from != null && to != null) {
          columns.add(new ColumnLink(from, to, Flow.HOLDS, false));
        }
      }
    }
  }

  private static String lastPart(String name) {
    return name.substring(name.lastIndexOf('/') + 1);
  }

  /** A column that an entry reports the sources of; null, and a gap, if its name cannot be kept. */
  private @Nullable ColumnName target(DatasetName output, String path) {
    ColumnName to = column(output, path);
    if (to == null) {
      gap = true;
    } else {
      described.add(to);
    }
    return to;
  }

  private void link(
      JsonNode source, DatasetName output, @Nullable ColumnName to, JsonNode oldStyle) {
    if (isJob(source)) {
      return;
    }
    DatasetName from = dataset(source);
    String field = source.path("field").stringValue("");
    ColumnName column =
        from == null ? null : field.isEmpty() ? ColumnName.rowsOf(from) : column(from, field);
    if (from == null || column == null) {
      // A name that no catalog can keep: the rest of the event stands, its lineage is incomplete.
      gap = true;
      return;
    }
    // Sources may be missing from the event's own list of inputs: they are inputs all the same.
    inputs.add(from);
    outputs.add(output);
    transformations(source, oldStyle, (transformation) -> add(column, output, to, transformation));
  }

  private record Transformation(Flow flow, boolean masking) {}

  private static void transformations(
      JsonNode source, JsonNode oldStyle, Consumer<Transformation> each) {
    JsonNode list = source.path("transformations");
    boolean any = false;
    for (JsonNode node : list) {
      var flow =
          Flow.ofTransformation(
              node.path("type").stringValue(""), node.path("subtype").stringValue(""));
      each.accept(
          new Transformation(flow.orElse(Flow.DIRECT), node.path("masking").booleanValue(false)));
      any = true;
    }
    if (!any) {
      String old = oldStyle.path("transformationType").stringValue("");
      each.accept(
          switch (old) {
            case "IDENTITY" -> new Transformation(Flow.IDENTITY, false);
            case "MASKED" -> new Transformation(Flow.TRANSFORMATION, true);
            default -> new Transformation(Flow.DIRECT, false);
          });
    }
  }

  private void add(
      ColumnName from, DatasetName output, @Nullable ColumnName to, Transformation how) {
    Flow flow = how.flow();
    boolean masking = how.masking();
    ColumnName rows = ColumnName.rowsOf(output);
    if (flow == Flow.READS) {
      columns.add(new ColumnLink(from, rows, Flow.READS, false));
    } else if (flow.group() == Flow.Group.DECIDES_ROWS) {
      // Repeated at every field or reported once for the set: it decides the rows, once.
      columns.add(new ColumnLink(from, rows, from.isRows() ? Flow.ROWS : flow, false));
    } else if (to == null) {
      columns.add(new ColumnLink(from, rows, Flow.COARSE, masking));
    } else if (from.isRows()) {
      columns.add(new ColumnLink(from, to, Flow.ROWS_TO_VALUE, masking));
    } else {
      columns.add(new ColumnLink(from, to, flow, masking));
    }
  }

  /** A column by the path an emitter writes: dots part the segments of a struct. */
  private static @Nullable ColumnName column(DatasetName dataset, String path) {
    try {
      return ColumnName.ofPath(dataset, path).shared();
    } catch (BadNameException e) {
      return null;
    }
  }
}
