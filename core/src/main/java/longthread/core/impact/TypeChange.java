package longthread.core.impact;

import java.util.List;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Whether every value of one type fits another, as far as the usual names of types show. */
public final class TypeChange {
  private static final Pattern SIZED =
      Pattern.compile("^([a-z0-9_ ]+?)\\s*(?:\\(\\s*(\\d+)\\s*(?:,\\s*(\\d+)\\s*)?\\))?$");
  private static final List<List<String>> LADDERS =
      List.of(
          List.of("smallint|int2", "integer|int|int4", "bigint|int8|long"),
          List.of("real|float4|float", "double precision|float8|double"),
          List.of("date", "timestamp|timestamp without time zone"));
  private static final List<String> TEXT =
      List.of("text", "string", "varchar", "character varying", "char", "character");

  private TypeChange() {}

  /** Whether values may be lost or refused; true where the types say too little. */
  public static boolean mayNarrow(@Nullable String from, @Nullable String to) {
    if (from == null || to == null) {
      return true;
    }
    Matcher before = SIZED.matcher(from.strip().toLowerCase(Locale.ROOT));
    Matcher after = SIZED.matcher(to.strip().toLowerCase(Locale.ROOT));
    if (!before.matches() || !after.matches()) {
      return true;
    }
    String name = after.group(1);
    if (TEXT.contains(name) && after.group(2) == null) {
      return false; // any value can be written as text of any length
    }
    boolean sameName =
        before.group(1).equals(name) || (TEXT.contains(name) && TEXT.contains(before.group(1)));
    if (sameName) {
      return !fits(before, after);
    }
    for (List<String> ladder : LADDERS) {
      int start = rung(ladder, before.group(1));
      int end = rung(ladder, name);
      if (start >= 0 && end >= 0) {
        return end < start;
      }
    }
    return true;
  }

  private static int rung(List<String> ladder, String name) {
    for (int i = 0; i < ladder.size(); i++) {
      if (List.of(ladder.get(i).split("\\|")).contains(name)) {
        return i;
      }
    }
    return -1;
  }

  private static boolean fits(Matcher before, Matcher after) {
    if (after.group(2) == null) {
      return true;
    }
    if (before.group(2) == null) {
      return false;
    }
    int digits = Integer.parseInt(before.group(2));
    int scale = before.group(3) == null ? 0 : Integer.parseInt(before.group(3));
    int newDigits = Integer.parseInt(after.group(2));
    int newScale = after.group(3) == null ? 0 : Integer.parseInt(after.group(3));
    return newScale >= scale && newDigits - newScale >= digits - scale;
  }
}
