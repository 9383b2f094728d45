package longthread.core.exact;

import java.time.Instant;
import java.util.Collection;
import java.util.List;

/** Where runs are looked up. */
public interface RunLog {
  /**
   * Says of which assets {@link #writing} will be asked next, so that all are looked up at once.
   */
  default void expect(Collection<String> assets) {}

  /**
   * The runs that wrote an asset and started before a moment or at it, in any order.
   *
   * @param reading what is asked of them; those that it cannot see may be missing
   */
  List<Execution> writing(String asset, Reading reading);

  /** The runs that read an asset and ended after a moment, or did not end. */
  List<Execution> reading(String asset, Instant after);

  /** The assets that an asset shows as they are, without a run that copies them, such as a view. */
  List<String> shownBy(String asset, Instant at);

  /** The assets that show an asset as it is. */
  List<String> showing(String asset, Instant at);

  /** Whether runs that wrote or read an asset are missing, since they are too many. */
  boolean isCut(String asset);
}
