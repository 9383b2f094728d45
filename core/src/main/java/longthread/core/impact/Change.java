package longthread.core.impact;

import java.util.List;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/** A change to one asset, one column or one job; a change of a system is one of all it has. */
public sealed interface Change {
  /** The kinds of change that can be judged. */
  enum Kind {
    DROP,
    RENAME,
    RETYPE,
    VALUES,
    ROWS,
    DELAY;

    public String word() {
      return name().toLowerCase(Locale.ROOT);
    }
  }

  Kind kind();

  /**
   * A change to data.
   *
   * @param node the node of the column, or the rows node for the whole asset
   * @param to the new name or type, where the kind has one
   * @param narrows for a retype, whether the new type holds less than the old one or that is
   *     unknown
   */
  record OfData(int node, Kind kind, @Nullable String to, boolean narrows) implements Change {}

  /**
   * A change to a job. Dropped or late, it leaves stale what it writes; with other values or rows,
   * it writes others. A new name changes no data.
   *
   * @param owner the ordinal of the job as an owner of links; negative if it has none
   * @param outputs the rows nodes of what it writes
   */
  record OfJob(int owner, List<Integer> outputs, Kind kind) implements Change {
    public OfJob {
      outputs = List.copyOf(outputs);
      if (kind == Kind.RETYPE) {
        throw new IllegalArgumentException("a job has no type");
      }
    }
  }
}
