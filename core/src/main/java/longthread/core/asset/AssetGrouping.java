package longthread.core.asset;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;

/**
 * Which dataset names are one asset: names that fold into one or are spellings of one another form
 * a group, and groups joined by symbolic links or renames form an asset. Assets of more than
 * {@value #LARGEST} groups are left apart, since joining that many is nearly always a wrong link;
 * partitions and shards may be any number. Not safe for use by several threads.
 */
public final class AssetGrouping {
  public static final int LARGEST = 50;

  /**
   * Another name of the same data; {@code table} if it is a catalog's logical name, {@code rename}
   * if the data was renamed to it.
   */
  public record Symlink(DatasetName target, boolean table, boolean rename) {
    public Symlink(DatasetName target, boolean table) {
      this(target, table, false);
    }
  }

  private final FoldingRules folding;
  private final Map<DatasetName, DatasetName> wholes =
      new HashMap<>(); // by name; folded, canonical
  private final Map<DatasetName, TreeSet<DatasetName>> groups = new HashMap<>(); // by whole
  private final Map<DatasetName, DatasetName> spelledWholes =
      new HashMap<>(); // as the rule wrote it
  private final Map<DatasetName, List<Symlink>> links = new HashMap<>(); // by name
  private final Map<DatasetName, Map<DatasetName, Integer>> near =
      new HashMap<>(); // wholes, counted

  public AssetGrouping(FoldingRules folding) {
    this.folding = folding;
  }

  /** Adds a name; returns whether it was new. */
  public boolean add(DatasetName name) {
    if (wholes.containsKey(name)) {
      return false;
    }
    DatasetName folded = folding.fold(name).map(FoldingRules.Folded::whole).orElse(null);
    DatasetName whole = NamingRules.canonical(folded == null ? name : folded);
    wholes.put(name, whole);
    groups.computeIfAbsent(whole, k -> new TreeSet<>()).add(name);
    if (folded != null) {
      // Of several spellings of one whole the least, so that the order of arrival plays no part.
      spelledWholes.merge(whole, folded, (a, b) -> a.compareTo(b) <= 0 ? a : b);
    }
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
      count(wholeOf(name), wholeOf(old.target()), -1);
    }
    links.put(name, List.copyOf(targets));
    for (Symlink link : targets) {
      add(link.target());
      count(wholeOf(name), wholeOf(link.target()), 1);
    }
    return true;
  }

  private void count(DatasetName a, DatasetName b, int by) {
    near.computeIfAbsent(a, k -> new HashMap<>()).merge(b, by, Integer::sum);
    near.computeIfAbsent(b, k -> new HashMap<>()).merge(a, by, Integer::sum);
  }

  private DatasetName wholeOf(DatasetName name) {
    return wholes.getOrDefault(name, NamingRules.canonical(name));
  }

  /** The groups of the asset that {@code name} belongs to. */
  private Set<DatasetName> groupsOf(DatasetName name) {
    var found = new LinkedHashSet<>(List.of(wholeOf(name)));
    var open = new ArrayDeque<>(found);
    while (!open.isEmpty()) {
      near.getOrDefault(open.poll(), Map.of())
          .forEach(
              (whole, count) -> {
                if (count > 0 && found.add(whole)) {
                  open.add(whole);
                }
              });
      if (found.size() > LARGEST) {
        return Set.of(wholeOf(name));
      }
    }
    return found;
  }

  /** All parts of the asset that {@code name} belongs to, itself among them, in order. */
  public Collection<DatasetName> partsOf(DatasetName name) {
    var parts = new TreeSet<DatasetName>(List.of(name));
    groupsOf(name).forEach(whole -> parts.addAll(groups.getOrDefault(whole, new TreeSet<>())));
    return Collections.unmodifiableSet(parts);
  }

  /**
   * The name that stands for the asset: a symbolic link's table target, else the least. Of a group
   * that folds it is the name of the whole, which no event need have named.
   */
  public DatasetName leadOf(DatasetName name) {
    Set<DatasetName> whole = groupsOf(name);
    if (whole.size() > 1) {
      Set<DatasetName> tables = tables(whole, former(whole));
      if (tables.isEmpty()) {
        tables = tables(whole, Set.of());
      }
      // A chain of renames and links ends at the target that leads on to no other.
      var ends = new TreeSet<>(tables);
      Set<DatasetName> all = tables;
      ends.removeIf(target -> leadsOn(target, all));
      if (!tables.isEmpty()) {
        return ends.isEmpty() ? Collections.min(tables) : ends.first();
      }
    }
    var leads = new ArrayList<DatasetName>();
    whole.forEach(group -> leads.add(leadOfGroup(group)));
    return Collections.min(leads);
  }

  /** The names that were given up for another one. */
  private Set<DatasetName> former(Set<DatasetName> whole) {
    var former = new TreeSet<DatasetName>();
    for (DatasetName group : whole) {
      for (DatasetName part : groups.getOrDefault(group, new TreeSet<>())) {
        if (links.getOrDefault(part, List.of()).stream().anyMatch(Symlink::rename)) {
          former.add(part);
        }
      }
    }
    return former;
  }

  /** The tables that names link to; of names that were given up only what they are called now. */
  private Set<DatasetName> tables(Set<DatasetName> whole, Set<DatasetName> former) {
    var renamed = new TreeSet<DatasetName>();
    var tables = new TreeSet<DatasetName>();
    for (DatasetName group : whole) {
      for (DatasetName part : groups.getOrDefault(group, new TreeSet<>())) {
        for (Symlink link : links.getOrDefault(part, List.of())) {
          boolean counts = link.table() && whole.contains(wholeOf(link.target()));
          if (counts && !former.contains(link.target())) {
            if (!former.contains(part)) {
              tables.add(leadOfGroup(wholeOf(link.target())));
            } else if (link.rename()) {
              renamed.add(leadOfGroup(wholeOf(link.target())));
            }
          }
        }
      }
    }
    return tables.isEmpty() ? renamed : tables;
  }

  private boolean leadsOn(DatasetName target, Set<DatasetName> tables) {
    for (DatasetName part : groups.getOrDefault(wholeOf(target), new TreeSet<>())) {
      for (Symlink link : links.getOrDefault(part, List.of())) {
        DatasetName next = leadOfGroup(wholeOf(link.target()));
        if (link.table() && !next.equals(target) && tables.contains(next)) {
          return true;
        }
      }
    }
    return false;
  }

  private DatasetName leadOfGroup(DatasetName whole) {
    DatasetName spelled = spelledWholes.get(whole);
    TreeSet<DatasetName> parts = groups.getOrDefault(whole, new TreeSet<>());
    for (DatasetName part : parts) {
      if (folding.fold(part).isEmpty()) {
        return part; // some event named the whole itself
      }
    }
    return spelled != null ? spelled : parts.isEmpty() ? whole : parts.first();
  }

  /**
   * What distinguishes a part from the others of the whole it folds into; empty if it does not
   * fold.
   */
  public java.util.Optional<FoldingRules.Folded> folded(DatasetName part) {
    return folding.fold(part);
  }
}
