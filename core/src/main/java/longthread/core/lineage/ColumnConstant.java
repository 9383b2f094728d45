package longthread.core.lineage;

import java.util.Comparator;
import longthread.core.asset.ColumnName;

/**
 * A branch on which a column is set to a constant: it carries no data, so no link can show it.
 *
 * @param text as it stands in the program, without what passes from run to run
 */
public record ColumnConstant(ColumnName column, String text) implements Comparable<ColumnConstant> {
  private static final Comparator<ColumnConstant> ORDER =
      Comparator.comparing(ColumnConstant::column).thenComparing(ColumnConstant::text);

  @Override
  public int compareTo(ColumnConstant other) {
    return ORDER.compare(this, other);
  }
}
