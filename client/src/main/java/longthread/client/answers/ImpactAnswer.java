package longthread.client.answers;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What a change does downstream. */
public record ImpactAnswer(
    String of,
    String change,
    Summary summary,
    @Nullable List<Group> groups,
    List<Item> items,
    int total,
    UntouchedList untouched,
    @Nullable String cursor) {
  public ImpactAnswer {
    groups = groups == null ? List.of() : List.copyOf(groups);
    items = items == null ? List.of() : List.copyOf(items);
  }

  @Override
  public List<Group> groups() {
    return groups == null ? List.of() : groups;
  }

  /** Items that have an owner, a system or the like in common. */
  public record Group(
      @Nullable String name,
      List<String> addresses,
      int items,
      Map<String, Integer> verdicts,
      List<Named> foremost) {
    public Group {
      addresses = addresses == null ? List.of() : List.copyOf(addresses);
      verdicts = verdicts == null ? Map.of() : Map.copyOf(verdicts);
      foremost = foremost == null ? List.of() : List.copyOf(foremost);
    }
  }

  /** An asset by what people call it. */
  public record Named(String ref, String kind, String name) {}

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
      @Nullable Named failsFirst,
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
