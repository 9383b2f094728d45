package longthread.service.statements;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.asset.Reference;
import longthread.core.event.HandFacet;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.ReportedLineage;
import longthread.core.statement.RecordedLineage;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.storage.StoredText;
import longthread.service.storage.graph.AssetLinkQueries;
import longthread.service.storage.statements.StatementQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;

/** Lineage that people recorded, and what became of it. */
@Service
public class RecordedLinks {
  /** So long before its end date a record is listed as ending. */
  public static final Duration SOON = Duration.ofDays(30);

  /** The words for what became of a record. */
  public static final List<String> STATES =
      List.of("confirmed", "unconfirmed", "questioned", "ending", "ended", "withdrawn");

  /** A column that is made from another one, with the word for how. */
  public record RecordedColumn(String from, String to, String flow, boolean masking) {}

  /**
   * What a person recorded.
   *
   * @param job absent where nobody knows what job moves the data
   * @param state one of {@link #STATES}
   * @param why one sentence about the state
   * @param until when it ends; absent if it stands until it is withdrawn
   */
  public record RecordedLink(
      String id,
      @Nullable String title,
      @Nullable String job,
      List<String> reads,
      List<String> writes,
      List<RecordedColumn> columns,
      String by,
      String reason,
      Instant since,
      @Nullable Instant until,
      String state,
      String why) {}

  private final StatementQueries stored;
  private final AssetLinkQueries links;
  private final Catalog catalog;
  private final Clock clock;

  RecordedLinks(StatementQueries stored, AssetLinkQueries links, Catalog catalog, Clock clock) {
    this.stored = stored;
    this.links = links;
    this.catalog = catalog;
    this.clock = clock;
  }

  /** All that is recorded, the newest first; with an asset, what names it. */
  @Transactional(readOnly = true)
  public List<RecordedLink> all(@Nullable Asset about) {
    var byId = new TreeMap<String, Map<String, JsonNode>>();
    for (StatementQueries.Set row : stored.standing(HandFacet.RECORDED + "%")) {
      JsonNode facet = StoredText.json(row.body());
      if (facet.path("value").isObject()) {
        byId.computeIfAbsent(
                row.key().substring(HandFacet.RECORDED.length()), k -> new LinkedHashMap<>())
            .put(row.ref(), facet);
      }
    }
    var all = new ArrayList<RecordedLink>();
    byId.forEach((id, owners) -> all.add(link(id, owners)));
    if (about != null) {
      all.removeIf(link -> !names(link).contains(about.ref()));
    }
    all.sort(Comparator.comparing(RecordedLink::since).reversed().thenComparing(RecordedLink::id));
    return all;
  }

  /** The leading names of all assets that a record names. */
  private Set<String> names(RecordedLink link) {
    var names = new TreeSet<String>();
    link.reads().forEach(ref -> names.add(catalog.leadOf(ref)));
    link.writes().forEach(ref -> names.add(catalog.leadOf(ref)));
    if (link.job() != null) {
      names.add(link.job());
    }
    return names;
  }

  private RecordedLink link(String id, Map<String, JsonNode> owners) {
    var lineages = new ArrayList<ReportedLineage>();
    String job = null;
    JsonNode newest = null;
    Instant until = null;
    boolean withdrawn = true;
    for (var owner : owners.entrySet()) {
      JsonNode value = owner.getValue().path("value");
      boolean isJob = Reference.isJob(owner.getKey());
      job = isJob ? owner.getKey() : job;
      if (value.has("withdrawn") && owners.size() > 1 && newest != null) {
        continue; // a target that the record does not name any more
      }
      lineages.add(
          RecordedLineage.lineage(value, isJob ? null : DatasetName.parse(owner.getKey())));
      newest = owner.getValue();
      until = RecordedLineage.end(value);
      withdrawn = value.has("withdrawn");
    }
    ReportedLineage lineage = ReportedLineage.union(lineages);
    JsonNode facet = java.util.Objects.requireNonNull(newest);
    JsonNode value = facet.path("value");
    var columns = new ArrayList<RecordedColumn>();
    for (ColumnLink link : lineage.columns()) {
      columns.add(
          new RecordedColumn(
              link.from().reference(),
              link.to().reference(),
              link.flow().name().toLowerCase(java.util.Locale.ROOT).replace('_', '-'),
              link.masking()));
    }
    State state = state(lineage, job, until, withdrawn);
    return new RecordedLink(
        id,
        value.path("title").stringValue(null),
        job,
        lineage.inputs().stream().map(DatasetName::reference).toList(),
        lineage.outputs().stream().map(DatasetName::reference).toList(),
        columns,
        facet.path("by").stringValue(""),
        facet.path("reason").stringValue(""),
        OffsetDateTime.parse(value.path("since").stringValue("")).toInstant(),
        until,
        state.word(),
        state.why());
  }

