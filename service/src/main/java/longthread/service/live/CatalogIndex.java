package longthread.service.live;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Predicate;
import longthread.core.asset.AssetGrouping;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.FoldingRules;
import longthread.core.asset.MergeRules;
import longthread.core.asset.Reference;
import longthread.core.asset.ShortNames;
import longthread.core.search.Place;
import longthread.core.search.WordIndex;
import org.jspecify.annotations.Nullable;

/** Names grouped into assets, and assets by all their names. Filled by one thread, read by many. */
final class CatalogIndex {
  private static final int MOST_NAMES =
      200; // of an asset by which it is found; dated ones differ little

  private static final int FEW = 8;
  private static final int WORDS_AT_ONCE = 200; // assets, after which a change may come in between

  private final Map<String, Card> cards = new ConcurrentHashMap<>();
  private final Map<String, Asset> assets = new ConcurrentHashMap<>(); // by lead
  private final Map<String, String> leads = new ConcurrentHashMap<>(); // by part
  private final Map<String, TreeMap<String, Integer>> systems =
      new ConcurrentHashMap<>(); // by namespace: the names it goes by, with how many cards say so
  private final Map<String, Set<String>> byLastWord = new ConcurrentHashMap<>(); // leads
  private final Map<String, Set<String>> tiedBy = new ConcurrentHashMap<>(); // jobs, by job
  private final Map<String, Map<String, String>> dottedNames = new ConcurrentHashMap<>(); // by lead
  private final WordIndex<Asset> words = new WordIndex<>();
  private volatile boolean wordsLater; // they are put in when all assets are there
  private final Set<String> labelled = ConcurrentHashMap.newKeySet(); // leads with tags
  private final FoldingRules folding;
  private final AssetGrouping grouping;

  CatalogIndex(FoldingRules folding, MergeRules rules) {
    this.folding = folding;
    grouping = new AssetGrouping(folding, rules);
  }

  /** Names held apart must be known before any name is added. */
  void holdApart(Collection<Card> all) {
    all.stream()
        .filter(card -> !card.joins().isEmpty())
        .forEach(card -> grouping.holdApart(DatasetName.parse(card.ref()), apart(card)));
  }

  /**
   * Whether a card holds other names apart than the one known before, so that all is to be read.
   */
  boolean parts(Card changed) {
    Card before = cards.get(changed.ref());
    return !apart(changed).equals(before == null ? List.of() : apart(before));
  }

  private static List<DatasetName> apart(Card card) {
    return card.joins().stream()
        .filter(Card.Join::apart)
        .map(join -> DatasetName.parse(join.ref()))
        .toList();
  }

  /** The groups of names that are too many to be one asset. */
  List<AssetGrouping.OverMerged> overMerged() {
    synchronized (this) {
      return grouping.overMerged();
    }
  }

  /**
   * What changed in how links are to be resolved.
   *
   * @param regrouped whether names that were known before were joined or parted
   * @param respelled the leads of assets whose columns have other paths than before
   */
  record Resolving(boolean regrouped, Set<String> respelled) {}

