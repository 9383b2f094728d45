package longthread.reader;

import java.io.IOException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Consumer;
import longthread.core.history.Fingerprint;
import longthread.core.sql.SqlReader;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.node.ObjectNode;

/**
 * Reads what a PostgreSQL database knows of its own data: tables, columns, types, comments, keys,
 * sizes, labels, the definitions of views and the bodies of functions; and, where it may, which
 * statements were run, by whom and how often.
 */
public final class PostgresReader {
  private static final long SIZE_STEP = 20; // percent; smaller changes of a size are not reported

  /**
   * What a reading found.
   *
   * @param changed how many events it made, since something is new or different
   * @param notes what could not be read, in sentences
   */
  public record Found(
      int tables,
      int views,
      int columns,
      int functions,
      int dropped,
      int statements,
      int changed,
      List<String> notes) {}

  /** What a reading found, and what is to be remembered for the next. */
  public record Reading(Found found, ReadingState state) {}

  private PostgresReader() {}

  /**
   * Reads a database in one transaction that changes nothing.
   *
   * @param before what was reported last; {@link ReadingState#NOTHING} for all
   * @param queryLog a CSV log of the server that this machine can read; null for none
   * @param each takes the events, as JSON, in an order in which tables come before what reads them
   * @throws UnreadableSourceException if the database or the log cannot be reached or read; what
   *     was handed over by then may be sent, and the next reading sends it again
   */
  public static Reading read(
      PostgresSettings settings,
      ReadingState before,
      @Nullable Path queryLog,
      Instant now,
      Consumer<String> each)
      throws UnreadableSourceException {
    try (Connection connection = DriverManager.getConnection(settings.jdbcUrl(), settings.login());
        SqlReader sql = new SqlReader()) {
      connection.setAutoCommit(false);
      var work = new Work(settings, before, now, each, sql);
      var catalog = new PostgresCatalog(connection, settings.schemas());
      List<String> unknown = catalog.unknownSchemas();
      if (!unknown.isEmpty()) {
        throw new SQLException(
            "there is no schema " + String.join(", ", unknown) + " in " + settings.database());
      }
      work.relations(catalog);
      work.functions(catalog);
      work.statements(catalog, connection, queryLog);
      return work.done();
    } catch (SQLException | IOException e) {
      throw new UnreadableSourceException(String.valueOf(e.getMessage()), e);
    }
  }

  /** One reading. */
  private static final class Work {
    private final PostgresSettings settings;
    private final ReadingState before;
    private final Instant now;
    private final Consumer<String> each;
    private final SqlReader sql;
    private final ReaderEvents events;
    private final Map<String, String> digests = new TreeMap<>();
    private final List<String> notes = new ArrayList<>();
    private final Map<String, Long> calls = new TreeMap<>();
    private @Nullable Instant countedAt;
    private @Nullable Instant logUpTo;
    private int tables;
    private int views;
    private int columns;
    private int functions;
    private int dropped;
    private int statements;
    private int changed;

    Work(
        PostgresSettings settings,
        ReadingState before,
        Instant now,
        Consumer<String> each,
        SqlReader sql) {
      this.settings = settings;
      this.before = before;
      this.now = now;
      this.each = each;
      this.sql = sql;
      this.events = new ReaderEvents(settings, now);
      this.countedAt = before.countedAt();
      this.logUpTo = before.logUpTo();
      calls.putAll(before.calls());
    }

    private void report(ObjectNode event, String about, String digest) {
      digests.put(about, digest);
      if (!digest.equals(before.digests().get(about))) {
        changed++;
        each.accept(event.toString());
      }
    }

    void relations(PostgresCatalog catalog) throws SQLException {
      Map<Long, List<PostgresCatalog.Column>> allColumns = catalog.columns();
      Map<Long, List<PostgresCatalog.Key>> allKeys = catalog.keys();
      var labels = new HashMap<Long, Map<Integer, List<String>>>();
      for (PostgresCatalog.Label label : catalog.labels()) {
        labels
            .computeIfAbsent(label.relation(), k -> new HashMap<>())
            .put(label.column(), Labels.list(label.label()));
      }
      var inOrder = new ArrayList<>(catalog.relations());
      // A view is read with the columns of what it selects from.
      inOrder.sort(
          java.util.Comparator.comparing((PostgresCatalog.Relation r) -> r.definition() != null));
      inOrder.forEach(relation -> events.knows(relation.schema(), relation.name()));
      for (PostgresCatalog.Relation relation : inOrder) {
        List<PostgresCatalog.Column> own = allColumns.getOrDefault(relation.oid(), List.of());
        Map<Integer, List<String>> ownLabels = labels.getOrDefault(relation.oid(), Map.of());
        ObjectNode event =
            events.relation(
                relation,
                own,
                allKeys.getOrDefault(relation.oid(), List.of()),
                ownLabels.getOrDefault(0, List.of()),
                ownLabels);
        report(event, ReaderEvents.refOf(event), ReaderEvents.digest(event));
        if (relation.definition() == null || relation.kind().equals("m")) {
          size(relation);
        }
        boolean view = relation.kind().equals("v") || relation.kind().equals("m");
        views += view ? 1 : 0;
        tables += view ? 0 : 1;
        columns += own.size();
      }
      for (String ref : before.digests().keySet()) {
        boolean relation = !ref.startsWith("@") && ref.indexOf('|') < 0;
        if (relation && !digests.containsKey(ref) && isWanted(ref)) {
          dropped++;
          changed++;
          each.accept(events.dropped(ref).toString());
        }
      }
    }

