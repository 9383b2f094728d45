package longthread.service.workspaces;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.time.Instant;
import java.util.AbstractList;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.asset.DatasetName;
import longthread.core.asset.Owner;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.lineage.Flow;
import longthread.core.workspace.WorkspaceDescription;
import longthread.core.workspace.WorkspaceDescription.Item;
import longthread.core.workspace.WorkspaceEvents;
import longthread.service.health.AssetHealth;
import longthread.service.health.HealthBoard;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.live.Sight;
import longthread.service.storage.runs.RunQueries;
import longthread.service.workspaces.WorkspaceStore.Workspace;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;

/** Workspaces with their surroundings: what is in them, what feeds it, what rests on it. */
@Service
public class WorkspaceMaps {
  private static final int MAX_OUTSIDE = 300;
  private static final int MAX_OUTLINES = 2_000; // of workspaces, a few KB each

  /** How many items of each kind there are. */
  record KindCount(String kind, int count) {}

  /**
   * A workspace in a list.
   *
   * @param refreshed when the last of its refreshes completed
   * @param failed the titles of items whose newest refresh failed
   * @param unmatched how many of its sources no other system describes
   */
  record ListedWorkspace(
      String ref,
      String id,
      String title,
      String system,
      @Nullable String description,
      @Nullable String url,
      List<String> owners,
      Instant describedAt,
      List<KindCount> counts,
      @Nullable Instant refreshed,
      List<String> failed,
      int unmatched) {}

  /** The newest refresh of an item. */
  record MapRefresh(
      String state,
      Instant startedAt,
      @Nullable Instant endedAt,
      @Nullable String error,
      @Nullable Instant completedAt,
      String job) {}

  /**
   * A box of the map.
   *
   * @param layer sources, steps, models, charts, pages, or beyond for what lies behind all of it
   * @param depth how many steps before it, among the steps
   * @param workspace the title of the workspace it is in, if it is another one
   * @param workspaceRef the reference of that workspace, if it was described
   * @param matched false for a source that no other system describes
   * @param connections the ids of the connections that reach a source
   * @param reuses whether it only reuses the result of another step
   * @param copies whether it keeps a copy of its data, so that it is refreshed
   * @param affectedBy the boxes upstream whose newest refresh failed
   */
  record MapBox(
      String ref,
      String kind,
      String layer,
      int depth,
      String name,
      String system,
      @Nullable String workspace,
      @Nullable String workspaceRef,
      boolean matched,
      List<String> connections,
      boolean reuses,
      boolean copies,
      @Nullable String description,
      @Nullable String url,
      List<String> owners,
      @Nullable MapRefresh refresh,
      List<String> affectedBy,
      @Nullable AssetHealth health) {
    MapBox affectedBy(Set<String> failed) {
      return new MapBox(
          ref,
          kind,
          layer,
          depth,
          name,
          system,
          workspace,
          workspaceRef,
          matched,
          connections,
          reuses,
          copies,
          description,
          url,
          owners,
          refresh,
          List.copyOf(failed),
          health);
    }
  }

  /** A line of the map; {@code holds} for a page and its chart. */
  record MapLine(String from, String to, boolean holds) {}

  record MapRelay(
      String id, String title, @Nullable String description, @Nullable String address) {}

  record MapConnection(
      String id, String title, String kind, @Nullable String address, @Nullable String through) {}

  record WorkspaceMap(
      String ref,
      String id,
      String title,
      String system,
      @Nullable String description,
      @Nullable String url,
      List<String> owners,
      List<String> tags,
      Instant describedAt,
      List<MapRelay> relays,
      List<MapConnection> connections,
      List<MapBox> boxes,
      List<MapLine> lines) {}

  private final WorkspaceStore store;
  private final Catalog catalog;
  private final GraphFollower follower;
  private final RunQueries runs;
  private final HealthBoard health;
  private final Cache<String, Outline> outlines =
      Caffeine.newBuilder().maximumSize(MAX_OUTLINES).build();

  WorkspaceMaps(
      WorkspaceStore store,
      Catalog catalog,
      GraphFollower follower,
      RunQueries runs,
      HealthBoard health) {
    this.health = health;
    this.store = store;
    this.catalog = catalog;
    this.follower = follower;
    this.runs = runs;
  }

  /** All workspaces; what is known of each is worked out when its page is taken. */
  @Transactional(readOnly = true)
  List<ListedWorkspace> list() {
    return new Listed(seen());
  }

  /** The workspaces of which the caller sees every item. */
  private List<Workspace> seen() {
    List<Workspace> all = store.all();
    return Sight.now().isWhole() ? all : all.stream().filter(this::isSeen).toList();
  }

  private boolean isSeen(Workspace workspace) {
    List<String> items = outline(workspace).refs();
    return !items.isEmpty() && items.stream().map(catalog::leadOf).allMatch(catalog::isSeen);
  }

