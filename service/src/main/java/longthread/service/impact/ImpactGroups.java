package longthread.service.impact;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.Owner;
import longthread.core.impact.Certainty;
import longthread.core.impact.Impact;
import longthread.core.impact.Verdict;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.LabelBoard;
import longthread.service.live.Sight;
import longthread.service.live.Sights;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/** What a change touches, by owner (whom to tell), system, workspace, kind or label. */
@Component
class ImpactGroups {
  /** What to group by. */
  enum By {
    OWNER,
    SYSTEM,
    WORKSPACE,
    KIND,
    LABEL;

    String word() {
      return name().toLowerCase(Locale.ROOT);
    }

    static By of(String word) {
      return Arrays.stream(values())
          .filter(by -> by.word().equals(word))
          .findFirst()
          .orElseThrow(
              () ->
                  ProblemException.badRequest(
                      "bad-group",
                      "'"
                          + word
                          + "' groups nothing; use one of "
                          + String.join(", ", Arrays.stream(values()).map(By::word).toList())));
    }
  }

  /** One of the most urgent items of a group. */
  record Foremost(String ref, String kind, String name, String verdict, String certainty) {}

  /**
   * A group.
   *
   * @param name null for what has none: no owner, in no workspace, without a label
   * @param addresses of an owner, where known
   * @param verdicts items by verdict
   * @param certain of how many items the verdict is certain
   * @param foremost the most urgent items, at most {@value #MOST_FOREMOST}
   */
  record Group(
      @Nullable String name,
      List<String> addresses,
      int items,
      Map<String, Integer> verdicts,
      int certain,
      List<Foremost> foremost) {}

  static final int MOST_FOREMOST = 5;

  private static final Verdict[] VERDICTS = Verdict.values();

  private final Catalog catalog;
  private final LabelBoard labels;

  ImpactGroups(Catalog catalog, LabelBoard labels) {
    this.catalog = catalog;
    this.labels = labels;
  }

  /** The groups, those with the most urgent verdicts first; an item may be in several. */
  List<Group> of(List<Impact.Item> items, By by) {
    var groups = new HashMap<String, Gathered>();
    for (Impact.Item item : items) {
      Asset asset = catalog.asset(item.ref()).orElse(null);
      Set<String> names = names(item, asset, by);
      if (names.isEmpty()) {
        groups.computeIfAbsent("", k -> new Gathered(null)).add(item, asset, by);
      }
      for (String name : names) {
        groups.computeIfAbsent(name, Gathered::new).add(item, asset, by);
      }
    }
    return groups.values().stream()
        .sorted(Gathered.URGENT_FIRST)
        .map(gathered -> gathered.group(catalog))
        .toList();
  }

  private Set<String> names(Impact.Item item, @Nullable Asset asset, By by) {
    if (asset != null && asset.isRestricted()) {
      return Set.of(Sight.RESTRICTED); // to say that nobody owns it would be wrong
    }
    return switch (by) {
      case OWNER -> asset == null ? Set.of() : new LinkedHashSet<>(asset.ownerNames());
      case SYSTEM -> Set.of(catalog.systemOf(item.ref()));
      case WORKSPACE -> {
        String workspace = workspaceOf(asset);
        yield workspace == null ? Set.of() : Set.of(workspace);
      }
      case KIND -> Set.of(ImpactFinder.kindOf(asset));
      case LABEL -> asset == null ? Set.of() : new LinkedHashSet<>(labels.wordsOf(asset));
    };
  }

  /** The workspace that a model, chart, report or dashboard is in; null for everything else. */
  static @Nullable String workspaceOf(@Nullable Asset asset) {
    return asset == null ? null : Sights.workspaceOf(asset);
  }

  private static final class Gathered {
    static final Comparator<Gathered> URGENT_FIRST =
        Arrays.stream(VERDICTS)
            .map(verdict -> Comparator.comparing((Gathered g) -> -g.verdicts[verdict.ordinal()]))
            .reduce(Comparator::thenComparing)
            .orElseThrow()
            .thenComparing(g -> g.name == null ? "" : g.name);

    private final @Nullable String name;
    private final Set<String> addresses = new TreeSet<>();
    private final int[] verdicts = new int[VERDICTS.length];
    private final List<Impact.Item> foremost = new ArrayList<>(MOST_FOREMOST);
    private int items;
    private int certain;

    Gathered(@Nullable String name) {
      this.name = name;
    }

    void add(Impact.Item item, @Nullable Asset asset, By by) {
      items++;
      verdicts[item.headline().ordinal()]++;
      if (item.certainty() == Certainty.CERTAIN) {
        certain++;
      }
      if (foremost.size() < MOST_FOREMOST) {
        foremost.add(item); // items come the most urgent first
      }
      if (by == By.OWNER && asset != null) {
        for (Owner owner : asset.card().owners()) {
          if (owner.name().equals(name) && owner.address() != null) {
            addresses.add(owner.address());
          }
        }
      }
    }

    Group group(Catalog catalog) {
      var counts = new LinkedHashMap<String, Integer>();
      for (Verdict verdict : VERDICTS) {
        if (verdict != Verdict.UNTOUCHED) {
          counts.put(verdict.word(), verdicts[verdict.ordinal()]);
        }
      }
      return new Group(
          name,
          List.copyOf(addresses),
          items,
          counts,
          certain,
          foremost.stream().map(item -> foremost(item, catalog)).toList());
    }

    private static Foremost foremost(Impact.Item item, Catalog catalog) {
      Asset asset = catalog.asset(item.ref()).orElse(null);
      return new Foremost(
          item.ref(),
          ImpactFinder.kindOf(asset),
          asset == null ? item.ref() : asset.shown(),
          item.headline().word(),
          item.certainty().word());
    }
  }
}
