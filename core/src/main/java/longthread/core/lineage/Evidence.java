package longthread.core.lineage;

import java.util.Locale;

/** Why a link is believed. */
public enum Evidence {
  /** A run reported it. */
  OBSERVED,
  /** It was read out of the SQL of a run that reported no column map. */
  DERIVED,
  /** A run reported it, and its SQL says the same. */
  CONFIRMED,
  /** It was reported without a run. */
  DECLARED,
  /** A person stated it. */
  RECORDED;

  /** The word in the interface and in the tables. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }
}