  /** Takes in new or changed cards; takes time linear in them and in the assets they touch. */
  synchronized Resolving put(Collection<Card> changed) {
    Set<String> touched = new LinkedHashSet<>();
    var respelled = new HashSet<String>();
    var renamedSystems = new HashSet<String>();
    for (Card card : changed) {
      Card before = cards.put(card.ref(), card);
      touched.add(card.ref());
      if (setSystem(card.namespace(), before == null ? null : before.system(), card.system())) {
        renamedSystems.add(card.namespace());
      }
      if (!Reference.isJob(card.ref())) {
        DatasetName name = DatasetName.parse(card.ref());
        List<AssetGrouping.Symlink> links = links(card);
        boolean sameLinks = before != null && links.equals(links(before));
        boolean sameLead = !grouping.setLead(name, card.leads());
        if (!sameLinks || !sameLead) {
          var ends = new HashSet<DatasetName>(List.of(name));
          links.forEach(link -> ends.add(link.target()));
          if (before != null) {
            links(before).forEach(link -> ends.add(link.target()));
          }
          touch(ends, touched);
          if (grouping.setSymlinks(name, links)) {
            touch(ends, touched);
          }
        }
      } else if (before == null || !before.ties().equals(card.ties())) {
        if (before != null) {
          before.ties().forEach(tie -> tiedBy.getOrDefault(tie.ref(), Set.of()).remove(card.ref()));
        }
        card.ties()
            .forEach(
                tie ->
                    tiedBy
                        .computeIfAbsent(tie.ref(), k -> ConcurrentHashMap.newKeySet())
                        .add(card.ref()));
      }
    }
    if (!renamedSystems.isEmpty()) {
      cards.values().stream()
          .filter(card -> renamedSystems.contains(card.namespace()))
          .forEach(card -> touched.add(card.ref()));
    }
    boolean regrouped = false;
    var done = new HashSet<String>();
    var left = new HashSet<String>();
    for (String ref : touched) {
      if (Reference.isJob(ref)) {
        store(ref, List.of(Objects.requireNonNull(cards.get(ref))), respelled);
      } else if (cards.containsKey(ref)) {
        String lead = grouping.leadOf(DatasetName.parse(ref)).reference();
        String before = leads.get(ref);
        regrouped |= before != null && !before.equals(lead);
        if (done.add(lead)) {
          regrouped |= compose(ref, lead, left, respelled);
        }
      }
    }
    for (String lead : left) {
      boolean empty =
          grouping.partsOf(DatasetName.parse(lead)).stream()
              .noneMatch(part -> lead.equals(leads.get(part.reference())));
      if (empty || !grouping.leadOf(DatasetName.parse(lead)).reference().equals(lead)) {
        assets.remove(lead);
        words.remove(lead);
        labelled.remove(lead);
        dottedNames.remove(lead);
      }
    }
    return new Resolving(regrouped, respelled);
  }

  private void touch(Set<DatasetName> ends, Set<String> touched) {
    ends.forEach(end -> grouping.hangingWith(end).forEach(part -> touched.add(part.reference())));
  }

  /**
   * Counts the names that a namespace's system goes by: of several it is the least, so that the
   * order of arrival plays no part. Returns whether that is another one now.
   */
  private boolean setSystem(String namespace, @Nullable String before, @Nullable String now) {
    if (Objects.equals(before, now)) {
      return false;
    }
    TreeMap<String, Integer> names = systems.computeIfAbsent(namespace, k -> new TreeMap<>());
    synchronized (names) {
      String least = names.isEmpty() ? null : names.firstKey();
      if (before != null) {
        names.computeIfPresent(before, (name, count) -> count == 1 ? null : count - 1);
      }
      if (now != null) {
        names.merge(now, 1, Integer::sum);
      }
      return !Objects.equals(least, names.isEmpty() ? null : names.firstKey());
    }
  }

  /** The names that a card says are the same thing: symbolic links, and what it is called now. */
  private static List<AssetGrouping.Symlink> links(Card card) {
    var links = new ArrayList<AssetGrouping.Symlink>();
    card.symlinks()
        .forEach(
            link ->
                links.add(
                    new AssetGrouping.Symlink(
                        DatasetName.parse(link.ref()),
                        link.table() ? AssetGrouping.Why.TABLE : AssetGrouping.Why.ALIAS)));
    if (card.renamedTo() != null) {
      links.add(
          new AssetGrouping.Symlink(DatasetName.parse(card.renamedTo()), AssetGrouping.Why.RENAME));
    }
    card.joins().stream()
        .filter(join -> !join.apart())
        .forEach(
            join ->
                links.add(
                    new AssetGrouping.Symlink(
                        DatasetName.parse(join.ref()), AssetGrouping.Why.HAND)));
    return links;
  }

  /**
   * A column's path as the asset's schema has it. Emitters write paths with dots, and a dot may as
   * well stand inside a name: where the schema has such a name and not the path, that is meant.
   */
  String columnOf(String lead, String path) {
    Map<String, String> dotted = dottedNames.getOrDefault(lead, Map.of());
    if (dotted.isEmpty()) {
      return path;
    }
    String known = dotted.get(path);
    return known != null ? known : dotted.getOrDefault(path.replace("%2E", "."), path);
  }

