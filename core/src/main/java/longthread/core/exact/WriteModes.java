package longthread.core.exact;

import java.util.List;
import java.util.Locale;
import longthread.core.sql.TableChange;
import org.jspecify.annotations.Nullable;

/** How it is found out whether a write replaced or added. */
public final class WriteModes {
  private WriteModes() {}

  /**
   * The mode that a lifecycle change of the standard stands for; null for one that says nothing.
   */
  public static @Nullable WriteMode ofLifecycle(String word) {
    return switch (word.toUpperCase(Locale.ROOT)) {
      case "OVERWRITE", "TRUNCATE", "CREATE" -> WriteMode.REPLACES;
      default -> null;
    };
  }

  /** The mode that the operation of a table format's commit stands for; null if it says nothing. */
  public static @Nullable WriteMode ofCommit(String operation) {
    return switch (operation.toLowerCase(Locale.ROOT)) {
      case "append" -> WriteMode.ADDS;
      case "overwrite", "delete" -> WriteMode.CHANGES; // some files of the table, not all
      default -> null;
    };
  }

  /**
   * The mode of a write by the SQL that was run, and whether it replaced a part only.
   *
   * @param part whether rows under a condition were removed first, so that a part was replaced
   */
  public record BySql(WriteMode mode, boolean part) {}

  /**
   * What statements did to a dataset, taken together; null if none of them names it.
   *
   * @param dataset the name of the dataset, which ends with the table's name
   * @param only whether it is the only dataset that the run wrote
   */
  public static @Nullable BySql of(List<TableChange> changes, String dataset, boolean only) {
    boolean emptied = false;
    boolean removed = false;
    boolean added = false;
    boolean changed = false;
    boolean removedLater = false;
    long tables = changes.stream().map(change -> last(change.table())).distinct().count();
    for (TableChange change : changes) {
      if (!isNamed(change.table(), dataset) && !(only && tables == 1)) {
        continue;
      }
      switch (change.effect()) {
        case EMPTIES -> emptied = true;
        case REPLACES -> {
          emptied = true;
          added = true;
        }
        case REMOVES -> {
          removed |= !added;
          removedLater |= added; // of older rows too, for all that can be seen here
        }
        case ADDS -> added = true;
        case CHANGES -> changed = true;
        default -> throw new IllegalStateException("an effect without a case");
      }
    }
    if (emptied) {
      return new BySql(WriteMode.REPLACES, false);
    }
    if (removed && added && !removedLater) {
      return new BySql(WriteMode.REPLACES, true);
    }
    if (changed && !added || removed || removedLater) {
      return new BySql(WriteMode.CHANGES, false);
    }
    // Rows that were added and then changed in the same run are still that run's own.
    return added ? new BySql(WriteMode.ADDS, false) : null;
  }

  private static String last(String table) {
    return table.substring(table.lastIndexOf('.') + 1).toLowerCase(Locale.ROOT);
  }

  private static boolean isNamed(String table, String dataset) {
    String name = dataset.toLowerCase(Locale.ROOT);
    String end = table.toLowerCase(Locale.ROOT);
    int at = name.length() - end.length();
    return name.endsWith(end) && (at == 0 || !Character.isLetterOrDigit(name.charAt(at - 1)));
  }
}
