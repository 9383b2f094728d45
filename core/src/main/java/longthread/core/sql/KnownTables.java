package longthread.core.sql;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;

/**
 * The tables whose columns are known, by their full names. A name in SQL means the table whose name
 * ends in it, or that it ends in, at a dot; what lies on the search path goes first.
 */
public final class KnownTables {
  public static final KnownTables NONE = new KnownTables(Map.of(), List.of());

  private final Map<String, List<String>> byLastPart = new LinkedHashMap<>();
  private final Map<String, List<KnownColumn>> tables;
  private final List<String> path;

  /**
   * @param tables columns in the order of the table; an empty list means that only the name is
   *     known
   * @param path the schemas in which an unqualified name is looked up, first one first
   */
  public KnownTables(Map<String, List<KnownColumn>> tables, List<String> path) {
    this.tables = new LinkedHashMap<>(tables);
    this.path = List.copyOf(path);
    for (String name : tables.keySet()) {
      byLastPart.computeIfAbsent(lastPart(name), k -> new ArrayList<>()).add(name);
    }
  }

  KnownTables onPath(List<String> newPath) {
    return new KnownTables(tables, newPath);
  }

  private static String lastPart(String name) {
    return name.substring(name.lastIndexOf('.') + 1).toLowerCase(Locale.ROOT);
  }

  /** The columns of a table by its full name; empty if they are unknown. */
  List<KnownColumn> columns(String name) {
    return tables.getOrDefault(name, List.of());
  }

  /**
   * The full name of the table that a name in SQL means, in O(tables of that last name).
   *
   * @return the name as it was written, with the first schema of the path if it has none, when no
   *     known table fits or several do
   */
  Found find(List<Ident> parts) {
    Ident last = parts.get(parts.size() - 1);
    List<String> candidates =
        byLastPart.getOrDefault(last.name().toLowerCase(Locale.ROOT), List.of());
    if (parts.size() == 1) {
      for (String schema : path) {
        for (String candidate : candidates) {
          List<String> names = split(candidate);
          if (names.size() > 1
              && names.get(names.size() - 2).equalsIgnoreCase(schema)
              && last.means(names.get(names.size() - 1))) {
            return new Found(candidate, false);
          }
        }
      }
    }
    var fitting = new ArrayList<String>();
    int best = -1;
    for (String candidate : candidates) {
      int common = common(parts, split(candidate));
      if (common > best) {
        fitting.clear();
        best = common;
      }
      if (common == best && common > 0) {
        fitting.add(candidate);
      }
    }
    if (fitting.isEmpty() && parts.size() > 1) {
      // As in database.table, with the schema between them left out.
      for (String candidate : candidates) {
        if (passesThrough(parts, split(candidate))) {
          fitting.add(candidate);
        }
      }
    }
    if (fitting.size() == 1) {
      return new Found(fitting.get(0), false);
    }
    var written = new StringBuilder();
    if (parts.size() == 1 && !path.isEmpty()) {
      written.append(path.get(0)).append('.');
    }
    for (int i = 0; i < parts.size(); i++) {
      written.append(i == 0 ? "" : ".").append(parts.get(i).name());
    }
    return new Found(written.toString(), fitting.size() > 1);
  }

  /**
   * @param ambiguous whether several known tables have the name's ending
   */
  record Found(String name, boolean ambiguous) {}

  private static List<String> split(String name) {
    return List.of(name.split("\\."));
  }

  private static boolean passesThrough(List<Ident> written, List<String> known) {
    int at = 0;
    for (String part : known) {
      if (at < written.size() && written.get(at).means(part)) {
        at++;
      }
    }
    Ident last = written.get(written.size() - 1);
    return at == written.size() && last.means(known.get(known.size() - 1));
  }

  /** How many parts two names share from the end; 0 if one is not an ending of the other. */
  private static int common(List<Ident> written, List<String> known) {
    int shorter = Math.min(written.size(), known.size());
    for (int i = 1; i <= shorter; i++) {
      if (!written.get(written.size() - i).means(known.get(known.size() - i))) {
        return 0;
      }
    }
    return shorter;
  }

  static boolean has(List<KnownColumn> columns, String column) {
    return columns.stream().anyMatch(known -> known.name().equalsIgnoreCase(column));
  }
}
