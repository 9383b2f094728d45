package longthread.core.asset;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * Which dataset names are one asset: names that fold into one or are spellings of one another form
 * a group, and groups joined by symbolic links or renames form an asset. Assets of more than
 * {@value #LARGEST} groups are left apart, since joining that many is nearly always a wrong link;
 * partitions and shards may be any number.
 *
 * <p>People join names as well, and hold names apart. Where links tie two names together that are
 * held apart, their component is built up link by link, people's first and then in the order of the
 * names, and a link that would join the two is left out. Not safe for use by several threads.
 */
public final class AssetGrouping {
  public static final int LARGEST = 50;

  private static final int MAX_CUTS_TRIED = 2_000;

  /** Why another name is that of the same data. */
  public enum Why {
    /** An emitter says that it is another name. */
    ALIAS,
    /** An emitter says that it is the logical name in a catalog. */
    TABLE,
    /** The data was renamed to it. */
    RENAME,
    /** A person says so. */
    HAND
  }

  /** Another name of the same data. */
  public record Symlink(DatasetName target, Why why) {
    boolean table() {
      return why == Why.TABLE || why == Why.RENAME;
    }

    boolean rename() {
      return why == Why.RENAME;
    }
  }

  /**
   * An asset that was not joined, since too many names hang together.
   *
   * @param names how many groups of names hang together
   * @param from one end of the link whose removal parts them best
   * @param to its other end
   */
  public record OverMerged(int names, DatasetName from, DatasetName to) {}

  private final FoldingRules folding;
  private final Map<DatasetName, DatasetName> wholes =
      new HashMap<>(); // by name; folded, canonical
  private final Map<DatasetName, TreeSet<DatasetName>> groups = new HashMap<>(); // by whole
  private final Map<DatasetName, DatasetName> spelledWholes =
      new HashMap<>(); // as the rule wrote it
  private final Map<DatasetName, List<Symlink>> links = new HashMap<>(); // by name
  private final Map<DatasetName, Map<DatasetName, Integer>> near =
      new HashMap<>(); // wholes, counted
  private final Map<DatasetName, Set<DatasetName>> apart = new HashMap<>(); // by name, both ways
  private final Set<DatasetName> singles = new HashSet<>(); // held apart from their own group
  private final Set<DatasetName> leads = new HashSet<>(); // chosen by people
  private final MergeRules rules;

  public AssetGrouping(FoldingRules folding) {
    this(folding, MergeRules.NONE);
  }

  public AssetGrouping(FoldingRules folding, MergeRules rules) {
    this.folding = folding;
    this.rules = rules;
  }

  /**
   * Holds names apart. All that people hold apart must be known before any name is added: a name is
   * never moved to another group.
   *
   * @param name the one that leaves its group, should they be of one
   */
  public void holdApart(DatasetName name, Collection<DatasetName> others) {
    for (DatasetName other : others) {
      apart.computeIfAbsent(name, k -> new TreeSet<>()).add(other);
      apart.computeIfAbsent(other, k -> new TreeSet<>()).add(name);
      if (groupOf(name).equals(groupOf(other))) {
        singles.add(name);
      }
    }
  }

  /** Sets whether people chose a name to lead; returns whether that changed anything. */
  public boolean setLead(DatasetName name, boolean chosen) {
    return chosen ? leads.add(name) : leads.remove(name);
  }

  /** The group that the rules put a name into. */
  private DatasetName groupOf(DatasetName name) {
    DatasetName as = rules.target(name).orElse(name);
    return NamingRules.canonical(folding.fold(as).map(FoldingRules.Folded::whole).orElse(as));
  }

  /** The key of a group that has one name only; no canonical name looks like it. */
  private static DatasetName single(DatasetName name) {
    return new DatasetName("alone " + name.namespace(), name.name());
  }

  /** Adds a name; returns whether it was new. */
  public boolean add(DatasetName name) {
    if (wholes.containsKey(name)) {
      return false;
    }
    DatasetName as = rules.target(name).orElse(name);
    DatasetName folded = folding.fold(as).map(FoldingRules.Folded::whole).orElse(null);
    DatasetName whole =
        singles.contains(name) ? single(name) : NamingRules.canonical(folded == null ? as : folded);
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
    DatasetName known = wholes.get(name);
    return known != null ? known : singles.contains(name) ? single(name) : groupOf(name);
  }

  /** The groups of the asset that {@code name} belongs to. */
  private Set<DatasetName> groupsOf(DatasetName name) {
    Set<DatasetName> found = linkedGroups(name);
    return found.size() == 1 || apart.isEmpty() ? found : withoutThoseApart(name, found);
  }

  /** The groups that hang together with that of a name; its own alone where they are too many. */
  private Set<DatasetName> linkedGroups(DatasetName name) {
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

  /** A link between two groups; links of people come first. */
  private record Edge(boolean byHand, DatasetName one, DatasetName other)
      implements Comparable<Edge> {
    private static final Comparator<Edge> ORDER =
        Comparator.comparing((Edge edge) -> !edge.byHand)
            .thenComparing(Edge::one)
            .thenComparing(Edge::other);

    static Edge of(boolean byHand, DatasetName a, DatasetName b) {
      return a.compareTo(b) <= 0 ? new Edge(byHand, a, b) : new Edge(byHand, b, a);
    }

    @Override
    public int compareTo(Edge edge) {
      return ORDER.compare(this, edge);
    }
  }

  /** Of groups that hang together those that stay with a name once names are held apart. */
  private Set<DatasetName> withoutThoseApart(DatasetName name, Set<DatasetName> together) {
    var conflicts = new HashMap<DatasetName, Set<DatasetName>>();
    apart.forEach(
        (one, others) -> {
          DatasetName whole = wholeOf(one);
          if (together.contains(whole)) {
            for (DatasetName other : others) {
              if (together.contains(wholeOf(other)) && !wholeOf(other).equals(whole)) {
                conflicts.computeIfAbsent(whole, k -> new HashSet<>()).add(wholeOf(other));
              }
            }
          }
        });
    if (conflicts.isEmpty()) {
      return together;
    }
    var component = new HashMap<DatasetName, Set<DatasetName>>();
    together.forEach(whole -> component.put(whole, new TreeSet<>(List.of(whole))));
    for (Edge edge : edges(together)) {
      Set<DatasetName> one = component.get(edge.one());
      Set<DatasetName> other = component.get(edge.other());
      if (one != other && !conflict(one, other, conflicts)) {
        one.addAll(other);
        other.forEach(whole -> component.put(whole, one));
      }
    }
    return component.get(wholeOf(name));
  }

  private static boolean conflict(
      Set<DatasetName> one, Set<DatasetName> other, Map<DatasetName, Set<DatasetName>> conflicts) {
    return one.stream()
        .anyMatch(
            whole -> conflicts.getOrDefault(whole, Set.of()).stream().anyMatch(other::contains));
  }

  private TreeSet<Edge> edges(Set<DatasetName> together) {
    var edges = new TreeSet<Edge>();
    for (DatasetName whole : together) {
      for (DatasetName part : groups.getOrDefault(whole, new TreeSet<>())) {
        for (Symlink link : links.getOrDefault(part, List.of())) {
          DatasetName to = wholeOf(link.target());
          if (!to.equals(whole) && together.contains(to)) {
            edges.add(Edge.of(link.why() == Why.HAND, whole, to));
          }
        }
      }
    }
    return edges;
  }

  /**
   * The groups of names that hang together and are too many to be one asset, each with the link to
   * cut: the one whose removal leaves the two most equal halves. Takes time linear in all names,
   * and for each such component quadratic in its links.
   */
  public List<OverMerged> overMerged() {
    var seen = new HashSet<DatasetName>();
    var found = new ArrayList<OverMerged>();
    for (DatasetName start : new TreeSet<>(near.keySet())) {
      if (!seen.contains(start)) {
        Set<DatasetName> component = reach(start, null);
        seen.addAll(component);
        if (component.size() > LARGEST) {
          found.add(bestCut(component));
        }
      }
    }
    return found;
  }

  private Set<DatasetName> reach(DatasetName start, @Nullable Edge without) {
    var reached = new TreeSet<>(List.of(start));
    var open = new ArrayDeque<>(reached);
    while (!open.isEmpty()) {
      DatasetName at = open.poll();
      near.getOrDefault(at, Map.of())
          .forEach(
              (next, count) -> {
                boolean cut =
                    without != null && Edge.of(without.byHand(), at, next).equals(without);
                if (count > 0 && !cut && reached.add(next)) {
                  open.add(next);
                }
              });
    }
    return reached;
  }

  private OverMerged bestCut(Set<DatasetName> component) {
    Edge best = null;
    int bestSmaller = -1;
    int tried = 0;
    for (Edge edge : edges(component)) {
      if (++tried > MAX_CUTS_TRIED) {
        break;
      }
      int reached = reach(edge.one(), edge).size();
      int smaller = Math.min(reached, component.size() - reached);
      if (smaller > bestSmaller) {
        best = edge;
        bestSmaller = smaller;
      }
    }
    Edge cut = Objects.requireNonNull(best, "a component of many groups has links");
    return new OverMerged(component.size(), leadOfGroup(cut.one()), leadOfGroup(cut.other()));
  }

  /** All parts of the asset that {@code name} belongs to, itself among them, in order. */
  public Collection<DatasetName> partsOf(DatasetName name) {
    var parts = new TreeSet<DatasetName>(List.of(name));
    groupsOf(name).forEach(whole -> parts.addAll(groups.getOrDefault(whole, new TreeSet<>())));
    return Collections.unmodifiableSet(parts);
  }

  /**
   * All names that hang together with one, whether or not some are held apart: a link of any of
   * them may move each of the others to another asset. Of too many to be one asset, those of the
   * name's own group.
   */
  public Collection<DatasetName> hangingWith(DatasetName name) {
    var names = new TreeSet<DatasetName>(List.of(name));
    linkedGroups(name).forEach(whole -> names.addAll(groups.getOrDefault(whole, new TreeSet<>())));
    return names;
  }

  /**
   * The name that stands for the asset: a symbolic link's table target, else the least. Of a group
   * that folds it is the name of the whole, which no event need have named.
   */
  public DatasetName leadOf(DatasetName name) {
    Set<DatasetName> whole = groupsOf(name);
    if (!leads.isEmpty()) {
      Optional<DatasetName> chosen =
          leads.stream()
              .filter(lead -> whole.contains(wholeOf(lead)))
              .min(Comparator.naturalOrder());
      if (chosen.isPresent()) {
        return chosen.get();
      }
    }
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
      if (folding.fold(part).isEmpty() && rules.target(part).isEmpty()) {
        return part; // some event named the whole itself
      }
    }
    return spelled != null ? spelled : parts.isEmpty() ? whole : parts.first();
  }

  /**
   * What distinguishes a part from the others of the whole it folds into; empty if it does not
   * fold.
   */
  public Optional<FoldingRules.Folded> folded(DatasetName part) {
    return folding.fold(part);
  }
}