  /** Workspaces as a list shows them; the refreshes of a page are read at once. */
  private final class Listed extends AbstractList<ListedWorkspace> {
    private final List<Workspace> all;

    Listed(List<Workspace> all) {
      this.all = all;
    }

    @Override
    public ListedWorkspace get(int index) {
      return subList(index, index + 1).get(0);
    }

    @Override
    public int size() {
      return all.size();
    }

    @Override
    public List<ListedWorkspace> subList(int from, int to) {
      List<Outline> page = all.subList(from, to).stream().map(WorkspaceMaps.this::outline).toList();
      var items = new ArrayList<String>();
      page.forEach(outline -> outline.refs().forEach(ref -> items.add(catalog.leadOf(ref))));
      Map<String, MapRefresh> refreshes = refreshes(items);
      var listed = new ArrayList<ListedWorkspace>();
      for (int i = 0; i < page.size(); i++) {
        listed.add(listed(all.get(from + i), page.get(i), refreshes));
      }
      return listed;
    }
  }

  /**
   * What a list shows of a description.
   *
   * @param refs the references of its items
   * @param titles of the items, at the same places
   */
  private record Outline(
      String title,
      @Nullable String description,
      @Nullable String url,
      List<String> owners,
      List<KindCount> counts,
      List<String> refs,
      List<String> titles) {}

  private Outline outline(Workspace workspace) {
    return outlines.get(
        workspace.state(),
        key -> {
          WorkspaceDescription description = description(workspace);
          var counts = new LinkedHashMap<String, Integer>();
          var refs = new ArrayList<String>();
          var titles = new ArrayList<String>();
          for (Item item : description.items()) {
            counts.merge(item.kind(), 1, Integer::sum);
            refs.add(description.dataset(item.word()).reference());
            titles.add(item.title());
          }
          JsonNode head = workspace.head();
          return new Outline(
              workspace.title(),
              head.path("description").stringValue(null),
              head.path("url").stringValue(null),
              owners(head),
              counts.entrySet().stream().map(e -> new KindCount(e.getKey(), e.getValue())).toList(),
              List.copyOf(refs),
              List.copyOf(titles));
        });
  }

  /** What is in a workspace, without its map: no box is drawn and nothing upstream is looked at. */
  private ListedWorkspace listed(
      Workspace workspace, Outline outline, Map<String, MapRefresh> refreshes) {
    Instant refreshed = null;
    var failed = new ArrayList<String>();
    var own = new LinkedHashSet<String>();
    for (int i = 0; i < outline.refs().size(); i++) {
      String ref = catalog.leadOf(outline.refs().get(i));
      own.add(ref);
      MapRefresh refresh = refreshes.get("@" + ref);
      if (refresh == null) {
        continue;
      }
      if (refresh.state().equals("failed")) {
        failed.add(outline.titles().get(i));
      }
      Instant completed = refresh.completedAt();
      if (completed != null && (refreshed == null || completed.isAfter(refreshed))) {
        refreshed = completed;
      }
    }
    return new ListedWorkspace(
        workspace.ref(),
        workspace.name().name(),
        outline.title(),
        catalog.systemOf(workspace.ref()),
        outline.description(),
        outline.url(),
        outline.owners(),
        workspace.describedAt(),
        outline.counts(),
        refreshed,
        failed,
        unmatched(own));
  }

  /** How many datasets feed a workspace that no system describes. */
  private int unmatched(Set<String> own) {
    LineageGraph graph = follower.graph();
    var sources = new TreeSet<String>();
    for (String ref : own) {
      graph
          .asset(ref)
          .ifPresent(
              asset ->
                  graph.forEachLink(
                      graph.rowsOf(asset),
                      Direction.UPSTREAM,
                      (end, flow, masking, owner) -> {
                        if (graph.isRows(end)) {
                          sources.add(graph.assetReference(graph.assetOf(end)));
                        }
                      }));
    }
    sources.removeAll(own);
    return (int) sources.stream().filter(ref -> !isDescribed(ref)).count();
  }

  private boolean isDescribed(String ref) {
    return catalog.asset(ref).map(asset -> asset.card().described()).orElse(false);
  }

  private static WorkspaceDescription description(Workspace workspace) {
    return new WorkspaceDescription(
        workspace.content(),
        workspace.name().namespace(),
        workspace.name().name(),
        workspace.describedAt());
  }

  /** The newest refreshes of items, by the jobs that refresh them. */
  private Map<String, MapRefresh> refreshes(Collection<String> items) {
    var refreshes = new HashMap<String, MapRefresh>();
    for (RunQueries.NewestRun run :
        runs.newestRuns(items.stream().map(ref -> "@" + ref).toArray(String[]::new))) {
      refreshes.put(
          run.job(),
          new MapRefresh(
              run.state(),
              run.startedAt(),
              run.endedAt(),
              run.error(),
              run.completedAt(),
              run.job()));
    }
    return refreshes;
  }

