package longthread.service.catalog;

import java.util.List;
import java.util.TreeSet;
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.service.web.StoredText;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/** What a job reads and writes now: the union of its newest runs' shapes. */
@Component
public class JobParts {
  private static final int RUNS = 5;

  /** References of the assets read and written. */
  public record Parts(List<String> inputs, List<String> outputs, Shape shape) {}

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
    Shape all = Shape.union(List.of(Shape.union(shapes), Shape.union(declared)));
    var inputs = new TreeSet<String>();
    all.inputs().forEach(name -> inputs.add(catalog.leadOf(name.reference())));
    var outputs = new TreeSet<String>();
    all.outputs().forEach(name -> outputs.add(catalog.leadOf(name.reference())));
    return new Parts(List.copyOf(inputs), List.copyOf(outputs), all);
  }
}
