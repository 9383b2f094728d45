package longthread.core.sql;

import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Which casts keep the value as it was. */
final class Types {
  private static final Pattern TYPE = Pattern.compile("([a-z0-9_ ]+?)\\s*(?:\\(([^)]*)\\))?\\s*");

  /** Whole numbers and floating ones, each holding all that stand before it in its own list. */
  private static final List<List<String>> WIDENING =
      List.of(
          List.of("tinyint", "smallint", "int", "bigint", "numeric"),
          List.of("real", "double"),
          List.of("smallint", "real"),
          List.of("int", "double"),
          List.of("date", "timestamp"),
          List.of("char", "varchar", "text"));

  private static final Map<String, String> SAME =
      Map.ofEntries(
          Map.entry("int1", "tinyint"),
          Map.entry("int2", "smallint"),
          Map.entry("smallserial", "smallint"),
          Map.entry("int4", "int"),
          Map.entry("integer", "int"),
          Map.entry("serial", "int"),
          Map.entry("signed", "bigint"),
          Map.entry("int8", "bigint"),
          Map.entry("int64", "bigint"),
          Map.entry("long", "bigint"),
          Map.entry("bigserial", "bigint"),
          Map.entry("decimal", "numeric"),
          Map.entry("number", "numeric"),
          Map.entry("bignumeric", "numeric"),
          Map.entry("float4", "real"),
          Map.entry("float", "double"),
          Map.entry("float8", "double"),
          Map.entry("float64", "double"),
          Map.entry("double precision", "double"),
          Map.entry("bool", "boolean"),
          Map.entry("string", "text"),
          Map.entry("clob", "text"),
          Map.entry("longtext", "text"),
          Map.entry("character varying", "varchar"),
          Map.entry("nvarchar", "varchar"),
          Map.entry("varchar2", "varchar"),
          Map.entry("nvarchar2", "varchar"),
          Map.entry("character", "char"),
          Map.entry("bpchar", "char"),
          Map.entry("nchar", "char"),
          Map.entry("datetime", "timestamp"),
          Map.entry("datetime2", "timestamp"),
          Map.entry("timestamp without time zone", "timestamp"),
          Map.entry("timestamp with time zone", "timestamptz"));

  private record Type(String name, @Nullable String size) {
    boolean endless() {
      return name.equals("text") || (name.equals("varchar") && size == null);
    }
  }

  private Types() {}

  /**
   * Whether a cast from one type to another changes nothing but the representation: to the same
   * type, to a wider one of its sort, or to text without a limit.
   *
   * @param from null if it is unknown; then only text without a limit is sure to hold it
   */
  static boolean keepsValue(@Nullable String from, String to) {
    Type target = parse(to);
    if (target == null) {
      return false;
    }
    if (target.endless()) {
      return true;
    }
    Type source = from == null ? null : parse(from);
    if (source == null) {
      return false;
    }
    if (source.name().equals(target.name())) {
      return source.size() == null
          ? target.size() == null
          : target.size() == null || holds(target.size(), source.size());
    }
    for (List<String> chain : WIDENING) {
      int before = chain.indexOf(source.name());
      int after = chain.indexOf(target.name());
      if (before >= 0 && after > before) {
        return target.size() == null
            || (source.size() != null && holds(target.size(), source.size()));
      }
    }
    return false;
  }

  private static boolean holds(String wide, String narrow) {
    String[] w = wide.split(",");
    String[] n = narrow.split(",");
    try {
      int wideScale = w.length > 1 ? Integer.parseInt(w[1].strip()) : 0;
      int narrowScale = n.length > 1 ? Integer.parseInt(n[1].strip()) : 0;
      int wideWhole = Integer.parseInt(w[0].strip()) - wideScale;
      int narrowWhole = Integer.parseInt(n[0].strip()) - narrowScale;
      return wideScale >= narrowScale && wideWhole >= narrowWhole;
    } catch (NumberFormatException e) {
      return false; // a size in words, such as max
    }
  }

  private static @Nullable Type parse(String text) {
    String plain = text.strip().toLowerCase(Locale.ROOT).replaceAll("\\s+", " ");
    Matcher matcher = TYPE.matcher(plain);
    if (!matcher.matches()) {
      return null;
    }
    String name = matcher.group(1);
    return new Type(SAME.getOrDefault(name, name), matcher.group(2));
  }
}
