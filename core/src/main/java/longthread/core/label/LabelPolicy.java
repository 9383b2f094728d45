package longthread.core.label;

import java.util.List;

/**
 * Where a label may be, or may not. It speaks of an asset if each of its conditions that is given
 * holds; of several words of one condition, any is enough. One difference: data may be shown to an
 * audience only if <em>all</em> who read it are in the list, and may not if any of them is.
 *
 * @param id under which it is kept
 * @param label the label it is about
 * @param allows whether the label may be there
 */
public record LabelPolicy(
    String id,
    String label,
    boolean allows,
    List<String> kinds,
    Wildcard systems,
    Wildcard workspaces,
    Wildcard audience,
    Wildcard locations) {
  public LabelPolicy {
    kinds = List.copyOf(kinds);
  }

  /** Whether it says anything of an asset. */
  public boolean speaksOf(Holder holder) {
    return (kinds.isEmpty() || kinds.contains(holder.kind()))
        && (systems.isEmpty() || systems.fits(holder.system()))
        && (workspaces.isEmpty() || workspaces.fits(holder.workspace()))
        && (audience.isEmpty() || readBy(holder.audience()))
        && (locations.isEmpty() || holder.locations().stream().anyMatch(locations::fits));
  }

  private boolean readBy(List<String> readers) {
    return allows
        ? !readers.isEmpty() && readers.stream().allMatch(audience::fits)
        : readers.stream().anyMatch(audience::fits);
  }
}
