package longthread.core.gate;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;
import longthread.core.compare.SchemaDifference;
import longthread.core.history.Fingerprint;
import longthread.core.sql.Dialect;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.KnownTables;
import longthread.core.sql.Span;
import longthread.core.sql.SqlReader;
import longthread.core.sql.SqlStatement;
import longthread.core.sql.TableChange;
import longthread.core.sql.TableDefinitions;
import org.jspecify.annotations.Nullable;

/**
 * What changes between two versions of DDL and SQL files.
 *
 * <p>Tables: dropped, renamed and retyped columns and tables, by ALTER TABLE or, where a CREATE
 * TABLE was edited, by name, position and type. Statements that write: an expression of a column
 * that reads otherwise changes its values; any other difference of the text (a filter, a join, a
 * grouping) changes the rows; spacing, comments, and dates in literals do not count. Statements of
 * one target are compared in their order, and so are those that truncate it.
 */
public final class SqlChanges {
  /**
   * What was found.
   *
   * @param changes by file and line
   * @param notes what could not be read closely, in words
   */
  public record Found(List<FoundChange> changes, List<String> notes) {}

  /** A statement that writes a table. */
  private record Written(String file, String text, SqlStatement statement) {
    String key() {
      return String.valueOf(statement.target()).toLowerCase(Locale.ROOT);
    }

    int line() {
      return lineAt(text, statement.span().start());
    }

    String own() {
      return statement.span().of(text);
    }

    boolean makesView() {
      return statement.kind().contains("view");
    }

    boolean creates() {
      return statement.kind().startsWith("create");
    }
  }

  private final Dialect dialect;
  private final SqlReader reader;
  private final List<FoundChange> changes = new ArrayList<>();
  private final Set<String> notes = new TreeSet<>();

  private SqlChanges(Dialect dialect, SqlReader reader) {
    this.dialect = dialect;
    this.reader = reader;
  }

  /**
   * Returns what changes, in time linear in the files.
   *
   * @param before texts by path; they are read in the order of their paths, as migrations are
   */
  public static Found between(
      Map<String, String> before, Map<String, String> after, Dialect dialect, SqlReader reader) {
    var found = new SqlChanges(dialect, reader);
    TableDefinitions definedThen = found.definitions(before);
    TableDefinitions definedNow = found.definitions(after);
    Map<String, TableDefinitions.Table> then = definedThen.tables();
    Map<String, TableDefinitions.Table> now = definedNow.tables();
    Map<String, List<Written>> written = found.written(after, now);
    found.compareTables(then, now);
    found.compareLoose(definedThen.loose(), definedNow.loose(), written.keySet());
    found.compareStatements(found.written(before, then), written);
    found.compareTruncations(found.truncations(before), found.truncations(after));
    found.changes.sort(
        java.util.Comparator.comparing(FoundChange::file)
            .thenComparing(FoundChange::line)
            .thenComparing(FoundChange::of));
    return new Found(found.changes.stream().distinct().toList(), List.copyOf(found.notes));
  }

  private static int lineAt(String text, int place) {
    int end = Math.min(place, text.length());
    return 1 + (int) text.substring(0, end).chars().filter(c -> c == '\n').count();
  }

  // ------------------------------------------------------------------ tables

  private TableDefinitions definitions(Map<String, String> files) {
    var definitions = new TableDefinitions(dialect);
    new TreeMap<>(files).forEach(definitions::apply);
    return definitions;
  }

