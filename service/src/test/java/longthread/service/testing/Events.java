package longthread.service.testing;

import java.util.UUID;

/** Events in few words, written with single quotes. */
public final class Events {
  private Events() {}

  private static String head(String at) {
    return "'eventTime':'"
        + at
        + "','producer':'https://t.example/p','schemaURL':'https://t.example/s'";
  }

  /** A run event; {@code rest} is further members, such as inputs and outputs. */
  public static String run(
      String type, String at, UUID run, String namespace, String job, String rest) {
    return "{"
        + head(at)
        + ",'eventType':'"
        + type
        + "','run':{'runId':'"
        + run
        + "'},'job':{'namespace':'"
        + namespace
        + "','name':'"
        + job
        + "'}"
        + (rest.isEmpty() ? "" : "," + rest)
        + "}";
  }

  public static String dataset(String at, String namespace, String name, String facets) {
    return "{"
        + head(at)
        + ",'dataset':{'namespace':'"
        + namespace
        + "','name':'"
        + name
        + "','facets':{"
        + facets
        + "}}}";
  }

  public static String schema(String... columns) {
    var fields = new StringBuilder();
    for (String column : columns) {
      fields.append(fields.isEmpty() ? "" : ",").append("{'name':'" + column + "','type':'text'}");
    }
    return "'schema':{'_producer':'p','_schemaURL':'s','fields':[" + fields + "]}";
  }

  /** Lists with one input and one output, and for the output which columns are copied. */
  public static String copies(String namespace, String from, String to, String... columns) {
    var fields = new StringBuilder();
    for (String column : columns) {
      fields
          .append(fields.isEmpty() ? "" : ",")
          .append(
              "'" + column + "':{'inputFields':[{'namespace':'" + namespace + "','name':'" + from)
          .append(
              "','field':'"
                  + column
                  + "','transformations':[{'type':'DIRECT','subtype':'IDENTITY'}]}]}");
    }
    return "'inputs':[{'namespace':'"
        + namespace
        + "','name':'"
        + from
        + "','facets':{"
        + schema(columns)
        + "}}],'outputs':[{'namespace':'"
        + namespace
        + "','name':'"
        + to
        + "','facets':{"
        + schema(columns)
        + ",'columnLineage':{'_producer':'p','_schemaURL':'s','fields':{"
        + fields
        + "}}}}]";
  }
}
