package longthread.service.catalog;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/**
 * The branches on which jobs set a column to a constant: they carry no data from upstream, so no
 * link can show them.
 */
@Component
public class ConstantBranches {
  /**
   * A constant that a column is set to.
   *
   * @param text as it stands in the SQL; dates that pass from run to run are left out
   * @param by the job that sets it, or the view
   */
  public record ConstantBranch(String text, String by) {}

  private final JdbcTemplate jdbc;
  private final Catalog catalog;

  ConstantBranches(JdbcTemplate jdbc, Catalog catalog) {
    this.jdbc = jdbc;
    this.catalog = catalog;
  }

  /** The constants of the columns of assets, by the columns' references; in one query. */
  public Map<String, List<ConstantBranch>> of(Collection<Asset> assets) {
    var found = new LinkedHashMap<String, List<ConstantBranch>>();
    String[] parts = assets.stream().flatMap(a -> a.parts().stream()).toArray(String[]::new);
    if (parts.length == 0) {
      return found;
    }
    jdbc.query(
        "select c.col, c.text, coalesce(j.ref, v.ref) from (select distinct l.owner_kind,"
            + " l.owner_id from link l join dataset d on d.id = l.to_dataset"
            + " where d.ref = any(?) and l.until is null) o join job_map m using (owner_kind,"
            + " owner_id) cross join lateral unnest(m.constant_columns, m.constant_texts)"
            + " as c(col, text) left join job j on o.owner_kind = 2 and j.id = o.owner_id"
            + " left join dataset v on o.owner_kind = 1 and v.id = o.owner_id"
            + " where split_part(c.col, '#', 1) = any(?) order by 3, 1, 2",
        row -> {
          String column = row.getString(1);
          int hash = column.indexOf('#');
          var branch = new ConstantBranch(row.getString(2), row.getString(3));
          List<ConstantBranch> list =
              found.computeIfAbsent(
                  catalog.leadOf(column.substring(0, hash)) + column.substring(hash),
                  k -> new ArrayList<>());
          if (!list.contains(branch)) {
            list.add(branch);
          }
        },
        parts,
        parts);
    return found;
  }
}
