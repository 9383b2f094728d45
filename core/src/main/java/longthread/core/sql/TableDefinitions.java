package longthread.core.sql;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * The tables that statements of data definition leave behind, with each column's way through
 * renames: CREATE TABLE, ALTER TABLE and DROP, in the order of the text.
 *
 * <p>Names are compared without regard to case. What is no statement of data definition is passed
 * over.
 */
public final class TableDefinitions {
  /**
   * A table.
   *
   * @param name as the text spells it, parts joined by dots
   * @param createdAs the name it was created under; another one if it was renamed since
   * @param line where it was created or altered last, from 1
   */
  public record Table(String name, String createdAs, List<Column> columns, String file, int line) {}

  /**
   * A column.
   *
   * @param createdAs the name it was created under
   * @param type in lower case, as spelled; empty if none is given
   */
  public record Column(String name, String createdAs, String type, int line) {}

  /**
   * What a statement does to a table that these files do not create.
   *
   * @param change drop, rename or retype
   * @param column null for the whole table
   * @param to the new name or type; null for a drop
   */
  public record Loose(
      String change,
      String table,
      @Nullable String column,
      @Nullable String to,
      String file,
      int line) {}

  private static final Set<String> NO_COLUMN =
      Set.of(
          "primary",
          "unique",
          "check",
          "index",
          "constraint",
          "foreign",
          "key",
          "exclude",
          "like",
          "fulltext",
          "spatial",
          "partition",
          "period");
  private static final Set<String> ENDS_TYPE =
      Set.of(
          "not",
          "null",
          "default",
          "primary",
          "unique",
          "references",
          "check",
          "constraint",
          "collate",
          "generated",
          "comment",
          "auto_increment",
          "identity",
          "encode",
          "as",
          "first",
          "after",
          "using",
          "on",
          "key",
          "options",
          "invisible",
          "visible");
  private static final Set<String> FILLER =
      Set.of(
          "if",
          "not",
          "exists",
          "only",
          "temporary",
          "temp",
          "unlogged",
          "external",
          "transient",
          "global",
          "local",
          "or",
          "replace");

  private final Map<String, Table> tables = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
  private final List<Loose> loose = new ArrayList<>();
  private final Dialect dialect;
  private String text = "";
  private String file = "";

  public TableDefinitions(Dialect dialect) {
    this.dialect = dialect;
  }

  /** Applies the statements of a file, in time linear in it. */
  public void apply(String name, String sql) {
    file = name;
    text = sql;
    for (Script.Piece piece : Script.pieces(sql, dialect)) {
      var tokens = new Tokens(sql, piece.tokens());
      switch (tokens.word(0)) {
        case "create" -> create(tokens);
        case "alter" -> alter(tokens);
        case "drop" -> drop(tokens);
        default -> {}
      }
    }
  }

  /** The tables there are now, by name. */
  public Map<String, Table> tables() {
    var all = new LinkedHashMap<String, Table>();
    tables.values().forEach(table -> all.put(table.name(), table));
    return all;
  }

  /** What was done to tables that these files do not create, in the order of the statements. */
  public List<Loose> loose() {
    return List.copyOf(loose);
  }

  private int lineOf(Tokens tokens, int at) {
    int end = tokens.at(at).start();
    return 1 + (int) text.substring(0, end).chars().filter(c -> c == '\n').count();
  }

  /** A name, and the place behind it; null if none begins there. */
  private record Named(String name, int next) {}

  private @Nullable Named named(Tokens tokens, int start) {
    var parts = new ArrayList<String>();
    int at = start;
    while (true) {
      Ident part = at < tokens.size() ? tokens.identifier(at, dialect) : null;
      if (part == null) {
        return null;
      }
      parts.add(part.name());
      at++;
      if (at + 1 >= tokens.size() || !tokens.isSymbol(at, '.')) {
        return new Named(String.join(".", parts), at);
      }
      at++;
    }
  }

  private static int skip(Tokens tokens, int start) {
    int at = start;
    while (at < tokens.size() && FILLER.contains(tokens.word(at))) {
      at++;
    }
    return at;
  }

