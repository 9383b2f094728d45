package longthread.client.answers;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What a change does downstream. */
public record ImpactAnswer(
    String of,
    String change,
    Summary summary,
    List<Item> items,
    int total,
    UntouchedList untouched,
    @Nullable String cursor) {
  public ImpactAnswer {
    items = items == null ? List.of() : List.copyOf(items);
  }

  /** How many items have each verdict. */
  public record Summary(Map<String, Integer> verdicts) {
    public Summary {
      verdicts = verdicts == null ? Map.of() : Map.copyOf(verdicts);
    }
  }

  /** An asset that is touched. */
  public record Item(
      String ref,
      String kind,
      String name,
      String verdict,
      String certainty,
      int hops,
      List<Hop> thread,
      List<Column> columns,
      List<String> owners) {
    public Item {
      thread = thread == null ? List.of() : List.copyOf(thread);
      columns = columns == null ? List.of() : List.copyOf(columns);
      owners = owners == null ? List.of() : List.copyOf(owners);
    }
  }

  /** A column that is touched. */
  public record Column(String name, String verdict) {}

  /** What is not touched. */
  public record UntouchedList(int count, int certain, List<Untouched> items) {
    public UntouchedList {
      items = items == null ? List.of() : List.copyOf(items);
    }
  }

  /** An asset that is not touched. */
  public record Untouched(String ref, String kind, String name, int hops, String certainty) {}
}
