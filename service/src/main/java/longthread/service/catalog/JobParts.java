package longthread.service.catalog;

import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.core.history.LaidShape;
import longthread.core.sql.Derivation;
import longthread.core.sql.Derivation.Derived;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.SqlReader;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/** What a job reads and writes now: the union of its newest runs' shapes. */
@Component
public class JobParts {
  private static final int RUNS = 5;

  /**
   * What a job reads and writes.
   *
   * @param inputs references of the assets it reads
   * @param shape what its runs stated, and what its SQL adds to that
   * @param stated what its runs stated
   * @param sql what its SQL says; null if it reported none
   */
  public record Parts(
      List<String> inputs,
      List<String> outputs,
      Shape shape,
      Shape stated,
      @Nullable Derived sql) {}

  private final JdbcTemplate jdbc;
  private final Catalog catalog;

  private final SqlReader reader;

  JobParts(JdbcTemplate jdbc, Catalog catalog, SqlReader reader) {
    this.jdbc = jdbc;
    this.catalog = catalog;
    this.reader = reader;
  }

  /** Returns the parts of the job with this reference. */
  public Parts of(String job) {
    List<Shape> shapes =
        jdbc.query(
            "select distinct on (digest) s.body from run_shape rs join shape s using (digest)"
                + " join (select r.run_id, r.job_id from run r join job j on j.id = r.job_id"
                + " where j.ref = ? order by r.started_at desc limit ?) newest"
                + " on newest.run_id = rs.run_id and newest.job_id = rs.job_id",
            (row, n) -> ShapeText.read(StoredText.text(row.getBytes(1))),
            job,
            RUNS);
    List<Shape> declared =
        jdbc.query(
            "select s.body from declared d join shape s using (digest) join job j on"
                + " d.owner_kind = 2 and j.id = d.owner_id where j.ref = ? and not d.far"
                + " order by d.at_s desc, d.at_n desc, d.digest desc limit 1",
            (row, n) -> ShapeText.read(StoredText.text(row.getBytes(1))),
            job);
    Shape stated = Shape.union(List.of(Shape.union(shapes), Shape.union(declared)));
    Derived sql = sql(job);
    Shape all = sql == null ? stated : LaidShape.of(stated).with(sql.shape()).shape();
    var inputs = new TreeSet<String>();
    all.inputs().forEach(name -> inputs.add(catalog.leadOf(name.reference())));
    var outputs = new TreeSet<String>();
    all.outputs().forEach(name -> outputs.add(catalog.leadOf(name.reference())));
    return new Parts(List.copyOf(inputs), List.copyOf(outputs), all, stated, sql);
  }

  private @Nullable Derived sql(String job) {
    Card.Code code = catalog.asset(job).map(asset -> asset.card().code()).orElse(null);
    if (code == null || !code.language().equals("sql")) {
      return null;
    }
    // The text that ran last goes with what that run named; others may have named other parts.
    List<Shape> last =
        jdbc.query(
            "select s.body from run_shape rs join shape s using (digest) where (rs.run_id, rs.job_id)"
                + " = (select r.run_id, r.job_id from run r join job j on j.id = r.job_id"
                + " where j.ref = ? order by r.state = 'completed' desc, r.started_at desc,"
                + " r.run_id limit 1)",
            (row, n) -> ShapeText.read(StoredText.text(row.getBytes(1))),
            job);
    return Derivation.of(reader, code.text(), code.dialect(), Shape.union(last), this::columns);
  }

  /** The columns of a dataset as they are known now. */
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
