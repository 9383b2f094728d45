package longthread.core.export;

import java.io.IOException;
import java.util.LinkedHashSet;

/**
 * The graph in the DOT language: datasets as boxes, with their columns inside where it has any;
 * links by the name of the job that makes them.
 *
 * @see "The DOT Language, graphviz.org/doc/info/lang.html"
 */
public final class Dot {
  private Dot() {}

  /** Writes the graph; takes time linear in it. */
  public static void write(ExportedGraph graph, Appendable out) throws IOException {
    out.append("digraph lineage {\n  rankdir=LR;\n  node [shape=box];\n");
    int number = 0;
    for (ExportedGraph.Asset asset : graph.assets()) {
      if (asset.columns().isEmpty()) {
        out.append("  ").append(quoted(asset.ref()));
        out.append(" [label=").append(quoted(asset.name() + "\n" + asset.system())).append("];\n");
      } else {
        out.append("  subgraph cluster_").append("" + number++).append(" {\n    label=");
        out.append(quoted(asset.name() + "\n" + asset.system())).append(";\n    ");
        out.append(quoted(asset.ref())).append(" [label=\"rows\", shape=plaintext];\n");
        for (ExportedGraph.Column column : asset.columns()) {
          out.append("    ").append(quoted(asset.ref() + "#" + column.path()));
          out.append(" [label=").append(quoted(column.path())).append("];\n");
        }
        out.append("  }\n");
      }
    }
    var lines = new LinkedHashSet<String>(); // several flows between two are one line in a picture
    for (ExportedGraph.Link link : graph.links()) {
      lines.add(
          "  "
              + quoted(link.source())
              + " -> "
              + quoted(link.target())
              + " [label="
              + quoted(link.flow().words() + (link.masking() ? ", masked" : ""))
              + ", tooltip="
              + quoted(link.maker())
              + "];\n");
    }
    for (String line : lines) {
      out.append(line);
    }
    out.append("}\n");
  }

  private static String quoted(String text) {
    return '"'
        + text.replace("\\", "\\\\").replace("\"", "\\\"").replace("\r", "").replace("\n", "\\n")
        + '"';
  }
}
