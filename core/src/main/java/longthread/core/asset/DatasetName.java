package longthread.core.asset;

import java.util.Comparator;

/** A dataset by the exact pair an emitter sent; neither part is empty. */
public record DatasetName(String namespace, String name) implements Comparable<DatasetName> {
  private static final Comparator<DatasetName> ORDER =
      Comparator.comparing(DatasetName::namespace).thenComparing(DatasetName::name);

  public DatasetName {
    Names.check(namespace, "dataset namespace");
    Names.check(name, "dataset name");
  }

  /**
   * The dataset that a whole reference names, whichever of its columns is meant.
   *
   * @throws BadNameException if it names no dataset
   */
  public static DatasetName parse(String reference) {
    if (Reference.parse(reference) instanceof Reference.OfDataset of) {
      return of.dataset();
    }
    throw new BadNameException("'" + reference + "' is not the reference of a dataset");
  }

  /** The whole reference text, {@code namespace/name}. */
  public String reference() {
    return Reference.encode(namespace, name);
  }

  @Override
  public int compareTo(DatasetName other) {
    return ORDER.compare(this, other);
  }

  @Override
  public String toString() {
    return reference();
  }
}