  /** The reference of the workspace that a text names, by its reference or title. */
  @Transactional(readOnly = true)
  public String referenceOf(String text) {
    return WorkspaceStore.resolve(seen(), text).ref();
  }

  @Transactional(readOnly = true)
  WorkspaceMap of(String ref) {
    List<Workspace> all = seen();
    return of(WorkspaceStore.resolve(all, ref), all);
  }

  private WorkspaceMap of(Workspace workspace, List<Workspace> all) {
    JsonNode head = workspace.head();
    var drawing = new Drawing(workspace, all);
    drawing.draw();
    return new WorkspaceMap(
        workspace.ref(),
        workspace.name().name(),
        workspace.title(),
        catalog.systemOf(workspace.ref()),
        head.path("description").stringValue(null),
        head.path("url").stringValue(null),
        owners(head),
        texts(head.path("tags")),
        workspace.describedAt(),
        relays(workspace.content()),
        connections(workspace.content()),
        List.copyOf(drawing.boxes.values()),
        List.copyOf(drawing.lines));
  }

  private static List<String> owners(JsonNode head) {
    return texts(head.path("owners")).stream().map(text -> Owner.of(text, null).name()).toList();
  }

  private static List<String> texts(JsonNode list) {
    var texts = new ArrayList<String>();
    list.forEach(text -> texts.add(text.stringValue("")));
    return texts;
  }

  private static List<MapRelay> relays(JsonNode content) {
    var relays = new ArrayList<MapRelay>();
    for (JsonNode relay : content.path("relays")) {
      relays.add(
          new MapRelay(
              relay.path("id").stringValue(""),
              relay.path("title").stringValue(""),
              relay.path("description").stringValue(null),
              relay.path("address").stringValue(null)));
    }
    return relays;
  }

  private static List<MapConnection> connections(JsonNode content) {
    var connections = new ArrayList<MapConnection>();
    for (JsonNode connection : content.path("connections")) {
      connections.add(
          new MapConnection(
              connection.path("id").stringValue(""),
              connection.path("title").stringValue(""),
              connection.path("kind").stringValue(""),
              connection.path("address").stringValue(null),
              connection.path("through").stringValue(null)));
    }
    return connections;
  }

  /** One map while it is drawn. */
  private final class Drawing {
    private final Workspace workspace;
    private final Map<String, Workspace> byRef = new HashMap<>();
    private final LineageGraph graph = follower.graph();
    private final Map<String, Item> own = new LinkedHashMap<>(); // by the reference of its asset
    private final Map<String, Set<String>> connectionsOf = new HashMap<>();
    private final Set<MapLine> lines = new LinkedHashSet<>();
    private final Map<String, MapBox> boxes = new LinkedHashMap<>();
    private final Map<String, MapRefresh> refreshes = new HashMap<>(); // by job

    Drawing(Workspace workspace, Collection<Workspace> all) {
      this.workspace = workspace;
      all.forEach(other -> byRef.put(other.ref(), other));
    }

    void draw() {
      WorkspaceDescription description = description(workspace);
      for (Item item : description.items()) {
        own.put(lead(description.dataset(item.word())), item);
      }
      for (Item item : description.items()) {
        for (JsonNode input : item.node().path("inputs")) {
          if (input.has("connection")) {
            connectionsOf
                .computeIfAbsent(lead(description.input(input)), k -> new TreeSet<>())
                .add(input.path("connection").stringValue(""));
          }
        }
      }
      var before = new TreeSet<String>();
      var behind = new TreeSet<String>();
      for (String ref : own.keySet()) {
        neighbours(ref, Direction.UPSTREAM, before);
        neighbours(ref, Direction.DOWNSTREAM, behind);
      }
      behind.removeAll(before);
      loadRefreshes(before, behind);
      before.forEach(ref -> boxes.put(ref, outside(ref, "sources")));
      Map<String, Integer> depths = depths();
      own.forEach((ref, item) -> boxes.put(ref, box(ref, item, depths.get(ref))));
      behind.forEach(ref -> boxes.put(ref, outside(ref, "beyond")));
      spreadFailures();
    }

    private String lead(DatasetName name) {
      return catalog.leadOf(name.reference());
    }

