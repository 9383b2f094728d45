package longthread.service.live;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.SortedSet;
import java.util.TreeSet;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.lineage.Flow;
import longthread.service.storage.facts.RenameQueries;
import longthread.service.storage.graph.LinkQueries;

/** How stored links are named in the graph: by what their ends are called and belong to by now. */
final class LinkNames {
  private static final int MAX_CHAIN = 20; // of renames

  private final RenameQueries renames;
  private final Catalog catalog;
  private volatile Map<String, List<NewName>> newNames = Map.of();

  private record NewName(Instant at, String ref) {}

  LinkNames(RenameQueries renames, Catalog catalog) {
    this.renames = renames;
    this.catalog = catalog;
  }

  /** Reads all renames; returns whether there are others than before. */
  boolean readRenames() {
    var names = new HashMap<String, List<NewName>>();
    for (RenameQueries.NewName row : renames.all()) {
      names
          .computeIfAbsent(row.from(), k -> new ArrayList<>())
          .add(new NewName(Instant.ofEpochSecond(row.atS(), row.atN()), row.to()));
    }
    boolean changed = !names.equals(newNames);
    newNames = names;
    return changed;
  }

  /** The renames as texts. */
  SortedSet<String> texts() {
    var texts = new TreeSet<String>();
    newNames.forEach((name, to) -> texts.add(name + " " + to));
    return texts;
  }

  /** A stored link as the graph holds it. */
  NamedLink named(LinkQueries.Named link) {
    String from = catalog.leadOf(nameSince(link.from(), link.lastSeen()));
    String to = catalog.leadOf(nameSince(link.to(), link.lastSeen()));
    return new NamedLink(
        from,
        catalog.columnOf(from, link.fromColumn()),
        to,
        catalog.columnOf(to, link.toColumn()),
        Flow.valueOf(link.flow()),
        link.masking());
  }

  /** The same links by who states them. */
  Map<String, List<NamedLink>> byOwner(List<LinkQueries.Named> links) {
    var byOwner = new HashMap<String, List<NamedLink>>();
    for (LinkQueries.Named link : links) {
      byOwner.computeIfAbsent(link.owner(), k -> new ArrayList<>()).add(named(link));
    }
    return byOwner;
  }

  /** What was under a name before it was given up is seen under the name it got. */
  private String nameSince(String ref, Instant lastSeen) {
    String name = ref;
    for (int hop = 0; hop < MAX_CHAIN; hop++) {
      String next = null;
      for (NewName to : newNames.getOrDefault(name, List.of())) {
        if (lastSeen.isBefore(to.at())) {
          next = to.ref();
          break;
        }
      }
      if (next == null) {
        return name;
      }
      name = next;
    }
    return name;
  }
}
