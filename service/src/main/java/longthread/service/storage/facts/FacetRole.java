package longthread.service.storage.facts;

/** What a facet of a run is about. */
public enum FacetRole {
  /** The run itself. */
  RUN,
  /** Its reading of a dataset. */
  INPUT,
  /** Its writing of a dataset. */
  OUTPUT,
  /** The code that it ran, as a facet of its job. */
  CODE;

  /** The number that the tables hold. */
  public short code() {
    return (short) ordinal();
  }

  /** The role that the tables hold as this number. */
  public static FacetRole of(int code) {
    return values()[code];
  }
}