    /** Whether a name reported before lies in what is read now, so that it would be seen. */
    private boolean isWanted(String ref) {
      if (!ref.startsWith(settings.namespace() + "/" + settings.database() + ".")) {
        return false;
      }
      String rest =
          ref.substring((settings.namespace() + "/" + settings.database() + ".").length());
      return settings.schemas().isEmpty()
          || settings.schemas().stream().anyMatch(schema -> rest.startsWith(schema + "."));
    }

    /** A size in steps, so that growth by a few rows is no change. */
    private void size(PostgresCatalog.Relation relation) {
      ObjectNode event = events.size(relation);
      double step = Math.log(1 + SIZE_STEP / 100.0);
      long rows = Math.round(Math.log(1 + relation.rows()) / step);
      long bytes = Math.round(Math.log(1.0 + relation.bytes()) / step);
      report(event, ReaderEvents.refOf(event) + "|size", rows + " " + bytes);
    }

    void functions(PostgresCatalog catalog) throws SQLException {
      var reading = new Statements(sql);
      for (PostgresCatalog.Function function : catalog.functions()) {
        functions++;
        List<String> body = Statements.ofBody(function.language(), function.body());
        Statements.Ends ends = reading.endsOf(body);
        if (ends != null) {
          ObjectNode event = events.function(function, body, ends);
          report(event, ReaderEvents.refOf(event), ReaderEvents.digest(event));
        }
      }
    }

    void statements(PostgresCatalog catalog, Connection connection, @Nullable Path queryLog)
        throws SQLException, IOException {
      var seen = new Statements(sql);
      Instant from = countedAt;
      String schema = catalog.countedIn();
      if (schema != null) {
        var savepoint = connection.setSavepoint();
        try {
          if (from == null) {
            from = catalog.countedSince(schema);
          }
          counted(catalog.counted(schema), seen);
          countedAt = now;
        } catch (SQLException e) {
          connection.rollback(savepoint);
          notes.add("pg_stat_statements cannot be read: " + e.getMessage());
        }
      }
      if (queryLog != null) {
        Instant[] oldest = {null};
        Instant newest =
            QueryLog.read(
                queryLog,
                settings.database(),
                logUpTo,
                (at, user, text) -> {
                  oldest[0] = oldest[0] == null || at.isBefore(oldest[0]) ? at : oldest[0];
                  seen.add(user, text, 1);
                });
        from = from == null ? oldest[0] : from;
        logUpTo = newest == null ? logUpTo : newest;
      }
      statements = seen.writing().size();
      if (seen.unread() > 0) {
        notes.add(seen.unread() + " more statements were not looked at");
      }
      seen.writing()
          .forEach(
              (fingerprint, writing) -> {
                ObjectNode event = events.seen(fingerprint, writing);
                if (event.path("outputs").isEmpty()) {
                  return; // its table has no schema in the text, so it is not known which it is
                }
                report(event, ReaderEvents.refOf(event), ReaderEvents.digest(event));
              });
      // A statement seen once is not reported again, and not forgotten either.
      before
          .digests()
          .forEach(
              (ref, digest) -> {
                if (ref.startsWith("@") && ref.contains(".seen.")) {
                  digests.putIfAbsent(ref, digest);
                }
              });
      Instant since = from == null ? now : from;
      var known = new TreeSet<>(digests.keySet());
      seen.readers()
          .forEach(
              (table, readers) -> {
                ObjectNode event = events.usage(table, readers, since, now);
                if (event != null && known.contains(ReaderEvents.refOf(event))) {
                  changed++;
                  each.accept(event.toString());
                }
              });
    }

    /** What the server counted since the last reading. */
    private void counted(List<PostgresCatalog.Counted> all, Statements seen) {
      calls.clear();
      for (PostgresCatalog.Counted one : all) {
        String key = one.user() + " " + Fingerprint.of(one.text()).substring(0, 24);
        long earlier = before.calls().getOrDefault(key, 0L);
        // Fewer than before: the server began to count anew.
        seen.add(
            one.user(), one.text(), one.calls() >= earlier ? one.calls() - earlier : one.calls());
        calls.merge(key, one.calls(), Long::sum);
      }
    }

    Reading done() {
      var found =
          new Found(
              tables, views, columns, functions, dropped, statements, changed, List.copyOf(notes));
      return new Reading(found, new ReadingState(digests, calls, countedAt, logUpTo));
    }
  }
}
