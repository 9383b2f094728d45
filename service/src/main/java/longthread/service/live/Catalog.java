package longthread.service.live;

import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.function.Predicate;
import longthread.core.asset.AssetGrouping;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.FoldingRules;
import longthread.core.asset.MergeRules;
import longthread.core.event.CardReader;
import longthread.core.search.WordIndex;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/**
 * All assets in memory, as queries see them. One thread changes it, when it follows the log; any
 * number read it meanwhile. When everything is loaded anew, queries see the old until the new is
 * whole.
 */
@Component
public class Catalog {
  private final FoldingRules folding;
  private final String foldedBy;
  private volatile CatalogIndex index;
  private volatile CompletableFuture<WordIndex<Asset>> wordsOf;
  private volatile MergeRules rules = MergeRules.NONE;
  private volatile Predicate<String> linked = ref -> false;

  Catalog(
      @Value("${longthread.fold.rules:}") String ownRules,
      @Value("${longthread.fold.off:}") List<String> rulesOff) {
    folding =
        FoldingRules.of(
            ownRules.lines().map(String::strip).filter(rule -> !rule.isEmpty()).toList(), rulesOff);
    index = new CatalogIndex(folding, rules);
    wordsOf = CompletableFuture.completedFuture(index.words());
    foldedBy = ownRules + rulesOff;
  }

  /** The settings of folding, as text. */
  String foldedBy() {
    return foldedBy;
  }

  /** The rules by which names fold into one. */
  public FoldingRules folding() {
    return folding;
  }

  /** Puts other cards in the place of all. */
  public void replaceAll(Collection<Card> cards) {
    var fresh = new CatalogIndex(folding, rules);
    fresh.holdApart(cards);
    fresh.putOffWords();
    fresh.put(cards);
    index = fresh;
    wordsOf =
        CompletableFuture.supplyAsync(
            () -> {
              fresh.addWords();
              return fresh.words();
            },
            task -> {
              var adding = new Thread(task, "words");
              adding.setDaemon(true);
              adding.start();
            });
  }

  /** Takes in new or changed cards; returns what changed in how links are to be resolved. */
  CatalogIndex.Resolving put(Collection<Card> changed) {
    if (changed.stream().anyMatch(index::parts)) {
      // Names that are held apart have a say in how all others are grouped.
      var all = new java.util.HashMap<String, Card>();
      index.cards().forEach(card -> all.put(card.ref(), card));
      changed.forEach(card -> all.put(card.ref(), card));
      replaceAll(all.values());
      return new CatalogIndex.Resolving(true, java.util.Set.of());
    }
    return index.put(changed);
  }

  /** Sets the rules of people by which names are one; all cards have to be put in anew. */
  void setRules(MergeRules now) {
    rules = now;
  }

  /** The names that one program gives what another one calls otherwise, by rules of people. */
  public MergeRules rules() {
    return rules;
  }

  /** The groups of names that hang together and are too many to be one asset. */
  public List<AssetGrouping.OverMerged> overMerged() {
    return index.overMerged();
  }

  /** A column's path as the asset's schema has it; see {@link CatalogIndex#columnOf}. */
  public String columnOf(String lead, String path) {
    return index.columnOf(lead, path);
  }

  /** The jobs that say they come before or after a job. */
  public Set<String> tiedBy(String job) {
    return index.tiedBy(job);
  }

  /** What is known of one name, before names are merged; empty for a name that no event used. */
  public Optional<Card> card(String ref) {
    return index.card(ref);
  }

  /** How many names that events used an asset is made of. */
  public int partCount(Asset asset) {
    return index.partCount(asset);
  }

  /** Whether what a reference names is a part of an asset under another name. */
  public Optional<FoldingRules.Folded> foldedPart(String ref) {
    return index.foldedPart(ref);
  }

  /** The reference of the asset that a dataset or job reference belongs to, hidden or not. */
  public String leadOf(String ref) {
    return index.leadOf(ref);
  }

  /**
   * The asset that leads under this reference, or whose part has it, as the caller may see it: of
   * what is hidden only that it is there.
   */
  public Optional<Asset> asset(String ref) {
    return known(ref).map(Sight.now()::seen);
  }

  /** Whether the caller may see what a reference names; what nobody named hides nothing. */
  public boolean isSeen(String ref) {
    Sight sight = Sight.now();
    return sight.isWhole() || known(ref).map(sight::seesAgain).orElse(true);
  }

  /** Whether a word, as somebody may name an asset, means something hidden and nothing else. */
  public boolean meansOnlyHidden(String word) {
    if (Sight.now().isWhole()) {
      return false;
    }
    Set<String> meant = index.candidates(word, asset -> true);
    return !meant.isEmpty() && meant.stream().noneMatch(this::isSeen);
  }

  /** How many assets the caller may not see. */
  public int hidden() {
    Sight sight = Sight.now();
    return sight.isWhole() ? 0 : (int) all().stream().filter(asset -> !sight.sees(asset)).count();
  }

  /** The assets that the caller may see. */
  public Collection<Asset> seen() {
    Sight sight = Sight.now();
    return sight.isWhole() ? all() : all().stream().filter(sight::sees).toList();
  }

  /**
   * The asset as it is, whoever asks: for what is worked out once for all callers. It must not go
   * into an answer.
   */
  public Optional<Asset> known(String ref) {
    Optional<Asset> known = index.asset(ref);
    return known.isPresent() || !linked.test(ref) ? known : Optional.of(mentioned(ref));
  }

  /** Sets how to tell whether links know a name that no event gave as such, as SQL may do. */
  void linkedBy(Predicate<String> test) {
    linked = test;
  }

  /** What a name alone says of a dataset that only links mention. */
  private Asset mentioned(String ref) {
    Card card = CardReader.dataset(DatasetName.parse(ref), Map.of(), null, false, false);
    return new Asset(ref, List.of(ref), card, index.systemOfNamespace(card.namespace()));
  }

  /**
   * The assets by their words; another object when all was loaded anew. Waits until the words of
   * all are in it, some seconds after a start with hundreds of thousands of columns.
   */
  public WordIndex<Asset> words() {
    return wordsOf.join();
  }

  /** The assets that have tags, themselves or on a column; most have none. */
  public List<Asset> labelled() {
    return index.labelled();
  }

  /** See {@link CatalogIndex#otherLeads}. */
  Map<String, String> otherLeads() {
    return index.otherLeads();
  }

  /** See {@link CatalogIndex#dottedNames}. */
  Map<String, Map<String, String>> dottedNames() {
    return index.dottedNames();
  }

  /** All assets, hidden or not: see {@link #known}. */
  public Collection<Asset> all() {
    return index.all();
  }

  /** The system that a name alone belongs to, whatever asset it is a part of. */
  public String systemOfName(String ref) {
    return index
        .card(ref)
        .map(card -> card.system() != null ? card.system() : null)
        .orElseGet(() -> index.systemOfNamespace(Card.namespaceOf(ref)));
  }

  /** The name that a namespace's systems go by, as far as the caller may see it. */
  public String systemOf(String ref) {
    return isSeen(ref) ? index.systemOf(ref) : Sight.RESTRICTED;
  }

  /** The assets that a short form may mean and the caller may see. */
  Set<String> candidates(String text) {
    Sight sight = Sight.now();
    return index.candidates(text, sight.isWhole() ? asset -> true : sight::sees);
  }
}
