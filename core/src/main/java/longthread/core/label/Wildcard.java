package longthread.core.label;

import java.util.List;
import java.util.regex.Pattern;

/** Words with {@code *} for any letters, compared without regard to case. Immutable. */
public final class Wildcard {
  private final List<Pattern> patterns;

  private Wildcard(List<Pattern> patterns) {
    this.patterns = patterns;
  }

  /** Patterns of which one has to fit a whole text. */
  public static Wildcard of(List<String> words) {
    return new Wildcard(words.stream().map(Wildcard::pattern).toList());
  }

  private static Pattern pattern(String word) {
    var regex = new StringBuilder();
    for (String piece : word.strip().split("\\*", -1)) {
      regex.append(regex.isEmpty() ? "" : ".*").append(piece.isEmpty() ? "(?:)" : quoted(piece));
    }
    return Pattern.compile(
        regex.toString(), Pattern.CASE_INSENSITIVE | Pattern.UNICODE_CASE | Pattern.DOTALL);
  }

  private static String quoted(String piece) {
    return Pattern.quote(piece);
  }

  /** Whether there is none: then nothing fits. */
  public boolean isEmpty() {
    return patterns.isEmpty();
  }

  /** Whether one of them is the text. */
  public boolean fits(String text) {
    for (Pattern pattern : patterns) {
      if (pattern.matcher(text).matches()) {
        return true;
      }
    }
    return false;
  }
}
