package longthread.core.asset;

import java.util.ArrayDeque;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;

/**
 * Which dataset names are one asset: the connected components of the names under naming rules and
 * symbolic links. Components of more than {@value #LARGEST} parts are left apart, since joining
 * that many is nearly always a wrong link. Not safe for use by several threads.
 */
public final class AssetGrouping {
  public static final int LARGEST = 50;

  /** A symbolic link's target; {@code table} if it is a catalog's logical name. */
  public record Symlink(DatasetName target, boolean table) {}

  private final Map<DatasetName, Set<DatasetName>> spellings = new HashMap<>();
  private final Map<DatasetName, List<Symlink>> links = new HashMap<>();
  private final Map<DatasetName, Set<DatasetName>> linkedFrom = new HashMap<>();
  private final Set<DatasetName> names = new HashSet<>();

  /** Tells of a name; returns whether it was new. */
  public boolean add(DatasetName name) {
    if (!names.add(name)) {
      return false;
    }
    spellings.computeIfAbsent(NamingRules.canonical(name), k -> new TreeSet<>()).add(name);
    return true;
  }

  /** Sets the current symbolic links of a name; returns whether that changed anything. */
  public boolean setSymlinks(DatasetName name, List<Symlink> targets) {
    boolean grew = add(name);
    List<Symlink> before = links.getOrDefault(name, List.of());
    if (before.equals(targets)) {
      return grew;
    }
    for (Symlink old : before) {
      linkedFrom.getOrDefault(old.target(), new HashSet<>()).remove(name);
    }
    links.put(name, List.copyOf(targets));
    for (Symlink link : targets) {
      add(link.target());
      linkedFrom.computeIfAbsent(link.target(), k -> new HashSet<>()).add(name);
    }
    return true;
  }

  /** All parts of the asset that {@code name} belongs to, itself among them, in order. */
  public Collection<DatasetName> partsOf(DatasetName name) {
    var found = new TreeSet<DatasetName>(List.of(name));
    var open = new ArrayDeque<DatasetName>(found);
    while (!open.isEmpty()) {
      DatasetName next = open.poll();
      var near = new HashSet<>(spellings.getOrDefault(NamingRules.canonical(next), Set.of()));
      links.getOrDefault(next, List.of()).forEach(link -> near.add(link.target()));
      near.addAll(linkedFrom.getOrDefault(next, Set.of()));
      for (DatasetName part : near) {
        if (found.add(part)) {
          open.add(part);
        }
      }
      if (found.size() > LARGEST) {
        return List.of(name);
      }
    }
    return Collections.unmodifiableSet(found);
  }

  /** The part that gives the asset its name: a symbolic link's table target, else the least. */
  public DatasetName leadOf(DatasetName name) {
    Collection<DatasetName> parts = partsOf(name);
    if (parts.size() == 1) {
      return name;
    }
    var tables = new TreeSet<DatasetName>();
    for (DatasetName part : parts) {
      for (Symlink link : links.getOrDefault(part, List.of())) {
        if (link.table() && parts.contains(link.target())) {
          tables.add(link.target());
        }
      }
    }
    return tables.isEmpty() ? parts.iterator().next() : tables.first();
  }
}
