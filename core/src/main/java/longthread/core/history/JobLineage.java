package longthread.core.history;

import java.time.Instant;
import java.util.List;
import java.util.SortedSet;
import longthread.core.asset.ColumnName;
import longthread.core.lineage.ColumnConstant;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Evidence;
import org.jspecify.annotations.Nullable;

/**
 * The versions of a job, oldest first, and all links it ever had.
 *
 * @param described the output columns of which the newest version says where they come from
 * @param gap whether the newest version's emitter could not read parts of the job
 * @param constants what the newest version sets columns to on branches that carry no data
 */
public record JobLineage(
    List<Version> versions,
    List<HeldLink> links,
    SortedSet<ColumnName> described,
    boolean gap,
    SortedSet<ColumnConstant> constants) {
  /**
   * @param number for display, from 1, in the order of first appearance
   * @param changes what is different from the version that ran before it first did, in words
   */
  public record Version(
      int number, String hash, Instant firstRun, Instant lastRun, List<String> changes) {}

  /**
   * A link over one stretch of time.
   *
   * @param evidence why it is believed, by the run that showed it last
   * @param version the hash of the version that showed it last
   * @param until when it stopped to hold, this moment excluded; null while it holds
   */
  public record HeldLink(
      ColumnLink link,
      Evidence evidence,
      String version,
      Instant firstSeen,
      Instant lastSeen,
      @Nullable Instant until) {}
}