  /**
   * What statements do to tables that other files create, as one new migration does.
   *
   * @param written targets that statements write: what is dropped and made again is not gone
   */
  private void compareLoose(
      List<TableDefinitions.Loose> before,
      List<TableDefinitions.Loose> after,
      Set<String> written) {
    var known = new ArrayList<>(before.stream().map(SqlChanges::what).toList());
    for (TableDefinitions.Loose one : after) {
      boolean isMadeAgain = one.change().equals("drop") && written.contains(key(one.table()));
      if (!known.remove(what(one)) && !isMadeAgain) {
        String name =
            one.column() == null
                ? "table " + one.table()
                : "column " + one.column() + " of " + one.table();
        String why =
            switch (one.change()) {
              case "drop" -> name + " is dropped";
              case "rename" -> name + " becomes " + one.to();
              default -> name + " gets the type " + one.to();
            };
        changes.add(
            new FoundChange(
                one.change(), one.table(), one.column(), one.to(), one.file(), one.line(), why));
      }
    }
  }

  private static List<@Nullable String> what(TableDefinitions.Loose one) {
    return java.util.Arrays.asList(one.change(), key(one.table()), one.column(), one.to());
  }

  private void compareTables(
      Map<String, TableDefinitions.Table> before, Map<String, TableDefinitions.Table> after) {
    var now = new TreeMap<String, TableDefinitions.Table>(String.CASE_INSENSITIVE_ORDER);
    now.putAll(after);
    var byOrigin = new TreeMap<String, TableDefinitions.Table>(String.CASE_INSENSITIVE_ORDER);
    after.values().forEach(table -> byOrigin.putIfAbsent(table.createdAs(), table));
    before.forEach(
        (name, old) -> {
          TableDefinitions.Table same = now.get(name);
          if (same == null) {
            TableDefinitions.Table other = byOrigin.get(old.createdAs());
            boolean renamed = other != null && !other.name().equalsIgnoreCase(name);
            if (renamed) {
              changes.add(
                  new FoundChange(
                      "rename",
                      name,
                      null,
                      other.name(),
                      other.file(),
                      other.line(),
                      "table " + name + " becomes " + other.name()));
              same = other;
            } else {
              changes.add(
                  new FoundChange(
                      "drop",
                      name,
                      null,
                      null,
                      old.file(),
                      old.line(),
                      "table " + name + " is gone"));
              return;
            }
          }
          compareColumns(name, old, same);
        });
  }

  private void compareColumns(
      String table, TableDefinitions.Table before, TableDefinitions.Table after) {
    var then = new LinkedHashMap<String, String>();
    var now = new LinkedHashMap<String, String>();
    var lines = new HashMap<String, Integer>();
    var renamed = new TreeMap<String, TableDefinitions.Column>(String.CASE_INSENSITIVE_ORDER);
    before.columns().forEach(column -> then.put(key(column.name()), column.type()));
    for (TableDefinitions.Column column : after.columns()) {
      lines.put(key(column.name()), column.line());
      // One that ALTER TABLE renamed is followed by the name it was created under.
      TableDefinitions.Column old =
          before.columns().stream()
              .filter(c -> c.createdAs().equalsIgnoreCase(column.createdAs()))
              .findFirst()
              .orElse(null);
      boolean isRenamed =
          old != null
              && !old.name().equalsIgnoreCase(column.name())
              && !column.name().equalsIgnoreCase(column.createdAs());
      if (isRenamed) {
        renamed.put(old.name(), column);
        now.put(key(old.name()), column.type());
      } else {
        now.put(key(column.name()), column.type());
      }
    }
    renamed.forEach(
        (old, column) ->
            changes.add(
                new FoundChange(
                    "rename",
                    table,
                    old,
                    column.name(),
                    after.file(),
                    column.line(),
                    "column " + old + " of " + table + " becomes " + column.name())));
    for (SchemaDifference.Column column : SchemaDifference.of(then, now)) {
      int line = lines.getOrDefault(column.name(), after.line());
      switch (column.what()) {
        case REMOVED -> add("drop", table, column.name(), null, after, "is gone", line);
        case RENAMED ->
            add(
                "rename",
                table,
                Objects.requireNonNull(column.before()),
                column.name(),
                after,
                "becomes " + column.name() + ", by its position and type",
                line);
        case RETYPED ->
            add(
                "retype",
                table,
                column.name(),
                column.after() == null ? "unknown" : column.after(),
                after,
                "has the type " + column.after() + ", before " + column.before(),
                line);
        default -> {} // a new column changes nothing that there was
      }
    }
  }

