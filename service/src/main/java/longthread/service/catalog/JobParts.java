package longthread.service.catalog;

import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.Arrays;
import java.util.List;
import java.util.TreeSet;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.event.ColumnLink;
import longthread.core.event.Flow;
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.service.web.StoredText;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/** What a job reads and writes now: the union of its newest runs' shapes, and what its SQL adds. */
@Component
public class JobParts {
  private static final int RUNS = 5;

  /**
   * What a job reads and writes.
   *
   * @param inputs references of the assets it reads
   * @param shape what its runs stated, and what its SQL adds to that
   * @param stated what its runs stated
   */
  public record Parts(List<String> inputs, List<String> outputs, Shape shape, Shape stated) {}

  private final JdbcTemplate jdbc;
  private final Catalog catalog;

  JobParts(JdbcTemplate jdbc, Catalog catalog) {
    this.jdbc = jdbc;
    this.catalog = catalog;
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
    Shape all = Shape.union(List.of(stated, derived(job)));
    var inputs = new TreeSet<String>();
    all.inputs().forEach(name -> inputs.add(catalog.leadOf(name.reference())));
    var outputs = new TreeSet<String>();
    all.outputs().forEach(name -> outputs.add(catalog.leadOf(name.reference())));
    return new Parts(List.copyOf(inputs), List.copyOf(outputs), all, stated);
  }

  /** What was read out of the job's SQL when it was worked in, as a shape. */
  private Shape derived(String job) {
    var inputs = new TreeSet<DatasetName>();
    var outputs = new TreeSet<DatasetName>();
    var columns = new TreeSet<ColumnLink>();
    jdbc.query(
        "select f.ref, l.from_column, t.ref, l.to_column, l.flow, l.masking from link l"
            + " join job j on l.owner_kind = 2 and j.id = l.owner_id"
            + " join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset"
            + " where j.ref = ? and l.until is null and l.evidence = 'derived'",
        row -> {
          ColumnLink link = link(row);
          inputs.add(link.from().dataset());
          outputs.add(link.to().dataset());
          // Those of rows follow from the others.
          if (link.flow().group() != Flow.Group.ROWS && link.flow() != Flow.READS) {
            columns.add(link);
          }
        },
        job);
    var described = new TreeSet<ColumnName>();
    if (!outputs.isEmpty()) {
      jdbc.query(
          "select m.described from job_map m join job j on m.owner_kind = 2 and j.id = m.owner_id"
              + " where j.ref = ?",
          row -> {
            Arrays.stream((String[]) row.getArray(1).getArray())
                .map(ColumnName::parse)
                .forEach(described::add);
          },
          job);
    }
    return new Shape(inputs, outputs, columns, described, new TreeSet<>(), false);
  }

  private static ColumnLink link(ResultSet row) throws SQLException {
    return new ColumnLink(
        new ColumnName(DatasetName.parse(row.getString(1)), row.getString(2)),
        new ColumnName(DatasetName.parse(row.getString(3)), row.getString(4)),
        Flow.valueOf(row.getString(5)),
        row.getBoolean(6));
  }
}
