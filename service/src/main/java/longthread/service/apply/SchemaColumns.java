package longthread.service.apply;

import java.util.ArrayList;
import java.util.List;
import longthread.core.sql.KnownColumn;
import tools.jackson.databind.JsonNode;

/** The columns that a schema facet lists, as the reading of SQL wants them. */
public final class SchemaColumns {
  private SchemaColumns() {}

  /** The columns in order; the fields within a struct are left to its own column. */
  public static List<KnownColumn> of(JsonNode schema) {
    var columns = new ArrayList<KnownColumn>();
    for (JsonNode field : schema.path("fields")) {
      String name = field.path("name").stringValue("");
      if (!name.isEmpty()) {
        columns.add(new KnownColumn(name, field.path("type").stringValue(null)));
      }
    }
    return columns;
  }
}