  private static String key(String name) {
    return name.toLowerCase(Locale.ROOT);
  }

  private void add(
      String change,
      String table,
      String column,
      @Nullable String to,
      TableDefinitions.Table after,
      String why,
      int line) {
    changes.add(
        new FoundChange(
            change,
            table,
            column,
            to,
            after.file(),
            line,
            "column " + column + " of " + table + " " + why));
  }

  // ------------------------------------------------------------------ statements that write

  private void compareStatements(Map<String, List<Written>> then, Map<String, List<Written>> now) {
    then.forEach(
        (target, old) -> {
          List<Written> fresh = now.getOrDefault(target, List.of());
          for (int i = 0; i < old.size(); i++) {
            if (i < fresh.size()) {
              compare(old.get(i), fresh.get(i));
            } else {
              gone(old.get(i), fresh.isEmpty());
            }
          }
          fresh.stream().skip(old.size()).forEach(one -> added(one, false));
        });
    now.forEach(
        (target, fresh) -> {
          if (!then.containsKey(target)) {
            fresh.forEach(one -> added(one, true));
          }
        });
  }

  /** A statement that writes a table beside the others, or as the first of these files. */
  private void added(Written one, boolean isFirst) {
    boolean isDefinition =
        one.statement().kind().equals("alter") && !key(one.own()).contains("partition");
    if (isDefinition) {
      return; // what it does to columns is compared with the tables
    }
    String why =
        isFirst
            ? target(one) + " is written by a statement, and was by none of these files before"
            : "one more statement writes " + target(one);
    boolean changesValues = one.creates() || one.statement().kind().startsWith("update");
    if (changesValues) {
      changes.add(found("values", one, why, isFirst));
    }
    if (!changesValues || one.creates()) {
      changes.add(found("rows", one, why, isFirst));
    }
  }

  private static FoundChange found(String change, Written one, String why, boolean mayBeNew) {
    return new FoundChange(change, target(one), null, null, one.file(), one.line(), why, mayBeNew);
  }

  private static String target(Written written) {
    return String.valueOf(written.statement().target());
  }

  /**
   * The statements that write, by their targets.
   *
   * @param defined the tables that the same files define, so that names and columns are understood
   */
  private Map<String, List<Written>> written(
      Map<String, String> files, Map<String, TableDefinitions.Table> defined) {
    var columns = new LinkedHashMap<String, List<KnownColumn>>();
    defined.forEach(
        (name, table) ->
            columns.put(
                name,
                table.columns().stream()
                    .map(column -> new KnownColumn(column.name(), column.type()))
                    .toList()));
    var known = new KnownTables(columns, List.of());
    var byTarget = new LinkedHashMap<String, List<Written>>();
    new TreeMap<>(files)
        .forEach(
            (file, text) -> {
              for (SqlStatement statement : reader.read(text, dialect, known)) {
                boolean writes =
                    statement.target() != null
                        && !statement.temporary()
                        && !(statement.kind().equals("create-table")
                            && statement.reads().isEmpty());
                if (writes) {
                  var one = new Written(file, text, statement);
                  byTarget.computeIfAbsent(one.key(), k -> new ArrayList<>()).add(one);
                }
              }
            });
    return byTarget;
  }

  // ------------------------------------------------------------------ truncations

  /** A statement that truncates a table. */
  private record Truncated(String table, String file, int line) {}

  private Map<String, List<Truncated>> truncations(Map<String, String> files) {
    var byTable = new LinkedHashMap<String, List<Truncated>>();
    new TreeMap<>(files)
        .forEach(
            (file, text) -> {
              for (TableChange.Truncation one : TableChange.truncations(text, dialect)) {
                byTable
                    .computeIfAbsent(key(one.table()), k -> new ArrayList<>())
                    .add(new Truncated(one.table(), file, lineAt(text, one.span().start())));
              }
            });
    return byTable;
  }

