package longthread.service.sql;

import java.util.ArrayList;
import java.util.List;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.core.sql.Derivation;
import longthread.core.sql.Derivation.Derived;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.SqlReader;
import longthread.service.catalog.Asset;
import longthread.service.catalog.Catalog;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/** The SQL that a job ran last, read step by step with the schemas as they are now. */
@Component
class JobSql {
  private final JdbcTemplate jdbc;
  private final Catalog catalog;
  private final SqlReader reader;

  JobSql(JdbcTemplate jdbc, Catalog catalog, SqlReader reader) {
    this.jdbc = jdbc;
    this.catalog = catalog;
    this.reader = reader;
  }

  /** What the job's SQL says; null if it told none. */
  @Nullable Derived of(Asset job) {
    Card.Code code = job.card().code();
    if (code == null || !code.language().equals("sql")) {
      return null;
    }
    // The text that ran last goes with what that run named; others may have named other parts.
    List<Shape> last =
        jdbc.query(
            "select s.body from run_shape rs join shape s using (digest) where (rs.run_id, rs.job_id)"
                + " = (select r.run_id, r.job_id from run r join job j on j.id = r.job_id"
                + " where j.ref = any(?) order by r.state = 'completed' desc, r.started_at desc,"
                + " r.run_id limit 1)",
            (row, n) -> ShapeText.read(StoredText.text(row.getBytes(1))),
            (Object) job.parts().toArray(String[]::new));
    return Derivation.of(reader, code.text(), code.dialect(), Shape.union(last), this::columns);
  }

  private List<KnownColumn> columns(DatasetName dataset) {
    var columns = new ArrayList<KnownColumn>();
    catalog
        .card(dataset.reference())
        .ifPresent(
            card ->
                card.columns().stream()
                    .filter(c -> c.path().indexOf('.') < 0)
                    .forEach(c -> columns.add(new KnownColumn(c.path(), c.type()))));
    return columns;
  }
}
