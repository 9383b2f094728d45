package longthread.core.history;

import java.util.Locale;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import longthread.core.json.CanonicalJson;
import org.jspecify.annotations.Nullable;

/**
 * A short text that is equal for two runs of the same code: comments, spacing, and literals that
 * hold a date or a UUID are blanked, other literals are kept.
 */
public final class Fingerprint {
  private static final Pattern VOLATILE =
      Pattern.compile(
          "(?i)\\d{4}-\\d{2}-\\d{2}([T ][0-9:.+Z-]*)?|\\d{8}|"
              + "[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}");

  /** What stands for a date or a UUID that was left out. */
  public static final String BLANK = "'…'";

  private static final Set<String> VERBS =
      Set.of(
          "select",
          "insert",
          "update",
          "delete",
          "merge",
          "create",
          "replace",
          "copy",
          "truncate",
          "drop",
          "alter",
          "call",
          "exec",
          "execute",
          "export",
          "load",
          "unload",
          "upsert");

  private static final Pattern TEXT = Pattern.compile("'([^']*)'");

  private Fingerprint() {}

  /** Program text with the dates and UUIDs in its literals left out; all else as it is. */
  public static String withoutVolatile(String code) {
    return TEXT.matcher(code)
        .replaceAll(
            found ->
                VOLATILE.matcher(found.group(1).strip()).matches()
                    ? BLANK
                    : Matcher.quoteReplacement(found.group()));
  }

  /** The fingerprint of program text, in time linear in its length. */
  public static String of(String code) {
    return CanonicalJson.digest(normal(code));
  }

  /**
   * What the first statement of SQL does, as the word for it that stands outside of parentheses,
   * such as {@code merge}; null if there is none. Takes time linear in the text.
   */
  public static @Nullable String verb(String sql) {
    int depth = 0;
    String code = normal(sql);
    for (int at = 0; at < code.length(); at++) {
      char c = code.charAt(at);
      if (c == '\'' || c == '"') {
        at = endOr(code.indexOf(c, at + 1), code);
      } else if (c == '(') {
        depth++;
      } else if (c == ')') {
        depth--;
      } else if (depth == 0 && Character.isLetter(c)) {
        int end = at;
        while (end < code.length() && Character.isLetterOrDigit(code.charAt(end))) {
          end++;
        }
        String word = code.substring(at, end);
        if (VERBS.contains(word)) {
          return word;
        }
        at = end - 1;
      }
    }
    return null;
  }

  /** Program text in lower case, without comments, spacing, and dates and UUIDs in literals. */
  public static String plain(String code) {
    return normal(code);
  }

  static String normal(String code) {
    var out = new StringBuilder(code.length());
    int at = 0;
    while (at < code.length()) {
      char c = code.charAt(at);
      if (code.startsWith("--", at)) {
        at = endOr(code.indexOf('\n', at), code);
        space(out);
      } else if (code.startsWith("/*", at)) {
        int end = code.indexOf("*/", at + 2);
        at = end < 0 ? code.length() : end + 2;
        space(out);
      } else if (c == '\'' || c == '"') {
        int end = endOr(code.indexOf(c, at + 1), code);
        String inside = code.substring(Math.min(at + 1, end), end);
        boolean isVolatile = c == '\'' && VOLATILE.matcher(inside.strip()).matches();
        out.append(c).append(isVolatile ? "" : inside).append(c);
        at = end + 1;
      } else if (Character.isWhitespace(c)) {
        space(out);
        at++;
      } else {
        out.append(c);
        at++;
      }
    }
    return out.toString().strip().toLowerCase(Locale.ROOT);
  }

  private static int endOr(int index, String code) {
    return index < 0 ? code.length() : index;
  }

  private static void space(StringBuilder out) {
    if (!out.isEmpty() && out.charAt(out.length() - 1) != ' ') {
      out.append(' ');
    }
  }
}
