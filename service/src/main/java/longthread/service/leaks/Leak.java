package longthread.service.leaks;

import java.time.Instant;
import java.util.List;
import longthread.core.asset.Owner;
import longthread.service.lineage.Hops;
import org.jspecify.annotations.Nullable;

/**
 * A label where it may not be.
 *
 * @param id of the label at this asset, whatever its columns
 * @param label its id
 * @param level of the label, from 1 to 4
 * @param ref the asset that may not hold it
 * @param workspace its workspace; absent where it is in none
 * @param readers who may read it, as its source says
 * @param certainty certain, or possible by lineage of which no columns are known
 * @param columns the labelled columns there, the nearest first; the page itself where it has none
 * @param from where the label was set
 * @param policy by which it may not be there
 * @param thread the way to the first of the columns; empty where the label was set there
 * @param unmasked the first hop that leads out of the places which a policy allows, where a mask
 *     would end it; absent where the thread is empty
 * @param state open or accepted
 */
public record Leak(
    String id,
    String label,
    String title,
    int level,
    String ref,
    String name,
    String kind,
    String system,
    @Nullable String workspace,
    List<String> readers,
    List<Owner> owners,
    String certainty,
    List<LabelledColumn> columns,
    String from,
    String fromName,
    PolicyWords policy,
    List<Hops.Hop> thread,
    Hops.@Nullable Hop unmasked,
    String state,
    @Nullable Acceptance accepted) {

  /** A column that has the label. */
  public record LabelledColumn(String ref, String name) {}

  /** A policy by its id, in words. */
  public record PolicyWords(String id, String words) {}

  /** Who accepts it, why and until when. */
  public record Acceptance(String by, Instant at, String reason, Instant until) {}
}
