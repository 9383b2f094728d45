package longthread.service.catalog;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.core.asset.DatasetName;
import longthread.core.sql.Derivation.Derived;
import longthread.core.sql.SqlStatement;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/**
 * The branches on which jobs set a column to a constant: they carry no data from upstream, so no
 * link can show them.
 */
@Component
public class ConstantBranches {
  private static final int MOST_JOBS = 20;

  /**
   * A constant that a column is set to.
   *
   * @param text as it stands in the SQL
   * @param by the job that sets it
   */
  public record ConstantBranch(String text, String by) {}

  private final JdbcTemplate jdbc;
  private final Catalog catalog;
  private final JobParts parts;

  ConstantBranches(JdbcTemplate jdbc, Catalog catalog, JobParts parts) {
    this.jdbc = jdbc;
    this.catalog = catalog;
    this.parts = parts;
  }

  /** The constants of a dataset's columns by their paths, of the jobs that write it now. */
  public Map<String, List<ConstantBranch>> of(Asset asset) {
    var found = new LinkedHashMap<String, List<ConstantBranch>>();
    if (asset.ref().startsWith("@")) {
      return found;
    }
    List<String> jobs =
        jdbc.queryForList(
            "select distinct j.ref from link l join job j on l.owner_kind = 2 and j.id = l.owner_id"
                + " join dataset d on d.id = l.to_dataset where l.until is null and d.ref = any(?)"
                + " order by j.ref limit ?",
            String.class,
            asset.parts().toArray(String[]::new),
            MOST_JOBS);
    for (String job : jobs) {
      Derived sql = parts.of(job).sql();
      if (sql != null) {
        sql.statements().forEach(statement -> add(asset, job, sql, statement, found));
      }
    }
    return found;
  }

  private void add(
      Asset asset,
      String job,
      Derived sql,
      SqlStatement statement,
      Map<String, List<ConstantBranch>> found) {
    DatasetName target = statement.target() == null ? null : sql.tables().get(statement.target());
    if (target == null || !catalog.leadOf(target.reference()).equals(asset.ref())) {
      return;
    }
    for (SqlStatement.Output output : statement.outputs()) {
      for (var constant : output.constants()) {
        var branch = new ConstantBranch(constant.text(), job);
        List<ConstantBranch> list = found.computeIfAbsent(output.name(), k -> new ArrayList<>());
        if (!list.contains(branch)) {
          list.add(branch);
        }
      }
    }
  }
}
