package longthread.core.asset;

import java.util.Comparator;

/**
 * A dataset by the exact pair an emitter sent; neither part is empty.
 *
 * @param isJob whether this is no dataset but a job, as the end of a link: that is where lineage
 *     ends that a job reads and lands nowhere, and begins that it writes and reads from nowhere
 */
public record DatasetName(String namespace, String name, boolean isJob)
    implements Comparable<DatasetName> {
  private static final Comparator<DatasetName> ORDER =
      Comparator.comparing(DatasetName::namespace)
          .thenComparing(DatasetName::name)
          .thenComparing(DatasetName::isJob);

  public DatasetName {
    Names.check(namespace, "dataset namespace");
    Names.check(name, "dataset name");
  }

  public DatasetName(String namespace, String name) {
    this(namespace, name, false);
  }

  /** A job as the end of a link. */
  public static DatasetName ofJob(JobName job) {
    return new DatasetName(job.namespace(), job.name(), true);
  }

  /**
   * The dataset, or the job as the end of a link, that a whole reference names, whichever of its
   * columns is meant.
   *
   * @throws BadNameException if it names neither
   */
  public static DatasetName parse(String reference) {
    Reference parsed = Reference.parse(reference);
    if (parsed instanceof Reference.OfDataset of) {
      return of.dataset();
    }
    if (parsed instanceof Reference.OfJob of) {
      return ofJob(of.job());
    }
    throw new BadNameException("'" + reference + "' is not the reference of a dataset");
  }

  /** The same name with texts of which the process holds one copy each. */
  public DatasetName shared() {
    return new DatasetName(namespace.intern(), name.intern(), isJob);
  }

  /** The whole reference text, {@code namespace/name}, or that of the job. */
  public String reference() {
    String pair = Reference.encode(namespace, name);
    return isJob ? Reference.JOB_PREFIX + pair : pair;
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
