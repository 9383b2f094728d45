package longthread.core.lineage;

import java.util.HashMap;
import java.util.Map;
import java.util.TreeSet;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.json.CanonicalJson;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** Shapes as JSON text and back; equal lineages have equal text. */
public final class LineageText {
  private LineageText() {}

  public static String write(ReportedLineage lineage) {
    ObjectNode root = CanonicalJson.MAPPER.createObjectNode();
    ArrayNode inputs = root.putArray("inputs");
    lineage.inputs().forEach(name -> inputs.add(name.reference()));
    ArrayNode outputs = root.putArray("outputs");
    lineage.outputs().forEach(name -> outputs.add(name.reference()));
    ArrayNode columns = root.putArray("columns");
    for (ColumnLink link : lineage.columns()) {
      columns
          .addArray()
          .add(link.from().reference())
          .add(link.to().reference())
          .add(link.flow().name())
          .add(link.masking());
    }
    ArrayNode described = root.putArray("described");
    lineage.described().forEach(column -> described.add(column.reference()));
    if (!lineage.detailed().isEmpty()) {
      ArrayNode detailed = root.putArray("told"); // the name in records already stored
      lineage.detailed().forEach(name -> detailed.add(name.reference()));
    }
    root.put("gap", lineage.gap());
    return CanonicalJson.text(root);
  }

  /** A column whose dataset is one object for all columns of it. */
  private static ColumnName column(JsonNode text, Map<DatasetName, DatasetName> datasets) {
    ColumnName column = ColumnName.parseEnd(text.stringValue());
    DatasetName dataset =
        datasets.computeIfAbsent(column.dataset(), name -> column.dataset().shared());
    return new ColumnName(dataset, column.path().intern());
  }

  public static ReportedLineage read(String text) {
    JsonNode root = CanonicalJson.MAPPER.readTree(text);
    var datasets = new HashMap<DatasetName, DatasetName>();
    var inputs = new TreeSet<DatasetName>();
    root.path("inputs").forEach(name -> inputs.add(DatasetName.parse(name.stringValue())));
    var outputs = new TreeSet<DatasetName>();
    root.path("outputs").forEach(name -> outputs.add(DatasetName.parse(name.stringValue())));
    var columns = new TreeSet<ColumnLink>();
    for (JsonNode link : root.path("columns")) {
      columns.add(
          new ColumnLink(
              column(link.get(0), datasets),
              column(link.get(1), datasets),
              Flow.valueOf(link.get(2).stringValue()),
              link.get(3).booleanValue()));
    }
    var described = new TreeSet<ColumnName>();
    root.path("described").forEach(name -> described.add(column(name, datasets)));
    var detailed = new TreeSet<DatasetName>();
    root.path("told").forEach(name -> detailed.add(DatasetName.parse(name.stringValue())));
    return new ReportedLineage(
        inputs, outputs, columns, described, detailed, root.path("gap").booleanValue());
  }
}