  private void create(Tokens tokens) {
    int at = skip(tokens, 1);
    boolean keeps = false;
    if (!tokens.word(at).equals("table")) {
      return;
    }
    at++;
    int named = skip(tokens, at);
    for (int i = at; i < named; i++) {
      keeps |= tokens.word(i).equals("exists");
    }
    Named name = named(tokens, named);
    boolean listed =
        name != null && name.next() < tokens.size() && tokens.isSymbol(name.next(), '(');
    if (!listed || (keeps && tables.containsKey(name.name()))) {
      return; // CREATE TABLE … AS has its columns from a query
    }
    int close = tokens.closing(name.next());
    var columns = new ArrayList<Column>();
    int depth = 0;
    boolean first = true;
    for (int i = name.next() + 1; i < close; i++) {
      if (first && depth == 0) {
        Column column = NO_COLUMN.contains(tokens.word(i)) ? null : column(tokens, i, close);
        if (column != null) {
          columns.add(column);
        }
      }
      depth += tokens.nesting(i);
      first = depth == 0 && tokens.isSymbol(i, ',');
    }
    if (columns.isEmpty()) {
      return; // a query in parentheses
    }
    tables.put(
        name.name(), new Table(name.name(), name.name(), columns, file, lineOf(tokens, named)));
  }

  private @Nullable Column column(Tokens tokens, int at, int end) {
    Ident name = tokens.identifier(at, dialect);
    return name == null
        ? null
        : new Column(name.name(), name.name(), type(tokens, at + 1, end), lineOf(tokens, at));
  }

  private static String type(Tokens tokens, int start, int end) {
    var type = new StringBuilder();
    int depth = 0;
    for (int i = start; i < end; i++) {
      boolean ends = depth == 0 && (tokens.isSymbol(i, ',') || ENDS_TYPE.contains(tokens.word(i)));
      if (ends) {
        break;
      }
      depth += tokens.nesting(i);
      boolean word = Character.isLetter(tokens.textOf(i).charAt(0));
      boolean after = !type.isEmpty() && Character.isLetterOrDigit(type.charAt(type.length() - 1));
      type.append(word && after ? " " : "").append(tokens.textOf(i).toLowerCase(Locale.ROOT));
    }
    return type.toString();
  }

  private void drop(Tokens tokens) {
    if (!Set.of("table", "view").contains(tokens.word(1))) {
      return;
    }
    int at = skip(tokens, 2);
    while (true) {
      Named name = named(tokens, at);
      if (name == null) {
        return;
      }
      if (tables.remove(name.name()) == null) {
        loose.add(new Loose("drop", name.name(), null, null, file, lineOf(tokens, at)));
      }
      if (name.next() >= tokens.size() || !tokens.isSymbol(name.next(), ',')) {
        return;
      }
      at = name.next() + 1;
    }
  }

  private void alter(Tokens tokens) {
    if (!tokens.word(1).equals("table")) {
      return;
    }
    Named name = named(tokens, skip(tokens, 2));
    if (name == null) {
      return;
    }
    Table table = tables.get(name.name());
    int start = name.next();
    int depth = 0;
    for (int i = start; i <= tokens.size(); i++) {
      boolean ends = i == tokens.size() || (depth == 0 && tokens.isSymbol(i, ','));
      if (ends && i > start) {
        if (table == null) {
          addLoose(name.name(), tokens, start, i);
        } else {
          table = altered(table, tokens, start, i);
        }
        start = i + 1;
      }
      depth += i < tokens.size() ? tokens.nesting(i) : 0;
    }
    if (table != null) {
      tables.remove(name.name());
      tables.put(table.name(), table);
    }
  }

  /** Notes what an action does to a table of which only the column is known that it names. */
  private void addLoose(String table, Tokens tokens, int start, int end) {
    int at = firstName(tokens, start);
    Ident first = at < end ? tokens.identifier(at, dialect) : null;
    int line = lineOf(tokens, start);
    List<Column> named =
        first == null
            ? List.of()
            : List.of(new Column(first.name(), first.name(), UNKNOWN_TYPE, line));
    Table before = new Table(table, table, named, file, line);
    Table after = altered(before, tokens, start, end);
    if (!after.name().equals(table)) {
      loose.add(new Loose("rename", table, null, after.name(), file, line));
    } else if (after.columns().size() < named.size()) {
      loose.add(new Loose("drop", table, named.get(0).name(), null, file, line));
    } else if (after.columns().size() == 1) {
      Column column = after.columns().get(0);
      String name = named.get(0).name();
      if (!column.name().equals(name)) {
        loose.add(new Loose("rename", table, name, column.name(), file, line));
      }
      if (!column.type().equals(UNKNOWN_TYPE)) {
        loose.add(new Loose("retype", table, name, column.type(), file, line));
      }
    }
  }