  private void compareTruncations(
      Map<String, List<Truncated>> then, Map<String, List<Truncated>> now) {
    then.forEach(
        (table, old) ->
            old.stream()
                .skip(now.getOrDefault(table, List.of()).size())
                .forEach(one -> truncation(one, "is no longer emptied here", false)));
    now.forEach(
        (table, fresh) -> {
          boolean isFirst = !then.containsKey(table);
          fresh.stream()
              .skip(then.getOrDefault(table, List.of()).size())
              .forEach(one -> truncation(one, "is emptied by one more statement", isFirst));
        });
  }

  private void truncation(Truncated one, String what, boolean mayBeNew) {
    changes.add(
        new FoundChange(
            "rows",
            one.table(),
            null,
            null,
            one.file(),
            one.line(),
            one.table() + " " + what,
            mayBeNew));
  }

  // ------------------------------------------------------------------ what differs

  private void gone(Written old, boolean nothingLeft) {
    if (nothingLeft && old.creates()) {
      changes.add(
          new FoundChange(
              "drop", target(old), null, null, old.file(), old.line(), target(old) + " is gone"));
    } else {
      changes.add(
          new FoundChange(
              nothingLeft ? "delay" : "rows",
              target(old),
              null,
              null,
              old.file(),
              old.line(),
              nothingLeft
                  ? "nothing writes " + target(old) + " any more"
                  : "one statement fewer writes " + target(old)));
    }
  }

  private void compare(Written old, Written now) {
    if (Fingerprint.of(old.own()).equals(Fingerprint.of(now.own()))) {
      return;
    }
    boolean understood = old.statement().complete() && now.statement().complete();
    Map<String, String> before = expressions(old);
    Map<String, String> after = expressions(now);
    if (!understood && (before.isEmpty() || after.isEmpty())) {
      String why = target(now) + " is written by text that changed and was not understood";
      notes.add(now.file() + ":" + now.line() + ": " + why + ", so all of it counts as changed");
      for (String change : List.of("values", "rows")) {
        changes.add(new FoundChange(change, target(now), null, null, now.file(), now.line(), why));
      }
      return;
    }
    if (!understood) {
      notes.add(
          now.file()
              + ":"
              + now.line()
              + ": not all of the statement that writes "
              + target(now)
              + " was understood");
    }
    compareItems(old, now, before, after);
    if (!rest(old, before, after).equals(rest(now, before, after))) {
      changes.add(
          new FoundChange(
              "rows",
              target(now),
              null,
              null,
              now.file(),
              now.line(),
              "which rows " + target(now) + " gets is decided otherwise: " + difference(old, now)));
    }
  }

  private void compareItems(
      Written old, Written now, Map<String, String> before, Map<String, String> after) {
    List<String> then = List.copyOf(before.keySet());
    List<String> fresh = List.copyOf(after.keySet());
    var renamed = new HashSet<String>();
    for (int i = 0; i < fresh.size(); i++) {
      String name = fresh.get(i);
      String expression = Objects.requireNonNull(after.get(name));
      if (before.containsKey(name)) {
        if (!expression.equals(before.get(name))) {
          changes.add(
              new FoundChange(
                  "values",
                  target(now),
                  name,
                  null,
                  now.file(),
                  lineOf(now, name),
                  name + " of " + target(now) + " is computed otherwise"));
        }
        continue;
      }
      String place = i < then.size() ? then.get(i) : null;
      boolean sameItem =
          place != null && !after.containsKey(place) && expression.equals(before.get(place));
      if (sameItem && old.creates()) {
        renamed.add(place);
        changes.add(
            new FoundChange(
                "rename",
                target(now),
                place,
                name,
                now.file(),
                lineOf(now, name),
                "column " + place + " of " + target(now) + " becomes " + name));
      }
    }
    for (String name : then) {
      if (!after.containsKey(name) && !renamed.contains(name)) {
        String why =
            old.creates()
                ? "column " + name + " of " + target(now) + " is gone"
                : name + " of " + target(now) + " is no longer filled";
        changes.add(
            new FoundChange(
                old.creates() ? "drop" : "values",
                target(now),
                name,
                null,
                now.file(),
                now.line(),
                why));
      }
    }
  }

