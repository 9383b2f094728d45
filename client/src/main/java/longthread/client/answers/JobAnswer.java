package longthread.client.answers;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** One job from the inside. */
public record JobAnswer(List<Target> targets, List<Input> inputs) {
  public JobAnswer {
    targets = targets == null ? List.of() : List.copyOf(targets);
    inputs = inputs == null ? List.of() : List.copyOf(inputs);
  }

  /** A dataset that it writes. */
  public record Target(String ref, List<TargetColumn> columns, @Nullable String missing) {
    public Target {
      columns = columns == null ? List.of() : List.copyOf(columns);
    }
  }

  /** A column that it writes. */
  public record TargetColumn(
      String name, boolean reported, List<From> from, List<String> constants) {
    public TargetColumn {
      from = from == null ? List.of() : List.copyOf(from);
      constants = constants == null ? List.of() : List.copyOf(constants);
    }
  }

  /** A source of a column. */
  public record From(String ref, List<String> how) {
    public From {
      how = how == null ? List.of() : List.copyOf(how);
    }
  }

  /** A dataset that it reads. */
  public record Input(String ref, List<InputColumn> columns) {
    public Input {
      columns = columns == null ? List.of() : List.copyOf(columns);
    }
  }

  /** A column that it reads. */
  public record InputColumn(String name, List<String> lands, List<String> decides) {
    public InputColumn {
      lands = lands == null ? List.of() : List.copyOf(lands);
      decides = decides == null ? List.of() : List.copyOf(decides);
    }
  }
}
