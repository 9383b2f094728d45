package longthread.client.answers;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** A part of the graph, nearest first. */
public record GraphAnswer(
    Node focus,
    List<Node> nodes,
    List<DecidingLink> deciding,
    List<Constant> constants,
    boolean truncated) {
  public GraphAnswer {
    nodes = nodes == null ? List.of() : List.copyOf(nodes);
    deciding = deciding == null ? List.of() : List.copyOf(deciding);
    constants = constants == null ? List.of() : List.copyOf(constants);
  }

  /** An asset or column in it. */
  public record Node(
      String ref,
      String kind,
      String name,
      String system,
      @Nullable String column,
      int hops,
      List<String> owners) {
    public Node {
      owners = owners == null ? List.of() : List.copyOf(owners);
    }
  }

  /** A column that filters, joins or groups. */
  public record DecidingLink(String from, String to, List<String> flows) {
    public DecidingLink {
      flows = flows == null ? List.of() : List.copyOf(flows);
    }
  }

  /** A branch on which a column is constant. */
  public record Constant(String column, String text, String job) {}
}
