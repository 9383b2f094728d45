package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** One asset, whole. */
public record AssetAnswer(
    String ref,
    String kind,
    String name,
    @Nullable String title,
    String system,
    @Nullable String description,
    @Nullable String url,
    List<Owner> owners,
    List<String> labels,
    boolean described,
    List<String> parts,
    int partCount,
    boolean folded,
    List<Column> columns,
    int dependents,
    @Nullable Freshness freshness,
    @Nullable Health health,
    List<Check> checks,
    List<Neighbour> upstream,
    List<Neighbour> downstream,
    List<RunRow> runs,
    @Nullable Code code,
    List<Detail> details,
    List<Tie> ties,
    List<Former> formerly,
    @Nullable String gap) {
  public AssetAnswer {
    owners = owners == null ? List.of() : List.copyOf(owners);
    labels = labels == null ? List.of() : List.copyOf(labels);
    parts = parts == null ? List.of() : List.copyOf(parts);
    columns = columns == null ? List.of() : List.copyOf(columns);
    checks = checks == null ? List.of() : List.copyOf(checks);
    upstream = upstream == null ? List.of() : List.copyOf(upstream);
    downstream = downstream == null ? List.of() : List.copyOf(downstream);
    runs = runs == null ? List.of() : List.copyOf(runs);
    details = details == null ? List.of() : List.copyOf(details);
    ties = ties == null ? List.of() : List.copyOf(ties);
    formerly = formerly == null ? List.of() : List.copyOf(formerly);
  }

  /** A column and where it comes from. */
  public record Column(
      String name,
      @Nullable String type,
      @Nullable String description,
      @Nullable String calculation,
      List<String> labels,
      List<Labelled> inherited,
      boolean listed,
      List<Source> sources,
      List<Constant> constants) {
    public Column {
      labels = labels == null ? List.of() : List.copyOf(labels);
      inherited = inherited == null ? List.of() : List.copyOf(inherited);
      sources = sources == null ? List.of() : List.copyOf(sources);
      constants = constants == null ? List.of() : List.copyOf(constants);
    }
  }

  /** A label that came along lineage, for certain or perhaps. */
  public record Labelled(
      String label,
      String title,
      String how,
      @Nullable String from,
      @Nullable String setBy,
      @Nullable String managed) {}

  /** A source of a column. */
  public record Source(String ref, String how, List<String> jobs) {
    public Source {
      jobs = jobs == null ? List.of() : List.copyOf(jobs);
    }
  }

  /** A constant that a column is set to on some branch. */
  public record Constant(String text) {}

  /** When it was written last, when it is due, and how old the oldest of its data is. */
  public record Freshness(
      @Nullable Instant written,
      @Nullable Instant expected,
      @Nullable String oldestInput,
      @Nullable Instant oldestAt) {}

  /** How it does by itself, what it inherits, and what people say of it. */
  public record Health(
      String state, String reason, @Nullable Inherited inherited, List<ShownNotice> notices) {
    public Health {
      notices = notices == null ? List.of() : List.copyOf(notices);
    }
  }

  /** What is wrong upstream. */
  public record Inherited(String state, String reason) {}

  /** A notice on it, or on what it is made from. */
  public record ShownNotice(String level, String text, String by, String name) {}

  /** The newest result of a check. */
  public record Check(
      String name, @Nullable String column, boolean passed, Instant at, @Nullable String detail) {}

  /** An asset one step away. */
  public record Neighbour(String ref, String name, String kind) {}

  /** The program text of a job. */
  public record Code(@Nullable String text) {}

  /** A further property. */
  public record Detail(String name, String value) {}

  /** A job that runs before or after this one. */
  public record Tie(String ref, boolean before, boolean data) {}

  /** A former name. */
  public record Former(String ref, Instant until) {}
}
