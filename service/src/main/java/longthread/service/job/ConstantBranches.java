package longthread.service.job;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import longthread.core.history.Fingerprint;
import longthread.core.sql.Constant;
import longthread.core.sql.Derivation.Derived;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.storage.graph.AssetLinkQueries;
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
   * @param text as it stands in the SQL that ran last
   * @param by the job that sets it, or the view
   */
  public record ConstantBranch(String text, String by) {}

  private final AssetLinkQueries links;
  private final Catalog catalog;
  private final JobSql jobSql;

  ConstantBranches(AssetLinkQueries links, Catalog catalog, JobSql jobSql) {
    this.links = links;
    this.catalog = catalog;
    this.jobSql = jobSql;
  }

  /**
   * The constants of the columns of assets, by the columns' references; in one query. Only where a
   * constant changes from run to run is the job's SQL read again.
   */
  public Map<String, List<ConstantBranch>> of(Collection<Asset> assets) {
    String[] parts = assets.stream().flatMap(a -> a.parts().stream()).toArray(String[]::new);
    return parts.length == 0 ? Map.of() : byColumn(links.constants(parts));
  }

  /** The constants that a job sets, by the columns' references; in one query. */
  Map<String, List<ConstantBranch>> setBy(Asset job) {
    return byColumn(links.constantsSetBy(job.parts().toArray(String[]::new)));
  }

  private Map<String, List<ConstantBranch>> byColumn(List<AssetLinkQueries.Constant> rows) {
    var found = new LinkedHashMap<String, List<ConstantBranch>>();
    var read = new HashMap<String, Optional<Derived>>();
    for (AssetLinkQueries.Constant row : rows) {
      int hash = row.column().indexOf('#');
      String column =
          catalog.leadOf(row.column().substring(0, hash)) + row.column().substring(hash);
      var branch = new ConstantBranch(asRun(row, read), row.owner());
      List<ConstantBranch> list = found.computeIfAbsent(column, k -> new ArrayList<>());
      if (!list.contains(branch)) {
        list.add(branch);
      }
    }
    return found;
  }

  /**
   * The constant with the date or UUID that it had in the last run: links are kept without these.
   */
  private String asRun(AssetLinkQueries.Constant row, Map<String, Optional<Derived>> read) {
    if (!row.text().contains(Fingerprint.BLANK)) {
      return row.text();
    }
    Optional<Derived> derived =
        read.computeIfAbsent(row.owner(), owner -> catalog.asset(owner).map(jobSql::of));
    String name = row.column().substring(row.column().indexOf('#') + 1);
    return derived.stream()
        .flatMap(sql -> sql.statements().stream())
        .flatMap(statement -> statement.outputs().stream())
        .filter(output -> output.name().equalsIgnoreCase(name))
        .flatMap(output -> output.constants().stream())
        .map(Constant::text)
        .filter(text -> Fingerprint.withoutVolatile(text).equals(row.text()))
        .findFirst()
        .orElse(row.text());
  }
}