    /** Adds the lines of an item, and what lies outside at their other ends. */
    private void neighbours(String ref, Direction direction, Set<String> outside) {
      int asset = graph.asset(ref).orElse(-1);
      if (asset < 0) {
        return;
      }
      graph.forEachLink(
          graph.rowsOf(asset),
          direction,
          (end, flow, masking, owner) -> {
            String other = graph.assetReference(graph.assetOf(end));
            boolean isShown = own.containsKey(other) || outside.size() < MAX_OUTSIDE;
            if (!graph.isRows(end) || other.equals(ref) || !isShown) {
              return;
            }
            if (!own.containsKey(other)) {
              outside.add(other);
            }
            boolean up = direction == Direction.UPSTREAM;
            lines.add(new MapLine(up ? other : ref, up ? ref : other, flow == Flow.HOLDS));
          });
    }

    private void loadRefreshes(Set<String> before, Set<String> behind) {
      var items = new ArrayList<>(own.keySet());
      items.addAll(before);
      items.addAll(behind);
      refreshes.putAll(refreshes(items));
    }

    /** How many steps of the workspace lie before each item, on the longest way. */
    private Map<String, Integer> depths() {
      var depths = new HashMap<String, Integer>();
      own.keySet().forEach(ref -> depths.put(ref, 0));
      for (int round = 0; round < own.size(); round++) {
        boolean isMoved = false;
        for (MapLine line : lines) {
          Item from = own.get(line.from());
          Item to = own.get(line.to());
          if (from != null
              && to != null
              && from.kind().equals("step")
              && to.kind().equals("step")
              && depths.get(line.to()) <= depths.get(line.from())
              && depths.get(line.from()) < own.size()) {
            depths.put(line.to(), depths.get(line.from()) + 1);
            isMoved = true;
          }
        }
        if (!isMoved) {
          break;
        }
      }
      return depths;
    }

    private MapBox box(String ref, Item item, int depth) {
      JsonNode node = item.node();
      String layer =
          switch (item.kind()) {
            case "step" -> "steps";
            case "model" -> "models";
            case "chart" -> "charts";
            default -> "pages";
          };
      List<String> owners = catalog.asset(ref).map(Asset::ownerNames).orElse(List.of());
      return new MapBox(
          ref,
          item.kind(),
          layer,
          depth,
          item.title(),
          catalog.systemOf(ref),
          null,
          null,
          true,
          List.of(),
          node.has("reuses"),
          WorkspaceEvents.isRefreshed(item),
          node.path("description").stringValue(null),
          node.path("url").stringValue(null),
          owners,
          refreshes.get("@" + ref),
          List.of(),
          healthOf(ref));
    }

    private @Nullable AssetHealth healthOf(String ref) {
      return catalog.asset(ref).map(health::of).orElse(null);
    }

    private MapBox outside(String ref, String layer) {
      Asset asset = catalog.asset(ref).orElse(null);
      Workspace home = home(ref);
      return new MapBox(
          ref,
          asset == null ? "dataset" : asset.kind().word(),
          layer,
          0,
          asset == null ? ref : asset.shown(),
          catalog.systemOf(ref),
          home != null && !home.ref().equals(workspace.ref()) ? home.title() : null,
          home != null && !home.ref().equals(workspace.ref()) ? home.ref() : null,
          isDescribed(ref),
          List.copyOf(connectionsOf.getOrDefault(ref, Set.of())),
          false,
          refreshes.containsKey("@" + ref),
          asset == null ? null : asset.card().description(),
          asset == null ? null : asset.card().url(),
          asset == null ? List.of() : asset.ownerNames(),
          refreshes.get("@" + ref),
          List.of(),
          healthOf(ref));
    }

    /** The workspace that an item of another one is in, if it was described. */
    private @Nullable Workspace home(String ref) {
      DatasetName name = DatasetName.parse(ref);
      int slash = name.name().indexOf('/');
      return slash <= 0
          ? null
          : byRef.get(
              new DatasetName(name.namespace(), name.name().substring(0, slash)).reference());
    }

    /** Tells every box which failed refreshes it rests on. */
    private void spreadFailures() {
      Map<String, List<String>> next = new HashMap<>();
      lines.forEach(
          line -> next.computeIfAbsent(line.from(), k -> new ArrayList<>()).add(line.to()));
      Map<String, Set<String>> affected = new TreeMap<>();
      for (MapBox box : boxes.values()) {
        if (box.refresh() == null || !box.refresh().state().equals("failed")) {
          continue;
        }
        var seen = new LinkedHashSet<String>();
        var queue = new ArrayDeque<>(List.of(box.ref()));
        while (!queue.isEmpty()) {
          for (String to : next.getOrDefault(queue.poll(), List.of())) {
            if (!to.equals(box.ref()) && seen.add(to)) {
              affected.computeIfAbsent(to, k -> new TreeSet<>()).add(box.ref());
              queue.add(to);
            }
          }
        }
      }
      affected.forEach((ref, by) -> boxes.computeIfPresent(ref, (r, box) -> box.affectedBy(by)));
    }
  }
}
