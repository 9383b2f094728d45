package longthread.core.event;

import java.util.TreeSet;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** Shapes as JSON text and back; equal shapes have equal text. */
public final class ShapeText {
  private ShapeText() {}

  public static String write(Shape shape) {
    ObjectNode root = CanonicalJson.MAPPER.createObjectNode();
    ArrayNode inputs = root.putArray("inputs");
    shape.inputs().forEach(name -> inputs.add(name.reference()));
    ArrayNode outputs = root.putArray("outputs");
    shape.outputs().forEach(name -> outputs.add(name.reference()));
    ArrayNode columns = root.putArray("columns");
    for (ColumnLink link : shape.columns()) {
      columns
          .addArray()
          .add(link.from().reference())
          .add(link.to().reference())
          .add(link.flow().name())
          .add(link.masking());
    }
    ArrayNode described = root.putArray("described");
    shape.described().forEach(column -> described.add(column.reference()));
    if (!shape.told().isEmpty()) {
      ArrayNode told = root.putArray("told");
      shape.told().forEach(name -> told.add(name.reference()));
    }
    root.put("gap", shape.gap());
    return CanonicalJson.text(root);
  }

  public static Shape read(String text) {
    JsonNode root = CanonicalJson.MAPPER.readTree(text);
    var inputs = new TreeSet<DatasetName>();
    root.path("inputs").forEach(name -> inputs.add(DatasetName.parse(name.stringValue())));
    var outputs = new TreeSet<DatasetName>();
    root.path("outputs").forEach(name -> outputs.add(DatasetName.parse(name.stringValue())));
    var columns = new TreeSet<ColumnLink>();
    for (JsonNode link : root.path("columns")) {
      columns.add(
          new ColumnLink(
              ColumnName.parse(link.get(0).stringValue()),
              ColumnName.parse(link.get(1).stringValue()),
              Flow.valueOf(link.get(2).stringValue()),
              link.get(3).booleanValue()));
    }
    var described = new TreeSet<ColumnName>();
    root.path("described").forEach(name -> described.add(ColumnName.parse(name.stringValue())));
    var told = new TreeSet<DatasetName>();
    root.path("told").forEach(name -> told.add(DatasetName.parse(name.stringValue())));
    return new Shape(inputs, outputs, columns, described, told, root.path("gap").booleanValue());
  }
}
