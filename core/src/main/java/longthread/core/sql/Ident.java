package longthread.core.sql;

import java.util.List;
import java.util.stream.Collectors;

/**
 * A name as the text spells it.
 *
 * @param name without quotes; unquoted names as the dialect folds them
 * @param exact whether only this spelling is meant
 */
record Ident(String name, boolean exact) {
  static Ident of(String raw, Dialect dialect) {
    if (raw.length() >= 2) {
      char first = raw.charAt(0);
      char last = raw.charAt(raw.length() - 1);
      boolean quoted =
          (first == '"' && last == '"')
              || (first == '`' && last == '`')
              || (first == '[' && last == ']')
              || (first == '\'' && last == '\'');
      if (quoted) {
        String twice = String.valueOf(last) + last;
        String inside = raw.substring(1, raw.length() - 1).replace(twice, String.valueOf(last));
        return new Ident(inside, dialect.quotedIsExact());
      }
    }
    boolean marked = raw.endsWith(NameWords.MARK);
    String plain = marked ? raw.substring(0, raw.length() - NameWords.MARK.length()) : raw;
    return new Ident(dialect.folded(plain), false);
  }

  /** The parts of a name, with dots between. */
  static String dotted(List<Ident> parts) {
    return parts.stream().map(Ident::name).collect(Collectors.joining("."));
  }

  boolean means(String other) {
    return exact ? name.equals(other) : name.equalsIgnoreCase(other);
  }
}
