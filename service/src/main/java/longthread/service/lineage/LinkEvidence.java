package longthread.service.lineage;

import java.time.Instant;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import longthread.core.graph.GraphView;
import longthread.service.catalog.Catalog;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;

/** Why the links of a view are believed, fetched for the whole view at once. */
final class LinkEvidence {
  /** The words for why a link is believed, the most telling first. */
  private static final List<String> WORDS = List.of("confirmed", "observed", "derived", "declared");

  /** Why a link is believed, when it was seen, and by which version of its job. */
  record Seen(String evidence, @Nullable Integer version, Instant first, Instant last) {
    /** A link that a run reported and its SQL tells of too is observed, and more. */
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

  private final JdbcTemplate jdbc;
  private final Catalog catalog;
  private final Map<String, Seen> byColumns = new HashMap<>();
  private final Map<String, Seen> byAssets = new HashMap<>();
  private final Map<String, Seen> byOwner = new HashMap<>();

  LinkEvidence(JdbcTemplate jdbc, Catalog catalog) {
    this.jdbc = jdbc;
    this.catalog = catalog;
  }

  void load(GraphView view) {
    var owners = new LinkedHashSet<String>();
    view.links().forEach(link -> owners.add(String.valueOf(link.owner())));
    view.deciding().forEach(link -> owners.add(String.valueOf(link.owner())));
    String[] refs = owners.toArray(String[]::new);
    jdbc.query(
        "select coalesce(j.ref, o.ref), f.ref, l.from_column, t.ref, l.to_column, l.evidence,"
            + " v.number, l.first_seen, l.last_seen from link l"
            + " join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset"
            + " left join job j on l.owner_kind = 2 and j.id = l.owner_id"
            + " left join dataset o on l.owner_kind = 1 and o.id = l.owner_id"
            + " left join job_version v on l.owner_kind = 2 and v.job_id = l.owner_id"
            + " and v.hash = l.version where l.until is null and"
            + " ((l.owner_kind = 2 and l.owner_id in (select id from job where ref = any(?))) or"
            + " (l.owner_kind = 1 and l.owner_id in (select id from dataset where ref = any(?))))",
        row -> {
          var seen =
              new Seen(
                  row.getString(6),
                  row.getObject(7, Integer.class),
                  row.getTimestamp(8).toInstant(),
                  row.getTimestamp(9).toInstant());
          String owner = row.getString(1);
          String from = catalog.leadOf(row.getString(2));
          String to = catalog.leadOf(row.getString(4));
          merge(
              byColumns,
              from + column(row.getString(3)),
              to + column(row.getString(5)),
              owner,
              seen);
          merge(byAssets, from, to, owner, seen);
          byOwner.merge(owner, seen, Seen::with);
        },
        refs,
        refs);
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
