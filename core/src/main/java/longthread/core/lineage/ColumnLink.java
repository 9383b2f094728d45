package longthread.core.lineage;

import java.util.Comparator;
import longthread.core.asset.ColumnName;

/**
 * A directed dependence between two columns, a column and rows, or rows and rows.
 *
 * @param masking whether the value cannot be read back behind the link (a hash, a count)
 */
public record ColumnLink(ColumnName from, ColumnName to, Flow flow, boolean masking)
    implements Comparable<ColumnLink> {
  private static final Comparator<ColumnLink> ORDER =
      Comparator.comparing(ColumnLink::to)
          .thenComparing(ColumnLink::from)
          .thenComparing(ColumnLink::flow)
          .thenComparing(ColumnLink::masking);

  @Override
  public int compareTo(ColumnLink other) {
    return ORDER.compare(this, other);
  }
}
