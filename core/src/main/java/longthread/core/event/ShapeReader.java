package longthread.core.event;

import java.util.TreeSet;
import java.util.function.Consumer;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Gathers the lineage of one event: its lists and the facets that hold column maps. */
final class ShapeReader {
  private final TreeSet<DatasetName> inputs = new TreeSet<>();
  private final TreeSet<DatasetName> outputs = new TreeSet<>();
  private final TreeSet<ColumnLink> columns = new TreeSet<>();
  private final TreeSet<ColumnName> described = new TreeSet<>();
  private boolean gap;

  void reads(DatasetName name) {
    inputs.add(name);
  }

  void writes(DatasetName name) {
    outputs.add(name);
  }

  void sawGap() {
    gap = true;
  }

  Shape shape() {
    return new Shape(inputs, outputs, columns, described, gap);
  }

  /** The columnLineage facet of {@code output}, in its new and its old style. */
  void columnLineage(DatasetName output, JsonNode facet) {
    if (!facet.path("fields").isObject()) {
      return;
    }
    for (var field : facet.path("fields").properties()) {
      ColumnName to = column(output, field.getKey());
      described.add(to);
      JsonNode oldStyle = field.getValue();
      for (JsonNode source : oldStyle.path("inputFields")) {
        link(source, "field", output, to, oldStyle);
      }
    }
    for (JsonNode source : facet.path("dataset")) {
      link(source, "field", output, null, source);
    }
  }

  /** The newer lineage facet of {@code output}: sources of the whole set and of its columns. */
  void lineage(DatasetName output, JsonNode facet) {
    for (JsonNode source : facet.path("inputs")) {
      link(source, "field", output, null, source);
    }
    if (facet.path("fields").isObject()) {
      for (var field : facet.path("fields").properties()) {
        ColumnName to = column(output, field.getKey());
        described.add(to);
        for (JsonNode source : field.getValue().path("inputs")) {
          link(source, "field", output, to, source);
        }
      }
    }
  }

  /** The charts that a report or dashboard holds; their fields appear as {@code chart.field}. */
  void holds(DatasetName holder, JsonNode facet) {
    for (JsonNode item : facet.path("items")) {
      if (!item.path("namespace").isString() || !item.path("name").isString()) {
        continue;
      }
      var held =
          new DatasetName(item.path("namespace").stringValue(), item.path("name").stringValue());
      inputs.add(held);
      outputs.add(holder);
      String as = item.path("as").stringValue(lastPart(held.name()));
      columns.add(
          new ColumnLink(ColumnName.rowsOf(held), ColumnName.rowsOf(holder), Flow.HOLDS, false));
      for (JsonNode field : item.path("fields")) {
        if (field.isString() && !field.stringValue().isEmpty()) {
          ColumnName to = column(holder, as + "." + field.stringValue());
          described.add(to);
          columns.add(new ColumnLink(column(held, field.stringValue()), to, Flow.HOLDS, false));
        }
      }
    }
  }

  private static String lastPart(String name) {
    return name.substring(name.lastIndexOf('/') + 1);
  }

  private void link(
      JsonNode source,
      String member,
      DatasetName output,
      @Nullable ColumnName to,
      JsonNode oldStyle) {
    if (!source.path("namespace").isString()
        || !source.path("name").isString()
        || "JOB".equals(source.path("type").stringValue(""))) {
      return;
    }
    var from =
        new DatasetName(source.path("namespace").stringValue(), source.path("name").stringValue());
    // Sources may be missing from the event's own list of inputs: they are inputs all the same.
    inputs.add(from);
    outputs.add(output);
    ColumnName column =
        source.path(member).isString() && !source.path(member).stringValue().isEmpty()
            ? column(from, source.path(member).stringValue())
            : ColumnName.rowsOf(from);
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
    if (flow.group() == Flow.Group.DECIDES_ROWS) {
      // Repeated at every field or told once for the set: it decides the rows, once.
      columns.add(new ColumnLink(from, rows, flow, false));
    } else if (to == null) {
      columns.add(new ColumnLink(from, rows, Flow.COARSE, masking));
    } else if (from.isRows()) {
      columns.add(new ColumnLink(from, to, Flow.ROWS_TO_VALUE, masking));
    } else {
      columns.add(new ColumnLink(from, to, flow, masking));
    }
  }

  /** A column by the path an emitter writes: dots part the segments of a struct. */
  private static ColumnName column(DatasetName dataset, String path) {
    if (path.indexOf('.') < 0) {
      return ColumnName.of(dataset, path);
    }
    var encoded = new StringBuilder();
    for (String segment : path.split("\\.", -1)) {
      encoded.append(encoded.isEmpty() ? "" : ".");
      encoded.append(longthread.core.asset.Reference.encodeSegment(segment));
    }
    return new ColumnName(dataset, encoded.toString());
  }
}
