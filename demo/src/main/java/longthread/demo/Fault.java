package longthread.demo;

import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** What can go wrong in a night that is played live. */
enum Fault {
  /** The laboratory writes fat in g/kg instead of per cent. Nothing fails; payouts shift. */
  UNIT_SLIP,
  /** The laboratory's file does not come. */
  MISSING_DROP,
  /** A task of the warehouse fails. */
  FAILED_TASK,
  /** The collection team renames a column that the night's first task reads. */
  RENAMED_COLUMN,
  /**
   * At the clock change the hourly tank job took the repeated hour as seen and has written nothing
   * since, though every run is green; a weekly run nearby failed and has nothing to do with it.
   */
  REPEATED_HOUR;

  /** The task that fails, and why. */
  static final String FAILING_TASK = "collect_nightly.build_pickup";

  static final String FAILURE =
      "could not extend file \"base/16402/17011\": No space left on device";

  String word() {
    return name().toLowerCase(Locale.ROOT).replace('_', '-');
  }

  static List<String> words() {
    return Arrays.stream(values()).map(Fault::word).toList();
  }

  static Optional<Fault> of(String word) {
    return Arrays.stream(values()).filter(fault -> fault.word().equals(word)).findFirst();
  }
}
