package longthread.service.access;

import java.util.regex.Pattern;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;

/** The names that keys and accounts may have: such as can be listed, typed and put in a path. */
final class HolderNames {
  private static final Pattern GOOD =
      Pattern.compile("[\\p{L}\\p{N}](?:[\\p{L}\\p{N} ._@-]{0,98}[\\p{L}\\p{N}._@-])?");

  private HolderNames() {}

  /**
   * Returns a name that may be given.
   *
   * @throws ProblemException if there is none, or it has characters that no name may have
   */
  static String checked(@Nullable String name) {
    if (name == null || !GOOD.matcher(name).matches()) {
      throw ProblemException.badRequest(
          "bad-name",
          "a name has 1 to 100 letters, digits, spaces and the signs . _ @ -, begins with a letter"
              + " or digit and does not end in a space; give such a name");
    }
    return name;
  }
}
