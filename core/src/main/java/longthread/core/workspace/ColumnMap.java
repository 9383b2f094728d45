package longthread.core.workspace;

import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.asset.DatasetName;
import longthread.core.json.CanonicalJson;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** The column map of one output, as its facet of the standard has it. */
final class ColumnMap {
  private static final Map<String, List<String>> FLOWS =
      Map.of(
          "copied", List.of("DIRECT", "IDENTITY"),
          "computed", List.of("DIRECT", "TRANSFORMATION"),
          "aggregated", List.of("DIRECT", "AGGREGATION"),
          "masked", List.of("DIRECT", "TRANSFORMATION"));

  private final ObjectNode facet = CanonicalJson.MAPPER.createObjectNode();
  private final ObjectNode fields;
  private final ArrayNode rows;
  private final Set<DatasetName> named = new HashSet<>();

  ColumnMap(String producer) {
    facet.put("_producer", producer).put("_schemaURL", WorkspaceEvents.SCHEMA_URL);
    fields = facet.putObject("fields");
    rows = facet.putArray("dataset");
  }

  final class Field {
    private final ArrayNode sources;

    Field(ArrayNode sources) {
      this.sources = sources;
    }

    void add(DatasetName from, String field, String how) {
      add(from, field, FLOWS.get(how), how.equals("masked"));
    }

    void add(DatasetName own, Calculations.Use use) {
      add(own, use.field(), use.flow(), use.isMasked());
    }

    private void add(DatasetName from, String field, List<String> flow, boolean masking) {
      ObjectNode source = sources.addObject();
      WorkspaceEvents.name(source, from);
      named.add(from);
      source.put("field", field);
      source
          .putArray("transformations")
          .addObject()
          .put("type", flow.get(0))
          .put("subtype", flow.get(1))
          .put("masking", masking);
    }
  }

  Field field(String name) {
    JsonNode known = fields.path(name).path("inputFields");
    return new Field(
        known.isArray() ? (ArrayNode) known : fields.putObject(name).putArray("inputFields"));
  }

  /** A field that decides which rows there are. */
  void rows(DatasetName from, String subtype, String field) {
    ObjectNode source = rows.addObject();
    WorkspaceEvents.name(source, from);
    named.add(from);
    source.put("field", field);
    source.putArray("transformations").addObject().put("type", "INDIRECT").put("subtype", subtype);
  }

  /** A source of which no field is known to be used: it feeds the whole. */
  void coarseUnlessNamed(DatasetName from) {
    if (named.add(from)) {
      WorkspaceEvents.name(rows.addObject(), from);
    }
  }

  ObjectNode facet() {
    return facet;
  }
}
