package longthread.core.label;

import java.util.List;
import java.util.Locale;

/**
 * Words with {@code *} for any letters, compared without regard to case. A comparison takes time
 * linear in the text for each word; millions of column names are compared with dozens. Immutable.
 */
public final class Wildcard {
  private final List<String[]> words; // each as the pieces between its stars, in small letters

  private Wildcard(List<String[]> words) {
    this.words = words;
  }

  /** Patterns of which one has to fit a whole text. */
  public static Wildcard of(List<String> words) {
    return new Wildcard(words.stream().map(word -> small(word.strip()).split("\\*", -1)).toList());
  }

  private static String small(String text) {
    return text.toLowerCase(Locale.ROOT);
  }

  /** Whether there is none: then nothing fits. */
  public boolean isEmpty() {
    return words.isEmpty();
  }

  /** Whether one of them is the text. */
  public boolean fits(String text) {
    if (words.isEmpty()) {
      return false;
    }
    String small = small(text);
    for (String[] pieces : words) {
      if (fits(small, pieces)) {
        return true;
      }
    }
    return false;
  }

  private static boolean fits(String text, String[] pieces) {
    String first = pieces[0];
    if (pieces.length == 1) {
      return text.equals(first);
    }
    String last = pieces[pieces.length - 1];
    if (!text.startsWith(first)
        || !text.endsWith(last)
        || text.length() < first.length() + last.length()) {
      return false;
    }
    // Each piece between is taken where it first stands: that leaves most room for the next.
    int at = first.length();
    int end = text.length() - last.length();
    for (int i = 1; i < pieces.length - 1; i++) {
      int found = text.indexOf(pieces[i], at);
      if (found < 0 || found + pieces[i].length() > end) {
        return false;
      }
      at = found + pieces[i].length();
    }
    return true;
  }
}
