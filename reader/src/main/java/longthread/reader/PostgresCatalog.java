package longthread.reader;

import java.sql.Array;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** The system catalog of one PostgreSQL database, read in a few statements. For one thread. */
final class PostgresCatalog {
  /** A table, view, materialised view or foreign table. */
  record Relation(
      long oid,
      String schema,
      String name,
      String kind,
      String owner,
      @Nullable String comment,
      double rows,
      long bytes,
      int partitions,
      @Nullable String definition) {}

  record Column(String name, String type, boolean required, @Nullable String comment, int number) {}

  /** A key; {@code of} and {@code ofColumns} only of a foreign one. */
  record Key(
      String name,
      String kind,
      List<String> columns,
      @Nullable String of,
      List<String> ofColumns) {}

  record Function(
      String schema,
      String name,
      String arguments,
      String language,
      @Nullable String comment,
      String body) {}

  /** A label on a relation, or on one of its columns where the number is above 0. */
  record Label(long relation, int column, String label) {}

  /** A statement that the server counted. */
  record Counted(String user, String text, long calls) {}

  private final Connection connection;
  private final String[] schemas;

  PostgresCatalog(Connection connection, List<String> schemas) {
    this.connection = connection;
    this.schemas = schemas.toArray(String[]::new);
  }

  private interface Row<T> {
    T of(ResultSet row) throws SQLException;
  }

  private <T> List<T> rows(String sql, Row<T> each, Object... parameters) throws SQLException {
    try (PreparedStatement statement = connection.prepareStatement(sql)) {
      statement.setFetchSize(1_000);
      for (int i = 0; i < parameters.length; i++) {
        statement.setObject(i + 1, parameters[i]);
      }
      var rows = new ArrayList<T>();
      try (ResultSet result = statement.executeQuery()) {
        while (result.next()) {
          rows.add(each.of(result));
        }
      }
      return rows;
    }
  }

  private Array wanted() throws SQLException {
    return connection.createArrayOf("text", schemas);
  }

  private static final String OURS =
      " n.nspname not in ('pg_catalog', 'information_schema') and n.nspname not like 'pg\\_toast%'"
          + " and n.nspname not like 'pg\\_temp%' and (cardinality(?::text[]) = 0"
          + " or n.nspname = any(?::text[])) ";

  /** Those of the schemas asked for that there are none of. */
  List<String> unknownSchemas() throws SQLException {
    return rows(
        "select w from unnest(?::text[]) w where w not in (select nspname from pg_namespace)",
        row -> row.getString(1),
        wanted());
  }

  /** All relations but partitions, which belong to their table. */
  List<Relation> relations() throws SQLException {
    return rows(
        "select c.oid, n.nspname, c.relname, c.relkind::text, pg_get_userbyid(c.relowner),"
            + " obj_description(c.oid, 'pg_class'),"
            + " case when c.relkind = 'p' then coalesce((select sum(greatest(p.reltuples, 0))"
            + "   from pg_inherits i join pg_class p on p.oid = i.inhrelid where i.inhparent = c.oid), 0)"
            + "   else greatest(c.reltuples, 0) end,"
            + " case when c.relkind in ('r', 'm') then pg_total_relation_size(c.oid) else 0 end,"
            + " (select count(*) from pg_inherits i where i.inhparent = c.oid),"
            + " case when c.relkind in ('v', 'm') then pg_get_viewdef(c.oid, true) end"
            + " from pg_class c join pg_namespace n on n.oid = c.relnamespace"
            + " where c.relkind in ('r', 'p', 'v', 'm', 'f') and not c.relispartition and"
            + OURS
            + "order by n.nspname, c.relname",
        row ->
            new Relation(
                row.getLong(1),
                row.getString(2),
                row.getString(3),
                row.getString(4),
                row.getString(5),
                row.getString(6),
                row.getDouble(7),
                row.getLong(8),
                row.getInt(9),
                row.getString(10)),
        wanted(),
        wanted());
  }

  /** The columns of all relations, in their order. */
  Map<Long, List<Column>> columns() throws SQLException {
    var columns = new LinkedHashMap<Long, List<Column>>();
    rows(
        "select a.attrelid, a.attname, format_type(a.atttypid, a.atttypmod), a.attnotnull,"
            + " col_description(a.attrelid, a.attnum), a.attnum from pg_attribute a"
            + " join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace"
            + " where a.attnum > 0 and not a.attisdropped"
            + " and c.relkind in ('r', 'p', 'v', 'm', 'f') and not c.relispartition and"
            + OURS
            + "order by a.attrelid, a.attnum",
        row ->
            columns
                .computeIfAbsent(row.getLong(1), k -> new ArrayList<>())
                .add(
                    new Column(
                        row.getString(2),
                        row.getString(3),
                        row.getBoolean(4),
                        row.getString(5),
                        row.getInt(6))),
        wanted(),
        wanted());
    return columns;
  }

