package longthread.core.snapshot;

import java.util.List;
import longthread.core.asset.ShortNames;

/**
 * An asset or a job as a snapshot has it.
 *
 * @param ref the reference of the leading part
 * @param parts the references of all parts
 * @param shown what people call it
 * @param owners by name
 * @param outputs the references of what a job writes; empty for data
 */
public record SnapshotAsset(
    String ref,
    List<String> parts,
    String kind,
    String shown,
    String system,
    List<String> owners,
    List<String> labels,
    boolean retired,
    List<String> outputs)
    implements ShortNames.Named {
  public SnapshotAsset {
    parts = List.copyOf(parts);
    owners = List.copyOf(owners);
    labels = List.copyOf(labels);
    outputs = List.copyOf(outputs);
  }

  @Override
  public boolean isRetired() {
    return retired;
  }
}