  private static final String UNKNOWN_TYPE = "?";

  /** Where the name stands that an action is about. */
  private static int firstName(Tokens tokens, int start) {
    boolean column = tokens.word(start + 1).equals("column");
    return skip(tokens, column ? start + 2 : start + 1);
  }

  private Table altered(Table table, Tokens tokens, int start, int end) {
    String verb = tokens.word(start);
    boolean column = tokens.word(start + 1).equals("column");
    int at = firstName(tokens, start);
    Ident first = at < end ? tokens.identifier(at, dialect) : null;
    int line = lineOf(tokens, start);
    return switch (verb) {
      case "rename" -> renamed(table, tokens, at, end, first, line);
      case "add" ->
          first == null || (!column && NO_COLUMN.contains(tokens.word(at)))
              ? table
              : with(
                  table, new Column(first.name(), first.name(), type(tokens, at + 1, end), line));
      case "drop" ->
          first == null || (!column && NO_COLUMN.contains(tokens.word(at)))
              ? table
              : changed(table, first.name(), null, line);
      case "alter", "modify" -> {
        int type = typeAt(tokens, at + 1, end, verb.equals("modify"));
        Column old = first == null ? null : columnOf(table, first.name());
        yield old == null || type < 0
            ? table
            : changed(
                table,
                old.name(),
                new Column(old.name(), old.createdAs(), type(tokens, type, end), line),
                line);
      }
      case "change" -> {
        Ident next = at + 1 < end ? tokens.identifier(at + 1, dialect) : null;
        Column old = first == null ? null : columnOf(table, first.name());
        yield old == null || next == null
            ? table
            : changed(
                table,
                old.name(),
                new Column(next.name(), old.createdAs(), type(tokens, at + 2, end), line),
                line);
      }
      default -> table;
    };
  }

  /** Where the new type of a column begins; negative if an action changes something else of it. */
  private static int typeAt(Tokens tokens, int start, int end, boolean modify) {
    if (modify) {
      return start;
    }
    int at = tokens.word(start).equals("set") ? start + 2 : start; // SET DATA TYPE
    return at < end && tokens.word(at).equals("type") ? at + 1 : -1;
  }

  private Table renamed(
      Table table, Tokens tokens, int at, int end, @Nullable Ident first, int line) {
    if (tokens.word(at).equals("to")) {
      Named to = named(tokens, at + 1);
      if (to == null) {
        return table;
      }
      int dot = table.name().lastIndexOf('.');
      String schema = to.name().contains(".") || dot < 0 ? "" : table.name().substring(0, dot + 1);
      return new Table(schema + to.name(), table.createdAs(), table.columns(), file, line);
    }
    Ident next =
        at + 2 < end && tokens.word(at + 1).equals("to")
            ? tokens.identifier(at + 2, dialect)
            : null;
    Column old = first == null ? null : columnOf(table, first.name());
    return old == null || next == null
        ? table
        : changed(
            table, old.name(), new Column(next.name(), old.createdAs(), old.type(), line), line);
  }

  private static @Nullable Column columnOf(Table table, String name) {
    return table.columns().stream()
        .filter(column -> column.name().equalsIgnoreCase(name))
        .findFirst()
        .orElse(null);
  }

  private Table with(Table table, Column added) {
    var columns = new ArrayList<>(table.columns());
    if (columnOf(table, added.name()) == null) {
      columns.add(added);
    }
    return new Table(table.name(), table.createdAs(), columns, file, added.line());
  }

  /** The table with one column in the place of another, or without it. */
  private Table changed(Table table, String name, @Nullable Column other, int line) {
    var columns = new ArrayList<Column>();
    for (Column column : table.columns()) {
      if (!column.name().equalsIgnoreCase(name)) {
        columns.add(column);
      } else if (other != null) {
        columns.add(other);
      }
    }
    return new Table(table.name(), table.createdAs(), columns, file, line);
  }
}
