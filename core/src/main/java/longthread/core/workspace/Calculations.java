package longthread.core.workspace;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.lineage.Flow;
import longthread.core.sql.Dialect;
import longthread.core.sql.Functions;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.KnownTables;
import longthread.core.sql.SqlReader;
import longthread.core.sql.SqlStatement;
import tools.jackson.databind.JsonNode;

/** Which fields of a model its calculated fields are made of. */
final class Calculations {
  /**
   * The time is one that no expression of this length and nesting takes, so that the answer depends
   * on the text alone.
   */
  private static final SqlReader.Limits LIMITS =
      new SqlReader.Limits(Duration.ofSeconds(30), 30, 20_000);

  private static final SqlReader READER = new SqlReader(new Functions(Set.of()), LIMITS);
  private static final String TABLE = "model";

  /**
   * The use of a field by a calculation.
   *
   * @param flow type and subtype of the standard
   */
  record Use(String field, List<String> flow, boolean isMasked) {}

  private final KnownTables tables;

  Calculations(JsonNode model) {
    var columns = new ArrayList<KnownColumn>();
    for (JsonNode field : model.path("fields")) {
      columns.add(
          new KnownColumn(
              field.path("name").stringValue(""), field.path("type").stringValue(null)));
    }
    tables = new KnownTables(Map.of(TABLE, columns), List.of());
  }

  /** The uses of other fields in one: read out of its SQL, else those that it lists. */
  List<Use> of(JsonNode field) {
    var uses = new ArrayList<Use>();
    if (field.has("sql")) {
      String query = "select " + field.path("sql").stringValue("") + " as calculated from " + TABLE;
      for (SqlStatement statement : READER.read(query, Dialect.ANSI, tables)) {
        for (SqlStatement.Output output : statement.outputs()) {
          output.direct().forEach(source -> add(uses, source, field));
          output.indirect().forEach(source -> add(uses, source, field));
        }
      }
    }
    if (uses.isEmpty()) {
      String subtype =
          field.path("aggregates").booleanValue(false) ? "AGGREGATION" : "TRANSFORMATION";
      for (JsonNode used : field.path("uses")) {
        uses.add(new Use(used.stringValue(""), List.of("DIRECT", subtype), false));
      }
    }
    return uses;
  }

  private static void add(List<Use> uses, SqlStatement.Source source, JsonNode field) {
    if (!source.table().equals(TABLE)
        || source.column().equals(field.path("name").stringValue(""))) {
      return; // not of the model, or itself
    }
    Flow flow = source.flow();
    boolean direct = flow.group() == Flow.Group.DIRECT;
    uses.add(
        new Use(
            source.column(),
            List.of(direct ? "DIRECT" : "INDIRECT", flow.name()),
            source.masked()));
  }
}