  /** Primary, unique and foreign keys. */
  Map<Long, List<Key>> keys() throws SQLException {
    var keys = new LinkedHashMap<Long, List<Key>>();
    rows(
        "select k.conrelid, k.conname, k.contype::text,"
            + " array(select a.attname::text from unnest(k.conkey) with ordinality u(n, i)"
            + "   join pg_attribute a on a.attrelid = k.conrelid and a.attnum = u.n order by u.i),"
            + " fn.nspname || '.' || f.relname,"
            + " array(select a.attname::text from unnest(k.confkey) with ordinality u(n, i)"
            + "   join pg_attribute a on a.attrelid = k.confrelid and a.attnum = u.n order by u.i)"
            + " from pg_constraint k join pg_class c on c.oid = k.conrelid"
            + " join pg_namespace n on n.oid = c.relnamespace"
            + " left join pg_class f on f.oid = k.confrelid"
            + " left join pg_namespace fn on fn.oid = f.relnamespace"
            + " where k.contype in ('p', 'u', 'f') and"
            + OURS
            + "order by k.conrelid, k.contype, k.conname",
        row ->
            keys.computeIfAbsent(row.getLong(1), k -> new ArrayList<>())
                .add(
                    new Key(
                        row.getString(2),
                        switch (row.getString(3)) {
                          case "p" -> "primary";
                          case "u" -> "unique";
                          default -> "foreign";
                        },
                        List.of((String[]) row.getArray(4).getArray()),
                        row.getString(5),
                        List.of((String[]) row.getArray(6).getArray()))),
        wanted(),
        wanted());
    return keys;
  }

  /** Functions and procedures whose text is SQL, or has SQL in it. */
  List<Function> functions() throws SQLException {
    return rows(
        "select n.nspname, p.proname, pg_get_function_identity_arguments(p.oid), l.lanname,"
            + " obj_description(p.oid, 'pg_proc'),"
            + " coalesce(pg_get_function_sqlbody(p.oid), p.prosrc)"
            + " from pg_proc p join pg_namespace n on n.oid = p.pronamespace"
            + " join pg_language l on l.oid = p.prolang"
            + " where p.prokind in ('f', 'p') and l.lanname in ('sql', 'plpgsql')"
            + " and not exists (select from pg_depend d where d.objid = p.oid and d.deptype = 'e') and"
            + OURS
            + "order by 1, 2, 3",
        row ->
            new Function(
                row.getString(1),
                row.getString(2),
                row.getString(3),
                row.getString(4),
                row.getString(5),
                row.getString(6)),
        wanted(),
        wanted());
  }

  /** Security labels of the provider {@code longthread}. */
  List<Label> labels() throws SQLException {
    return rows(
        "select objoid, objsubid, label from pg_seclabel where provider = 'longthread'"
            + " and classoid = 'pg_class'::regclass order by 1, 2",
        row -> new Label(row.getLong(1), row.getInt(2), row.getString(3)));
  }

  /** Where the extension that counts statements is; null if it is not there or may not be read. */
  @Nullable String countedIn() throws SQLException {
    List<String> found =
        rows(
            "select n.nspname from pg_extension e join pg_namespace n on n.oid = e.extnamespace"
                + " where e.extname = 'pg_stat_statements'",
            row -> row.getString(1));
    return found.isEmpty() ? null : found.get(0);
  }

  /** The statements that the server counted for this database. */
  List<Counted> counted(String schema) throws SQLException {
    return rows(
        "select pg_get_userbyid(s.userid), s.query, sum(s.calls)::bigint from \""
            + schema.replace("\"", "\"\"")
            + "\".pg_stat_statements s join pg_database d on d.oid = s.dbid"
            + " where d.datname = current_database() and s.query <> '<insufficient privilege>'"
            + " group by 1, 2 order by 3 desc limit 5000",
        row -> new Counted(row.getString(1), row.getString(2), row.getLong(3)));
  }

  /** Since when the server counts statements; null if it does not say. */
  @Nullable Instant countedSince(String schema) throws SQLException {
    List<Timestamp> since =
        rows(
            "select stats_reset from \""
                + schema.replace("\"", "\"\"")
                + "\".pg_stat_statements_info",
            row -> row.getTimestamp(1));
    return since.isEmpty() || since.get(0) == null ? null : since.get(0).toInstant();
  }
}