  private record State(String word, String why) {}

  private State state(
      ReportedLineage lineage, @Nullable String job, @Nullable Instant until, boolean withdrawn) {
    Instant now = clock.instant();
    if (withdrawn) {
      return new State("withdrawn", "It was withdrawn.");
    }
    if (until != null && !until.isAfter(now)) {
      return new State("ended", "Its end date has passed: renew it, or withdraw it.");
    }
    String gone = gone(lineage, job);
    if (gone != null) {
      return new State("questioned", gone + " has vanished since it was recorded: check it.");
    }
    Confirmation seen = confirmation(lineage);
    boolean ending = until != null && until.isBefore(now.plus(SOON));
    if (ending) {
      return new State(
          "ending", "Its last day is " + until.minusMillis(1).toString().substring(0, 10) + ".");
    }
    return switch (seen) {
      case WHOLE -> new State("confirmed", "Events report the same.");
      case PART -> new State("unconfirmed", "Events report a part of it.");
      case NONE -> new State("unconfirmed", "No event has reported it yet.");
    };
  }

  /** What a record names and is retired now; null if all of it is there or never was. */
  private @Nullable String gone(ReportedLineage lineage, @Nullable String job) {
    var names = new ArrayList<String>();
    lineage.inputs().forEach(name -> names.add(name.reference()));
    lineage.outputs().forEach(name -> names.add(name.reference()));
    if (job != null) {
      names.add(job);
    }
    for (String name : names) {
      if (catalog.asset(name).map(asset -> asset.card().retired()).orElse(false)) {
        return name;
      }
    }
    for (ColumnLink link : lineage.columns()) {
      for (ColumnName end : List.of(link.from(), link.to())) {
        Asset asset = catalog.asset(end.dataset().reference()).orElse(null);
        boolean listed = asset != null && asset.card().schemaSince() != null;
        if (listed
            && !end.isRows()
            && asset.card().columns().stream().noneMatch(c -> c.path().equals(end.path()))) {
          return end.reference();
        }
      }
    }
    return null;
  }

  private enum Confirmation {
    WHOLE,
    PART,
    NONE
  }

  /**
   * Whether programs report the same: every column pair where columns are recorded, else every pair
   * of an input and an output.
   */
  private Confirmation confirmation(ReportedLineage lineage) {
    var refs = new TreeSet<String>();
    for (DatasetName output : lineage.outputs()) {
      refs.addAll(
          catalog.asset(output.reference()).map(Asset::parts).orElse(List.of(output.reference())));
    }
    var columns = new TreeSet<String>();
    var assets = new TreeSet<String>();
    for (AssetLinkQueries.ColumnPair row : links.reportedInto(refs.toArray(String[]::new))) {
      String from = catalog.leadOf(row.from());
      String to = catalog.leadOf(row.to());
      assets.add(from + "\n" + to);
      columns.add(from + "#" + row.fromColumn() + "\n" + to + "#" + row.toColumn());
    }
    int wanted = 0;
    int found = 0;
    if (!lineage.columns().isEmpty()) {
      for (ColumnLink link : lineage.columns()) {
        wanted++;
        found += columns.contains(lead(link.from()) + "\n" + lead(link.to())) ? 1 : 0;
      }
    } else {
      for (DatasetName output : lineage.outputs()) {
        for (DatasetName input : lineage.inputs()) {
          wanted++;
          String pair = catalog.leadOf(input.reference()) + "\n" + catalog.leadOf("" + output);
          found += assets.contains(pair) ? 1 : 0;
        }
      }
    }
    return found == 0
        ? Confirmation.NONE
        : found == wanted ? Confirmation.WHOLE : Confirmation.PART;
  }

  private String lead(ColumnName column) {
    return catalog.leadOf(column.dataset().reference()) + "#" + column.path();
  }
}