  private static int lineOf(Written written, String column) {
    return written.statement().outputs().stream()
        .filter(output -> output.name().equalsIgnoreCase(column))
        .flatMap(output -> output.spans().stream())
        .map(span -> lineAt(written.text(), span.span().start()))
        .max(Integer::compare)
        .orElse(written.line());
  }

  /** The text that computes each column, over all steps, without comments and spacing. */
  private static Map<String, String> expressions(Written written) {
    var expressions = new LinkedHashMap<String, String>();
    for (SqlStatement.Output output : written.statement().outputs()) {
      String text =
          output.spans().stream()
              .map(span -> place(span, output) + "=" + span.span().of(written.text()))
              .sorted()
              .map(Fingerprint::of)
              .collect(Collectors.joining(" "));
      String constants =
          output.constants().stream()
              .map(constant -> Fingerprint.withoutVolatile(constant.text()))
              .sorted()
              .collect(Collectors.joining(" "));
      expressions.put(key(output.name()), text + " " + constants);
    }
    return expressions;
  }

  /** The step and column that a stretch of text is of; the column itself has no name here. */
  private static String place(SqlStatement.StepSpan span, SqlStatement.Output output) {
    boolean own = span.column().equalsIgnoreCase(output.name());
    return span.step() + "." + (own ? "" : span.column());
  }

  /** A statement without the expressions of its columns and without the list of its target's. */
  private static String rest(
      Written written, Map<String, String> before, Map<String, String> after) {
    var covered = new TreeSet<Span>();
    written.statement().outputs().forEach(o -> o.spans().forEach(s -> covered.add(s.span())));
    var left = new StringBuilder();
    int at = written.statement().span().start();
    for (Span span : covered) {
      if (span.start() >= at) {
        left.append(written.text(), at, span.start()).append(' ');
        at = span.end();
      } else {
        at = Math.max(at, span.end());
      }
    }
    int end = Math.min(written.statement().span().end(), written.text().length());
    left.append(written.text(), Math.min(at, end), end);
    String plain = Fingerprint.plain(left.toString());
    if (!written.creates()) {
      plain = plain.replaceFirst("^(insert\\s+into\\s+\\S+)\\s*\\([^()]*\\)", "$1 ");
    } else {
      plain = plain.replaceFirst("^create\\s+or\\s+replace\\s+", "create ");
    }
    var names = new HashSet<>(before.keySet());
    names.addAll(after.keySet());
    for (String name : names) {
      plain = plain.replaceAll("\\bas\\s+\"?" + java.util.regex.Pattern.quote(name) + "\"?", " ");
    }
    return plain.replace(",", " ").replaceAll("\\s+", " ").strip();
  }

  /** The first words in which two statements differ outside of their columns. */
  private static String difference(Written old, Written now) {
    var columns = new HashMap<String, String>();
    String[] before = rest(old, columns, columns).split(" ");
    String[] after = rest(now, columns, columns).split(" ");
    int same = 0;
    while (same < before.length && same < after.length && before[same].equals(after[same])) {
      same++;
    }
    return "«" + words(before, same) + "» became «" + words(after, same) + "»";
  }

  private static final int SHOWN_WORDS = 8;

  private static String words(String[] words, int from) {
    int end = Math.min(words.length, from + SHOWN_WORDS);
    String shown = String.join(" ", java.util.Arrays.copyOfRange(words, Math.min(from, end), end));
    return shown.isEmpty() ? "the end" : shown + (end < words.length ? " …" : "");
  }
}
