package longthread.service.catalog;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
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
   * @param text as it stands in the SQL; dates that pass from run to run are left out
   * @param by the job that sets it, or the view
   */
  public record ConstantBranch(String text, String by) {}

  private final AssetLinkQueries links;
  private final Catalog catalog;

  ConstantBranches(AssetLinkQueries links, Catalog catalog) {
    this.links = links;
    this.catalog = catalog;
  }

  /** The constants of the columns of assets, by the columns' references; in one query. */
  public Map<String, List<ConstantBranch>> of(Collection<Asset> assets) {
    var found = new LinkedHashMap<String, List<ConstantBranch>>();
    String[] parts = assets.stream().flatMap(a -> a.parts().stream()).toArray(String[]::new);
    if (parts.length == 0) {
      return found;
    }
    for (AssetLinkQueries.Constant row : links.constants(parts)) {
      int hash = row.column().indexOf('#');
      String column =
          catalog.leadOf(row.column().substring(0, hash)) + row.column().substring(hash);
      var branch = new ConstantBranch(row.text(), row.owner());
      List<ConstantBranch> list = found.computeIfAbsent(column, k -> new ArrayList<>());
      if (!list.contains(branch)) {
        list.add(branch);
      }
    }
    return found;
  }
}
