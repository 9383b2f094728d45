package longthread.service.live;

import java.security.SecureRandom;
import java.util.Collection;
import java.util.List;
import longthread.core.asset.Kind;
import longthread.core.asset.Reference;
import longthread.service.storage.preview.PreviewQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/** Makes of granted scopes what their holder may see. */
@Component
public class Sights {
  private static final String SECRET = "restricted-alias";
  private static final int SECRET_BYTES = 32;
  private static final String STEP = "preparation step"; // as workspaces describe their datasets
  private static final int MAX_NAMES = 50; // of an asset whose systems all count

  private final Catalog catalog;
  private final LabelBoard labels;
  private final PreviewQueries stored;
  private byte @Nullable [] secret;

  Sights(Catalog catalog, LabelBoard labels, PreviewQueries stored) {
    this.catalog = catalog;
    this.labels = labels;
    this.stored = stored;
  }

  /** What somebody may see who reads some scopes and changes some. */
  public Sight of(Collection<Scope> reads, Collection<Scope> edits) {
    List<Scope> changed = List.copyOf(edits);
    if (reads.contains(Scope.EVERYTHING)) {
      return Sight.whole(asset -> covers(changed, asset), changed.contains(Scope.EVERYTHING));
    }
    List<Scope> read = List.copyOf(reads);
    return new Sight(
        asset -> covers(read, asset) || covers(changed, asset),
        asset -> covers(changed, asset),
        changed.contains(Scope.EVERYTHING),
        secret());
  }

  private boolean covers(List<Scope> scopes, Asset asset) {
    return scopes.stream().anyMatch(scope -> covers(scope, asset));
  }

  private boolean covers(Scope scope, Asset asset) {
    return switch (scope.kind()) {
      case EVERYTHING -> true;
      case SYSTEM -> isIn(scope.value(), asset);
      case WORKSPACE -> isItemOf(scope.value(), refreshed(asset));
      case LABEL -> labels.wordsOf(asset).contains(scope.value());
    };
  }

  private static boolean isItemOf(String workspace, Asset asset) {
    boolean isStep =
        asset.kind() == Kind.DATASET
            && asset.card().details().stream()
                .anyMatch(detail -> detail.name().equals("type") && detail.value().equals(STEP));
    List<String> container = asset.card().container();
    return isStep
        ? !container.isEmpty() && container.get(0).equals(workspace)
        : workspace.equals(workspaceOf(asset));
  }

  /** Of a job that refreshes an item of a workspace, that item; else the asset itself. */
  private Asset refreshed(Asset asset) {
    return asset.isJob()
        ? catalog.known(asset.ref().substring(Reference.JOB_PREFIX.length())).orElse(asset)
        : asset;
  }

  /** Whether an asset is in a system under one of its names. */
  private boolean isIn(String system, Asset asset) {
    return asset.system().equals(system)
        || (!asset.isJob()
            && asset.parts().size() > 1
            && asset.parts().stream()
                .limit(MAX_NAMES)
                .anyMatch(part -> catalog.systemOfName(part).equals(system)));
  }

  /** The workspace that a model, chart, report or dashboard is in; null for everything else. */
  public static @Nullable String workspaceOf(Asset asset) {
    Kind kind = asset.kind();
    boolean isItem =
        kind == Kind.MODEL || kind == Kind.CHART || kind == Kind.REPORT || kind == Kind.DASHBOARD;
    return isItem && !asset.card().container().isEmpty() ? asset.card().container().get(0) : null;
  }

  /** Made once for an installation, so that all replicas give the same aliases. */
  private synchronized byte[] secret() {
    byte[] known = secret;
    if (known == null) {
      var fresh = new byte[SECRET_BYTES];
      new SecureRandom().nextBytes(fresh);
      stored.addSecret(SECRET, fresh);
      known = stored.secret(SECRET).orElse(fresh);
      secret = known;
    }
    return known;
  }
}