  /** The jobs that say they come before or after a job. */
  Set<String> tiedBy(String job) {
    return tiedBy.getOrDefault(job, Set.of());
  }

  /** What is known of one name, before names are merged; empty for a name that no event used. */
  Optional<Card> card(String ref) {
    return Optional.ofNullable(cards.get(ref));
  }

  /** How many names that events used an asset is made of. */
  int partCount(Asset asset) {
    return (int) asset.parts().stream().filter(cards::containsKey).count();
  }

  /** Whether what a reference names is a part of an asset under another name. */
  Optional<FoldingRules.Folded> foldedPart(String ref) {
    return Reference.isJob(ref) ? Optional.empty() : folding.fold(DatasetName.parse(ref));
  }

  /** Lays the parts of an asset together; returns whether any of them was another's before. */
  private boolean compose(String ref, String name, Set<String> left, Set<String> respelled) {
    var parts = new ArrayList<Card>();
    String lead = name;
    for (DatasetName part : grouping.partsOf(DatasetName.parse(ref))) {
      Card card = cards.get(part.reference());
      if (card != null) {
        parts.add(card);
        lead = card.ref().equals(lead) ? card.ref() : lead; // one text for all that refer to it
      }
    }
    boolean moved = false;
    for (Card part : parts) {
      String before = leads.put(part.ref(), lead);
      if (before != null && !before.equals(lead)) {
        left.add(before);
        moved = true;
      }
    }
    store(lead, parts, respelled);
    return moved;
  }

  private void store(String lead, List<Card> parts, Set<String> respelled) {
    leads.put(lead, lead);
    Asset asset = Asset.of(lead, parts, this::systemOf);
    assets.put(lead, asset);
    if (asset.labels().isEmpty()) {
      labelled.remove(lead);
    } else {
      labelled.add(lead);
    }
    if (!wordsLater) {
      words.put(lead, asset, texts(asset));
    }
    Map<String, String> dotted = asset.dottedNames();
    if (!dotted.equals(dottedNames.getOrDefault(lead, Map.of()))) {
      dottedNames.put(lead, dotted);
      respelled.add(lead);
    }
    ShortNames.lastWords(asset).forEach(word -> note(word, lead));
  }

  /** By what words an asset is found. */
  private List<WordIndex.Text> texts(Asset asset) {
    Card card = asset.card();
    var texts = new ArrayList<WordIndex.Text>();
    texts.add(new WordIndex.Text(Place.NAME, card.name()));
    texts.add(new WordIndex.Text(Place.TITLE, asset.shown()));
    asset.parts().stream()
        .limit(MOST_NAMES)
        .forEach(part -> texts.add(new WordIndex.Text(Place.ADDRESS, part)));
    if (asset.parts().stream().limit(MOST_NAMES).anyMatch(CatalogIndex::isEncoded)) {
      asset.parts().stream()
          .limit(MOST_NAMES)
          .forEach(part -> texts.add(new WordIndex.Text(Place.ADDRESS, Reference.decode(part))));
    }
    for (Card.Column column : card.columns()) {
      texts.add(new WordIndex.Text(Place.COLUMN, column.path()));
      if (isEncoded(column.path())) {
        texts.add(new WordIndex.Text(Place.COLUMN, Reference.decode(column.path())));
      }
      if (column.description() != null) {
        texts.add(new WordIndex.Text(Place.COLUMN_TEXT, column.description()));
      }
    }
    asset.ownerNames().forEach(owner -> texts.add(new WordIndex.Text(Place.OWNER, owner)));
    asset.labels().forEach(label -> texts.add(new WordIndex.Text(Place.LABEL, label)));
    texts.add(new WordIndex.Text(Place.TEXT, asset.system()));
    card.container().forEach(name -> texts.add(new WordIndex.Text(Place.TEXT, name)));
    for (String text : new String[] {card.description(), card.url()}) {
      if (text != null) {
        texts.add(new WordIndex.Text(Place.TEXT, text));
      }
    }
    return texts;
  }

  /** The assets by their words; empty until {@link #addWords}, where these were put off. */
  WordIndex<Asset> words() {
    return words;
  }

