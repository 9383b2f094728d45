package longthread.service.preview;

import java.util.ArrayList;
import java.util.List;
import longthread.core.asset.Card;
import longthread.core.asset.Reference;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.LabelBoard;
import org.springframework.stereotype.Component;

/** Assets that are one thing at their source, though the catalog does not know it. */
@Component
class SourceTwins {
  private final PreviewSources sources;
  private final Catalog catalog;
  private final LabelBoard labels;

  SourceTwins(PreviewSources sources, Catalog catalog, LabelBoard labels) {
    this.sources = sources;
    this.catalog = catalog;
    this.labels = labels;
  }

  /**
   * The assets that are the same thing at the source as this one, itself included: another spelling
   * of a table's name must not show what the labels of its usual name hide.
   */
  List<Asset> of(Asset asset, PreviewSources.Match match) {
    PreviewSources.Identity identity = sources.identity(match);
    PreviewSources.Matcher matcher = sources.matcher();
    if (identity == null) {
      return List.of(asset); // it is not read
    }
    var same = new ArrayList<Asset>(List.of(asset));
    for (Asset other : catalog.all()) {
      boolean isSame =
          !other.isJob()
              && other.parts().stream()
                  .flatMap(part -> matcher.holding(part).stream())
                  .map(sources::identity)
                  .anyMatch(own -> own != null && own.isSame(identity));
      if (isSame && !same.contains(other)) {
        same.add(other);
      }
    }
    return same;
  }

  /** Whether a column has a label under any of these names, in any spelling of its own. */
  boolean isLabelled(List<Asset> twins, String column) {
    for (Asset asset : twins) {
      for (Card.Column one : asset.card().columns()) {
        if (Reference.decode(one.path()).equalsIgnoreCase(column)
            && !labels.of(asset.ref(), one.path()).isEmpty()) {
          return true;
        }
      }
    }
    return false;
  }
}
