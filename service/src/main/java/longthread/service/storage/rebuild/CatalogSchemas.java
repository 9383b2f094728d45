package longthread.service.storage.rebuild;

import java.util.List;
import org.hibernate.StatelessSession;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/**
 * The schemas that hold catalogs: the live one, and the one that a rebuild fills beside it. Here
 * the names of tables are data, so these statements are text.
 */
@Repository
@Transactional
public class CatalogSchemas {
  public static final String LIVE = "catalog";
  public static final String NEXT = "catalog_next";
  private static final String BEFORE = "catalog_before";

  private final StatelessSession session;

  public CatalogSchemas(StatelessSession session) {
    this.session = session;
  }

  /** Makes the tables of the live catalog again, empty, in the schema of the next one. */
  public void createNext() {
    execute("drop schema if exists " + NEXT + " cascade");
    execute("create schema " + NEXT);
    for (String table :
        texts("select tablename from pg_tables where schemaname = '" + LIVE + "' order by 1")) {
      execute("create table %s.%s (like %s.%s including all)".formatted(NEXT, table, LIVE, table));
    }
    String link = texts("select pg_get_viewdef('" + LIVE + ".link'::regclass)").get(0);
    execute("create view " + NEXT + ".link as " + link.replace(LIVE + ".", NEXT + "."));
    execute("create table " + NEXT + ".rebuilt_block (id bigint primary key)");
  }

  /**
   * Puts the next catalog in the place of the live one; the old one is kept until the next time.
   */
  public void switchToNext() {
    execute("drop schema if exists " + BEFORE + " cascade");
    execute("alter schema " + LIVE + " rename to " + BEFORE);
    execute("alter schema " + NEXT + " rename to " + LIVE);
    execute("drop table " + LIVE + ".rebuilt_block");
  }

  /** Number and hash sum of the rows of a query, in the catalog of a schema. */
  public String sum(String schema, CatalogQuery query) {
    return inSchema(
            schema,
            "select count(*) || ' ' || coalesce(sum(('x' || substr(md5(q::text), 1, 15))::bit(60)"
                + "::bigint), 0) from ("
                + query.sql()
                + ") q")
        .get(0);
  }

  /** The rows of a query as text, in the catalog of a schema. */
  public List<String> rows(String schema, CatalogQuery query) {
    return inSchema(schema, "select q::text from (" + query.sql() + ") q");
  }

  private List<String> inSchema(String schema, String sql) {
    String path = texts("select current_setting('search_path')").get(0);
    execute("set local search_path to " + schema + ", public");
    try {
      return texts(sql);
    } finally {
      execute("set local search_path to " + path);
    }
  }

  private void execute(String statement) {
    session.createNativeMutationQuery(statement).executeUpdate();
  }

  private List<String> texts(String sql) {
    // Colons of casts would be read as parameters.
    return session.createNativeQuery(sql.replace("::", "\\:\\:"), String.class).getResultList();
  }
}
