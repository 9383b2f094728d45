package longthread.core.export;

import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import longthread.core.asset.Owner;
import longthread.core.lineage.Flow;
import org.jspecify.annotations.Nullable;

/**
 * A part of the graph by names: all links that there are among some assets.
 *
 * @param assets the datasets, in the order of their references
 * @param jobs the jobs that make links among them, in the order of their references
 * @param links by target, source, flow and maker
 */
public record ExportedGraph(List<Asset> assets, List<Job> jobs, List<Link> links) {
  /**
   * A dataset.
   *
   * @param columns those that its schema lists, and those that a link has
   */
  public record Asset(
      String ref,
      String kind,
      String name,
      String system,
      @Nullable String description,
      List<Owner> owners,
      List<Column> columns) {
    public Asset {
      owners = List.copyOf(owners);
      columns = List.copyOf(columns);
    }
  }

  /** A column by its path. */
  public record Column(String path, @Nullable String type, @Nullable String description) {}

  /**
   * A job.
   *
   * @param seenAt when its links were seen last
   */
  public record Job(
      String ref, String kind, String name, String system, List<Owner> owners, Instant seenAt) {
    public Job {
      owners = List.copyOf(owners);
    }
  }

  /**
   * A link between columns; {@code *} stands for the rows of a dataset.
   *
   * @param maker the job that makes it, or the dataset that declares it
   */
  public record Link(
      String from,
      String fromColumn,
      String to,
      String toColumn,
      Flow flow,
      boolean masking,
      String maker) {
    /** The order in which links stand in every format. */
    public static final Comparator<Link> ORDER =
        Comparator.comparing(Link::to)
            .thenComparing(Link::toColumn)
            .thenComparing(Link::from)
            .thenComparing(Link::fromColumn)
            .thenComparing(Link::flow)
            .thenComparing(Link::maker);

    /** The reference of the source: of the dataset if it is its rows. */
    public String source() {
      return reference(from, fromColumn);
    }

    /** The reference of the target: of the dataset if it is its rows. */
    public String target() {
      return reference(to, toColumn);
    }

    /** Whether it is between whole datasets. */
    public boolean isBetweenRows() {
      return fromColumn.equals("*") && toColumn.equals("*");
    }

    private static String reference(String asset, String column) {
      return column.equals("*") ? asset : asset + "#" + column;
    }
  }

  public ExportedGraph {
    assets = assets.stream().sorted(Comparator.comparing(Asset::ref)).toList();
    jobs = jobs.stream().sorted(Comparator.comparing(Job::ref)).toList();
    links = links.stream().distinct().sorted(Link.ORDER).toList();
  }

  /** The same with links between whole datasets alone, and without columns. */
  public ExportedGraph withoutColumns() {
    return new ExportedGraph(
        assets.stream()
            .map(
                a ->
                    new Asset(
                        a.ref(),
                        a.kind(),
                        a.name(),
                        a.system(),
                        a.description(),
                        a.owners(),
                        List.of()))
            .toList(),
        jobs,
        links.stream().filter(Link::isBetweenRows).toList());
  }
}
