package longthread.service.lineage;

import java.time.Instant;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import longthread.core.graph.GraphView;
import longthread.service.live.Catalog;
import longthread.service.storage.graph.LinkQueries;
import org.jspecify.annotations.Nullable;

/** Why the links of a view are believed, fetched for the whole view at once. */
final class LinkEvidence {
  /** The words for why a link is believed, the most telling first. */
  private static final List<String> WORDS =
      List.of("confirmed", "observed", "derived", "declared", "recorded");

  /** Why a link is believed, when it was seen, and by which version of its job. */
  record Seen(String evidence, @Nullable Integer version, Instant first, Instant last) {
    /** A link that a run reported and its SQL confirms is observed, and more. */
    String word() {
      return confirmed() ? "observed" : evidence;
    }

    boolean confirmed() {
      return evidence.equals("confirmed");
    }

    Seen with(Seen other) {
      return new Seen(
          WORDS.indexOf(evidence) <= WORDS.indexOf(other.evidence) ? evidence : other.evidence,
          version == null || (other.version != null && other.version > version)
              ? other.version
              : version,
          first.isBefore(other.first) ? first : other.first,
          last.isAfter(other.last) ? last : other.last);
    }
  }

  private final LinkQueries links;
  private final Catalog catalog;
  private final Map<String, Seen> byColumns = new HashMap<>();
  private final Map<String, Seen> byAssets = new HashMap<>();
  private final Map<String, Seen> byOwner = new HashMap<>();

  LinkEvidence(LinkQueries links, Catalog catalog) {
    this.links = links;
    this.catalog = catalog;
  }

  void load(GraphView view) {
    var owners = new LinkedHashSet<String>();
    view.links().forEach(link -> owners.add(String.valueOf(link.owner())));
    view.deciding().forEach(link -> owners.add(String.valueOf(link.owner())));
    String[] refs = owners.toArray(String[]::new);
    for (LinkQueries.Evidence row : links.evidence(refs)) {
      var seen = new Seen(row.evidence(), row.version(), row.firstSeen(), row.lastSeen());
      String from = catalog.leadOf(row.from());
      String to = catalog.leadOf(row.to());
      merge(
          byColumns,
          from + column(row.fromColumn()),
          to + column(row.toColumn()),
          row.owner(),
          seen);
      merge(byAssets, from, to, row.owner(), seen);
      byOwner.merge(row.owner(), seen, Seen::with);
    }
  }

  private static String column(String path) {
    return path.equals("*") ? "" : "#" + path;
  }

  private static void merge(
      Map<String, Seen> into, String from, String to, String owner, Seen seen) {
    into.merge(from + "\n" + to + "\n" + owner, seen, Seen::with);
  }

  /** The evidence of a link; of a link to or from a job, that of all the job's links. */
  @Nullable Seen of(GraphView.Link link) {
    String key = link.from() + "\n" + link.to() + "\n" + link.owner();
    Seen seen = byColumns.get(key);
    if (seen == null) {
      seen = byAssets.get(key);
    }
    return seen == null && link.owner() != null ? byOwner.get(link.owner()) : seen;
  }
}
