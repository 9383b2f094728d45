package longthread.service.catalog;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import longthread.core.asset.AssetGrouping;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.Reference;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * All assets in memory, as queries see them. One thread changes it, when it follows the log; any
 * number read it meanwhile.
 */
@Component
public class Catalog {
  private final Map<String, Card> cards = new ConcurrentHashMap<>();
  private final Map<String, Asset> assets = new ConcurrentHashMap<>(); // by lead
  private final Map<String, String> leads = new ConcurrentHashMap<>(); // by part
  private final Map<String, String> systems = new ConcurrentHashMap<>(); // by namespace
  private final Map<String, Set<String>> byLastWord = new ConcurrentHashMap<>(); // leads
  private AssetGrouping grouping = new AssetGrouping();

  /**
   * Takes in new or changed cards.
   *
   * @return whether names were joined or parted, so that links must be laid anew
   */
  public synchronized boolean put(Collection<Card> changed) {
    boolean regrouped = false;
    for (Card card : changed) {
      cards.put(card.ref(), card);
      if (card.system() != null) {
        // Several names for one namespace: the least, so that the order of arrival plays no part.
        systems.merge(namespace(card.ref()), card.system(), (a, b) -> a.compareTo(b) <= 0 ? a : b);
      }
      if (!card.ref().startsWith("@")) {
        DatasetName name = dataset(card.ref());
        boolean fresh = grouping.add(name);
        boolean linked =
            grouping.setSymlinks(
                name,
                card.symlinks().stream()
                    .map(link -> new AssetGrouping.Symlink(dataset(link.ref()), link.table()))
                    .toList());
        regrouped |= linked || (fresh && grouping.partsOf(name).size() > 1);
      }
    }
    Set<String> touched = new LinkedHashSet<>();
    (regrouped ? cards.values() : changed).forEach(card -> touched.add(card.ref()));
    touched.forEach(this::compose);
    return regrouped;
  }

  private void compose(String ref) {
    if (ref.startsWith("@")) {
      store(ref, List.of(Objects.requireNonNull(cards.get(ref))));
      return;
    }
    DatasetName name = dataset(ref);
    String lead = grouping.leadOf(name).reference();
    var parts = new ArrayList<Card>();
    for (DatasetName part : grouping.partsOf(name)) {
      Card card = cards.get(part.reference());
      if (card != null) {
        parts.add(card);
      }
    }
    for (Card part : parts) {
      String before = leads.put(part.ref(), lead);
      if (before != null && !before.equals(lead)) {
        assets.remove(before);
      }
    }
    store(lead, parts);
  }

  private void store(String lead, List<Card> parts) {
    leads.put(lead, lead);
    Asset asset = Asset.of(lead, parts, this::systemOf);
    assets.put(lead, asset);
    for (String part : asset.parts()) {
      byLastWord.computeIfAbsent(lastWord(part), k -> ConcurrentHashMap.newKeySet()).add(lead);
    }
    if (asset.card().title() != null) {
      byLastWord
          .computeIfAbsent(lastWord(asset.shown()), k -> ConcurrentHashMap.newKeySet())
          .add(lead);
    }
  }

  private String systemOf(Card card) {
    String namespace = namespace(card.ref());
    return card.system() != null ? card.system() : systems.getOrDefault(namespace, namespace);
  }

  private static String namespace(String ref) {
    Reference reference = Reference.parse(ref);
    return reference instanceof Reference.OfJob job
        ? job.job().namespace()
        : ((Reference.OfDataset) reference).dataset().namespace();
  }

  private static DatasetName dataset(String ref) {
    return ((Reference.OfDataset) Reference.parse(ref)).dataset();
  }

  /** The reference of the asset that a dataset or job reference belongs to. */
  public String leadOf(String ref) {
    return leads.getOrDefault(ref, ref);
  }

  /** The asset that leads under this reference, or whose part has it. */
  public Optional<Asset> asset(String ref) {
    return Optional.ofNullable(assets.get(leadOf(ref)));
  }

  public Collection<Asset> all() {
    return assets.values();
  }

  /** The name a namespace's systems go by. */
  public String systemOf(String ref) {
    return asset(ref).map(Asset::system).orElseGet(() -> namespace(ref));
  }

  /**
   * The assets that a short form may mean: exact references first, then endings, then titles; live
   * ones before retired ones.
   *
   * @param text a reference or an ending of one at {@code .} or {@code /}, or a title
   */
  Set<String> candidates(String text) {
    Asset exact = exact(text);
    if (exact != null) {
      return Set.of(exact.ref());
    }
    for (boolean caseMatters : new boolean[] {true, false}) {
      var found = new TreeSet<String>();
      for (String lead : byLastWord.getOrDefault(lastWord(text), Set.of())) {
        Asset asset = assets.get(lead);
        if (asset != null && endsWith(asset, text, caseMatters)) {
          found.add(lead);
        }
      }
      if (found.size() > 1) {
        var live = new TreeSet<>(found);
        live.removeIf(ref -> Objects.requireNonNull(assets.get(ref)).card().retired());
        found = live.isEmpty() ? found : live;
      }
      if (!found.isEmpty()) {
        return found;
      }
    }
    return Set.of();
  }

  private @Nullable Asset exact(String text) {
    String lead = leads.get(text);
    return lead == null ? null : assets.get(lead);
  }

  private static boolean endsWith(Asset asset, String text, boolean caseMatters) {
    var names = new ArrayList<>(asset.parts());
    names.add(asset.shown());
    String wanted = caseMatters ? text : text.toLowerCase(Locale.ROOT);
    for (String name : names) {
      String spelled = caseMatters ? name : name.toLowerCase(Locale.ROOT);
      if (spelled.endsWith(wanted)) {
        int at = spelled.length() - wanted.length();
        if (at == 0 || "./@ ".indexOf(spelled.charAt(at - 1)) >= 0) {
          return true;
        }
        boolean wholeJob = wanted.startsWith("@") && spelled.startsWith("@");
        if (wholeJob) {
          return true;
        }
      } else if (wanted.startsWith("@") && spelled.startsWith("@")) {
        String task = wanted.substring(1);
        int at = spelled.length() - task.length();
        if (spelled.endsWith(task) && at > 0 && "./@".indexOf(spelled.charAt(at - 1)) >= 0) {
          return true;
        }
      }
    }
    return false;
  }

  private static String lastWord(String ref) {
    String lower = ref.toLowerCase(Locale.ROOT);
    int cut =
        Math.max(lower.lastIndexOf('.'), Math.max(lower.lastIndexOf('/'), lower.lastIndexOf('@')));
    cut = Math.max(cut, lower.lastIndexOf(' '));
    return lower.substring(cut + 1);
  }

  /** Forgets everything, before it is loaded anew. */
  public synchronized void clear() {
    cards.clear();
    assets.clear();
    leads.clear();
    systems.clear();
    byLastWord.clear();
    grouping = new AssetGrouping();
  }
}
