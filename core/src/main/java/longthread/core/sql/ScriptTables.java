package longthread.core.sql;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * What table names mean at one point of a script: its temporary tables as they stand, the tables it
 * created or renamed, and those that are known from outside.
 */
final class ScriptTables {
  private KnownTables known;
  private final Set<String> dropped;
  private final Map<String, Relation> temporary = new LinkedHashMap<>();
  private final Map<String, Field> variables = new LinkedHashMap<>(); // by name in lower case
  private final Map<String, Relation> records = new LinkedHashMap<>(); // of loops, by name
  private final Map<String, List<KnownColumn>> created = new LinkedHashMap<>();

  /** The renames of tables that the script itself made. */
  private final List<Renamed> renames = new ArrayList<>();

  /**
   * A rename.
   *
   * @param statement the number of the statement that did it
   */
  record Renamed(int statement, String from, String to) {}

  /**
   * @param dropped names in lower case of tables that the script creates and drops again
   */
  ScriptTables(KnownTables known, Set<String> dropped) {
    this.known = known;
    this.dropped = dropped;
  }

  void searchPath(List<String> schemas) {
    known = known.onPath(schemas);
  }

  private static String key(List<Ident> parts) {
    return Ident.dotted(parts).toLowerCase(Locale.ROOT);
  }

  private static String lastKey(List<Ident> parts) {
    return parts.get(parts.size() - 1).name().toLowerCase(Locale.ROOT);
  }

  /** Puts the value of a column into a variable, for the statements that follow. */
  void fill(String variable, Field value) {
    variables.put(variable.toLowerCase(Locale.ROOT), value);
  }

  /** Lets a name stand for a row of a query, as in a loop over it. */
  void loopOver(String record, Relation rows) {
    records.put(record.toLowerCase(Locale.ROOT), rows);
  }

  /** The value that a variable, or a field of a loop's record, was filled with; null if none. */
  @Nullable Field filled(List<Ident> parts) {
    if (parts.size() == 1) {
      return variables.get(lastKey(parts));
    }
    Relation rows = records.get(parts.get(0).name().toLowerCase(Locale.ROOT));
    return rows == null || parts.size() > 2 ? null : rows.find(parts.get(1));
  }

  /** Whether the script drops that table after it made it, or its name says that it passes. */
  boolean isTemporaryName(List<Ident> parts) {
    String last = lastKey(parts);
    return dropped.contains(key(parts)) || (last.startsWith("#") || last.startsWith("@"));
  }

  /** The temporary table of that name; null if there is none. */
  @Nullable Relation temporary(List<Ident> parts) {
    Relation exact = temporary.get(key(parts));
    // Some databases put temporary tables into a schema of their own that scripts may name.
    return exact != null || parts.size() == 1 ? exact : temporary.get(lastKeyIfTemporary(parts));
  }

  private static String lastKeyIfTemporary(List<Ident> parts) {
    String schema = parts.get(parts.size() - 2).name().toLowerCase(Locale.ROOT);
    return schema.startsWith("pg_temp") || schema.equals("tempdb") ? lastKey(parts) : "";
  }

  void putTemporary(List<Ident> parts, Relation relation) {
    temporary.put(key(parts), relation);
  }

  void drop(List<Ident> parts) {
    temporary.remove(key(parts));
    created.remove(name(parts).name());
  }

  void created(List<Ident> parts, List<KnownColumn> columns) {
    created.put(name(parts).name(), List.copyOf(columns));
  }

  void rename(List<Ident> from, List<Ident> to) {
    Relation moved = temporary.remove(key(from));
    if (moved != null) {
      temporary.put(key(to), moved);
      return;
    }
    String old = name(from).name();
    String now = to.size() == 1 ? sibling(old, to.get(0).name()) : name(to).name();
    List<KnownColumn> columns = created.remove(old);
    created.put(now, columns != null ? columns : columnsOf(old));
  }

  void renamed(int statement, String from, List<Ident> to) {
    String now = to.size() == 1 ? sibling(from, to.get(0).name()) : name(to).name();
    renames.add(new Renamed(statement, from, now));
  }

  /** The name at the end of the script of a table that statement {@code number} wrote. */
  String nameAtEnd(int number, String written) {
    String name = written;
    for (Renamed rename : renames) {
      if (rename.statement() > number && rename.from().equalsIgnoreCase(name)) {
        name = rename.to();
      }
    }
    return name;
  }

  private static String sibling(String table, String name) {
    int dot = table.lastIndexOf('.');
    return dot < 0 ? name : table.substring(0, dot + 1) + name;
  }

  private KnownTables.Found name(List<Ident> parts) {
    for (String name : created.keySet()) {
      if (endsIn(name, parts)) {
        return new KnownTables.Found(name, false);
      }
    }
    return known.find(parts);
  }

  private static boolean endsIn(String name, List<Ident> parts) {
    String[] own = name.split("\\.");
    if (own.length != parts.size()) {
      return false;
    }
    for (int i = 0; i < own.length; i++) {
      if (!parts.get(i).means(own[i])) {
        return false;
      }
    }
    return true;
  }

  private List<KnownColumn> columnsOf(String name) {
    List<KnownColumn> own = created.get(name);
    return own != null ? own : known.columns(name);
  }

  /** A table's full name, and whether several known ones fit. */
  KnownTables.Found fullName(List<Ident> parts) {
    return name(parts);
  }

  List<KnownColumn> columns(String fullName) {
    return new ArrayList<>(columnsOf(fullName));
  }
}
