package longthread.core.event;

import java.time.Instant;
import java.util.Comparator;
import longthread.core.asset.DatasetName;

/** A dataset got another name at a moment: what it was before is seen under the new name. */
public record Rename(DatasetName from, DatasetName to, Instant at) implements Comparable<Rename> {
  private static final Comparator<Rename> ORDER =
      Comparator.comparing(Rename::from).thenComparing(Rename::at).thenComparing(Rename::to);

  @Override
  public int compareTo(Rename other) {
    return ORDER.compare(this, other);
  }
}
