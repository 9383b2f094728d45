package longthread.service.notices;

import java.time.Clock;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import longthread.core.event.HandFacet;
import longthread.core.graph.LineageGraph;
import longthread.core.impact.Change;
import longthread.core.impact.Impact;
import longthread.core.impact.ImpactAnalysis;
import longthread.core.statement.StatementReader;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.ColumnMaps;
import longthread.service.live.GraphFollower;
import longthread.service.storage.StoredText;
import longthread.service.storage.statements.StatementQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/**
 * All notices in memory, and which assets each affects: those that a change of its content would
 * touch, by the rules of {@code impact}.
 */
@Component
public class NoticeBoard {
  private static final String UNDER = HandFacet.REGISTER + "/notice/";

  /** A notice as it was set; what it affects follows from the graph. */
  private record Set(String id, JsonNode value, String by, Instant at) {
    @Nullable Instant time(String member) {
      return value.has(member)
          ? OffsetDateTime.parse(value.path(member).stringValue("")).toInstant()
          : null;
    }

    Instant from() {
      Instant from = time("from");
      return from == null ? at : from;
    }

    String state(Instant now) {
      Instant until = time("until");
      if (value.has("lifted")) {
        return "lifted";
      }
      if (until != null && !until.isAfter(now)) {
        return "ended";
      }
      return from().isAfter(now) ? "planned" : "active";
    }
  }

  private record Reached(LineageGraph graph, Map<String, BitSet> byNotice) {}

  private final StatementQueries statements;
  private final Catalog catalog;
  private final GraphFollower follower;
  private final ColumnMaps columnMaps;
  private final Clock clock;
  private volatile List<Set> all = List.of();
  private volatile Reached reached;

  NoticeBoard(
      StatementQueries statements,
      Catalog catalog,
      GraphFollower follower,
      ColumnMaps columnMaps,
      Clock clock) {
    this.statements = statements;
    this.catalog = catalog;
    this.follower = follower;
    this.columnMaps = columnMaps;
    this.clock = clock;
    this.reached = new Reached(follower.graph(), Map.of());
    follower.onRegister(this::load);
    load();
  }

  private void load() {
    var read = new ArrayList<Set>();
    for (StatementQueries.Set row : statements.standing(HandFacet.NOTICE)) {
      JsonNode facet = StoredText.json(row.body());
      JsonNode value = facet.path("value");
      if (value.isObject() && row.ref().startsWith(UNDER)) {
        read.add(
            new Set(
                row.ref().substring(UNDER.length()),
                value,
                facet.path("by").stringValue(""),
                Instant.ofEpochSecond(row.atS(), row.atN())));
      }
    }
    read.sort(
        Comparator.comparing((Set set) -> StatementReader.LEVELS.indexOf(level(set)))
            .reversed()
            .thenComparing(Set::at, Comparator.reverseOrder())
            .thenComparing(Set::id));
    all = read;
    reached = new Reached(follower.graph(), Map.of());
  }

  private static String level(Set set) {
    return set.value().path("level").stringValue("");
  }

  /** All notices, the most serious first, of equal ones the newest. */
  public List<Notice> all() {
    Instant now = clock.instant();
    return all.stream().map(set -> notice(set, now)).toList();
  }

  public Optional<Notice> byId(String id) {
    return all().stream().filter(notice -> notice.id().equals(id)).findFirst();
  }

  /** The notices that are shown on an asset now: its own, and those from upstream. */
  public List<ShownNotice> on(Asset asset) {
    if (all.isEmpty()) {
      return List.of();
    }
    Instant now = clock.instant();
    var shown = new ArrayList<ShownNotice>();
    for (Set set : all) {
      if (set.state(now).equals("active") && affects(set, asset)) {
        shown.add(ShownNotice.of(notice(set, now)));
      }
    }
    return shown;
  }

  private boolean affects(Set set, Asset asset) {
    if (lead(set).equals(asset.ref())) {
      return true;
    }
    LineageGraph graph = follower.graph();
    OptionalInt at = graph.asset(asset.ref());
    return at.isPresent() && below(graph, set).get(at.getAsInt());
  }

  /** The assets that a notice is shown on, its own first. */
  public List<Asset> affected(Notice notice) {
    LineageGraph graph = follower.graph();
    var found = new ArrayList<Asset>();
    for (Set set : all) {
      if (set.id().equals(notice.id())) {
        catalog.asset(lead(set)).ifPresent(found::add);
        below(graph, set).stream()
            .mapToObj(at -> catalog.asset(graph.assetReference(at)))
            .flatMap(Optional::stream)
            .forEach(found::add);
      }
    }
    return found;
  }

  private Notice notice(Set set, Instant now) {
    JsonNode value = set.value();
    String ref = value.path("on").stringValue("");
    String lead = lead(set);
    int hash = ref.indexOf('#');
    String column = hash < 0 ? "" : ref.substring(hash);
    return new Notice(
        set.id(),
        lead + column,
        catalog.asset(lead).map(Asset::shown).orElse(lead) + column,
        level(set),
        value.path("text").stringValue(""),
        set.value().path("author").stringValue(set.by()),
        set.at(),
        set.from(),
        set.time("until"),
        value.path("ticket").stringValue(null),
        set.state(now),
        set.time("lifted"),
        value.path("lifter").stringValue(null),
        below(follower.graph(), set).cardinality());
  }

  /** The asset that it is on, by the name that leads now. */
  private String lead(Set set) {
    String ref = set.value().path("on").stringValue("");
    int hash = ref.indexOf('#');
    return catalog.leadOf(hash < 0 ? ref : ref.substring(0, hash));
  }

  // ------------------------------------------------------------------ what it affects

  private BitSet below(LineageGraph graph, Set set) {
    Reached known = reached;
    BitSet found = known.graph() == graph ? known.byNotice().get(set.id()) : null;
    if (found != null) {
      return found;
    }
    BitSet walked = walk(graph, set);
    var more = new HashMap<>(known.graph() == graph ? known.byNotice() : Map.of());
    more.put(set.id(), walked);
    reached = new Reached(graph, more);
    return walked;
  }

  private BitSet walk(LineageGraph graph, Set set) {
    var below = new BitSet();
    OptionalInt at = graph.asset(lead(set));
    if (at.isEmpty()) {
      return below;
    }
    String ref = set.value().path("on").stringValue("");
    int hash = ref.indexOf('#');
    OptionalInt column =
        hash < 0 ? OptionalInt.empty() : graph.node(at.getAsInt(), ref.substring(hash + 1));
    int rows = graph.rowsOf(at.getAsInt());
    List<Change> changes =
        column.isPresent()
            ? List.of(new Change.OfData(column.getAsInt(), Change.Kind.VALUES, null, false))
            : List.of(
                new Change.OfData(rows, Change.Kind.VALUES, null, false),
                new Change.OfData(rows, Change.Kind.ROWS, null, false));
    Impact impact = ImpactAnalysis.of(graph, changes, columnMaps, Integer.MAX_VALUE);
    impact.items().forEach(item -> graph.asset(item.ref()).ifPresent(below::set));
    below.clear(at.getAsInt());
    return below;
  }
}
