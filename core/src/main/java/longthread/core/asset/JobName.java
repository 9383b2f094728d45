package longthread.core.asset;

import java.util.Comparator;

/** A job by the exact pair an emitter sent; neither part is empty. */
public record JobName(String namespace, String name) implements Comparable<JobName> {
  private static final Comparator<JobName> ORDER =
      Comparator.comparing(JobName::namespace).thenComparing(JobName::name);

  public JobName {
    Names.check(namespace, "job namespace");
    Names.check(name, "job name");
  }

  /**
   * The job that a whole reference names.
   *
   * @throws BadNameException if it names no job
   */
  public static JobName parse(String reference) {
    if (Reference.parse(reference) instanceof Reference.OfJob of) {
      return of.job();
    }
    throw new BadNameException("'" + reference + "' is not the reference of a job");
  }

  /** The whole reference text, {@code @namespace/name}. */
  public String reference() {
    return "@" + Reference.encode(namespace, name);
  }

  @Override
  public int compareTo(JobName other) {
    return ORDER.compare(this, other);
  }

  @Override
  public String toString() {
    return reference();
  }
}
