package longthread.client;

import java.util.List;
import java.util.Locale;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.ParameterException;

/** Words of which there is a closed list: a wrong one is wrong usage, never an empty answer. */
final class ClosedWords {
  private ClosedWords() {}

  /**
   * Checks what an option was given.
   *
   * @param word null if the option was not given
   */
  static void check(CommandSpec spec, String option, @Nullable String word, List<String> allowed) {
    if (word != null && !allowed.contains(word)) {
      throw new ParameterException(
          spec.commandLine(),
          "Unknown word '" + word + "' for " + option + ". Words: " + String.join(", ", allowed));
    }
  }

  /** A machine's word as people read it: {@code goes-stale} is "goes stale". */
  static String spoken(String word) {
    return word.toLowerCase(Locale.ROOT).replace('-', ' ').replace('_', ' ');
  }
}