  /** Puts off the words of assets: they take as long as all else, and only a search needs them. */
  void putOffWords() {
    wordsLater = true;
  }

  /** Adds the words of all assets, where they were put off. */
  void addWords() {
    List<String> leads;
    synchronized (this) {
      wordsLater = false; // what changes from now on brings its own
      leads = List.copyOf(assets.keySet());
    }
    for (int from = 0; from < leads.size(); from += WORDS_AT_ONCE) {
      synchronized (this) {
        for (String lead : leads.subList(from, Math.min(leads.size(), from + WORDS_AT_ONCE))) {
          Asset asset = assets.get(lead);
          if (asset != null) {
            words.put(lead, asset, texts(asset));
          }
        }
      }
    }
  }

  /** The assets that have tags, themselves or on a column; most have none. */
  List<Asset> labelled() {
    return labelled.stream().map(assets::get).filter(Objects::nonNull).toList();
  }

  /** By name, the asset that it is a part of, where that has another name. */
  Map<String, String> otherLeads() {
    var others = new HashMap<String, String>();
    leads.forEach(
        (part, lead) -> {
          if (!part.equals(lead)) {
            others.put(part, lead);
          }
        });
    return others;
  }

  /** By asset, its columns with dots in their names by how emitters may write them. */
  Map<String, Map<String, String>> dottedNames() {
    return Map.copyOf(dottedNames);
  }

  /**
   * Most words are of one asset, and a set that changes takes ten times the room of one that not.
   */
  private void note(String word, String lead) {
    byLastWord.merge(
        word,
        Set.of(lead),
        (known, one) -> {
          if (known.contains(lead)) {
            return known;
          }
          if (known.size() > FEW) {
            known.add(lead);
            return known;
          }
          Set<String> more =
              known.size() < FEW ? new HashSet<>(known) : ConcurrentHashMap.newKeySet();
          more.addAll(known);
          more.add(lead);
          return known.size() < FEW ? Set.copyOf(more) : more;
        });
  }

  private String systemOf(Card card) {
    return card.system() != null ? card.system() : systemOfNamespace(card.namespace());
  }

  /** The name that a namespace's system goes by. */
  String systemOfNamespace(String namespace) {
    TreeMap<String, Integer> names = systems.get(namespace);
    if (names == null) {
      return namespace;
    }
    synchronized (names) {
      return names.isEmpty() ? namespace : names.firstKey();
    }
  }

  /** The reference of the asset that a dataset or job reference belongs to. */
  String leadOf(String ref) {
    return leads.getOrDefault(ref, ref);
  }

  /** The asset that leads under this reference, or whose part has it. */
  Optional<Asset> asset(String ref) {
    Asset asset = assets.get(ref); // most names lead
    return Optional.ofNullable(asset != null ? asset : assets.get(leadOf(ref)));
  }

  Collection<Card> cards() {
    return cards.values();
  }

  Collection<Asset> all() {
    return assets.values();
  }

  /** The name a namespace's systems go by. */
  String systemOf(String ref) {
    return asset(ref).map(Asset::system).orElseGet(() -> systemOfNamespace(Card.namespaceOf(ref)));
  }

  /**
   * The assets that a short form may mean: exact references first, then endings, then titles; live
   * ones before retired ones.
   *
   * @param text a reference or an ending of one at {@code .} or {@code /}, or a title
   * @param seen what may be meant at all
   */
  Set<String> candidates(String text, Predicate<Asset> seen) {
    Asset exact = exact(text);
    if (exact != null && seen.test(exact)) {
      return Set.of(exact.ref());
    }
    List<Asset> named =
        byLastWord.getOrDefault(ShortNames.lastWord(text), Set.of()).stream()
            .map(assets::get)
            .filter(asset -> asset != null && seen.test(asset))
            .toList();
    return ShortNames.candidates(text, named);
  }

  private @Nullable Asset exact(String text) {
    String lead = leads.get(text);
    return lead == null ? null : assets.get(lead);
  }

  private static boolean isEncoded(String reference) {
    return reference.indexOf('%') >= 0;
  }
}
