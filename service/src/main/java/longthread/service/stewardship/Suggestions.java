package longthread.service.stewardship;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.BiPredicate;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.Kind;
import longthread.core.asset.MergeCandidates;
import longthread.core.asset.MergeRules;
import longthread.core.asset.Reference;
import longthread.core.graph.Direction;
import longthread.core.graph.LikelyCopies;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;
import longthread.core.json.CanonicalJson;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.Glossary;
import longthread.service.live.GraphFollower;
import longthread.service.statements.Dismissals;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;

/** What the catalog proposes to whoever keeps it. */
@Service
public class Suggestions {
  private static final int MAX_TERM_COLUMNS = 5_000;
  private static final int MAX_NAMES = 500;
  private static final int MAX_HOPS = 30;
  private static final int MAX_REACH = 100_000;

  /**
   * Two names that are probably one asset.
   *
   * @param id by which it is declined
   * @param rule that would join these and all names that differ in the same way; absent if the two
   *     have no ending in common
   * @param ruleJoins how many of the suggestions the rule would settle
   */
  public record MergeSuggestion(
      String id,
      String of,
      String ofName,
      String ofSystem,
      String with,
      String withName,
      String withSystem,
      double score,
      List<String> evidence,
      @Nullable String rule,
      int ruleJoins) {}

  /** A term that a column has whose values another column holds unchanged. */
  public record TermSuggestion(
      String id, String of, String term, String termName, String from, List<String> evidence) {}

  /**
   * Tables filled by copying one.
   *
   * @param copies with how many of their columns are copied, and who reads them
   */
  public record CopiedAsset(String ref, String name, String system, List<LikelyCopy> copies) {}

  /** A likely copy. */
  public record LikelyCopy(
      String ref, String name, String system, int copied, int columns, List<String> readers) {}

  /**
   * What a rule would make of the names there are.
   *
   * @param joined names that become parts of an asset there is
   * @param dangling names whose new name nothing has
   */
  public record RuleTry(String rule, int fits, List<RuledName> joined, List<RuledName> dangling) {}

  /** A name and what a rule makes of it. */
  public record RuledName(String name, String becomes) {}

  private record Known<T>(long number, List<T> list) {}

  private final Catalog catalog;
  private final GraphFollower follower;
  private final Glossary glossary;
  private final Dismissals dismissals;
  private volatile Known<MergeCandidates.Proposal> proposals = new Known<>(-1, List.of());

  Suggestions(Catalog catalog, GraphFollower follower, Glossary glossary, Dismissals dismissals) {
    this.catalog = catalog;
    this.follower = follower;
    this.glossary = glossary;
    this.dismissals = dismissals;
  }

  /** The id under which something proposed is declined. */
  static String idOf(String kind, String... about) {
    return kind
        + "-"
        + CanonicalJson.digest(
                new String(
                    String.join("\n", about).getBytes(StandardCharsets.UTF_8),
                    StandardCharsets.UTF_8))
            .substring(0, 16);
  }

  // ------------------------------------------------------------------ names that are one

  /** Names that are probably one asset, the likeliest first. */
  public List<MergeSuggestion> merges() {
    List<MergeCandidates.Proposal> all = proposals();
    Map<String, Integer> rules = MergeCandidates.rules(all);
    Set<String> dismissed = dismissals.ids();
    var suggestions = new ArrayList<MergeSuggestion>();
    for (MergeCandidates.Proposal proposal : all) {
      String of = proposal.one().reference();
      String with = proposal.other().reference();
      String id = idOf("merge", new TreeSet<>(List.of(of, with)).toArray(String[]::new));
      Asset one = catalog.asset(of).orElse(null);
      Asset other = catalog.asset(with).orElse(null);
      if (one == null || other == null || one.ref().equals(other.ref()) || dismissed.contains(id)) {
        continue;
      }
      String rule = MergeCandidates.rule(proposal.one(), proposal.other());
      suggestions.add(
          new MergeSuggestion(
              id,
              of,
              one.shown(),
              one.system(),
              with,
              other.shown(),
              other.system(),
              proposal.score(),
              proposal.evidence(),
              rule.isEmpty() ? null : rule,
              rules.getOrDefault(rule, 0)));
    }
    return suggestions;
  }

  /** Computed once for each change of the graph. */
  private List<MergeCandidates.Proposal> proposals() {
    long number = follower.number();
    Known<MergeCandidates.Proposal> known = proposals;
    if (known.number() != number) {
      known = new Known<>(number, MergeCandidates.among(candidates(), feeds()));
      proposals = known;
    }
    return known.list();
  }

  private List<MergeCandidates.Candidate> candidates() {
    LineageGraph graph = follower.graph();
    var candidates = new ArrayList<MergeCandidates.Candidate>();
    for (Asset asset : catalog.all()) {
      if (canBeJoined(asset)) {
        candidates.add(candidate(graph, asset));
      }
    }
    return candidates;
  }

  /** Whether one asset feeds another: then they are two, however alike. */
  private BiPredicate<DatasetName, DatasetName> feeds() {
    LineageGraph graph = follower.graph();
    var reached = new HashMap<DatasetName, Set<Integer>>();
    return (one, other) -> {
      var target = graph.asset(other.reference());
      return target.isPresent()
          && reached
              .computeIfAbsent(one, name -> downstream(graph, name))
              .contains(target.getAsInt());
    };
  }

  private static Set<Integer> downstream(LineageGraph graph, DatasetName name) {
    var assets = new HashSet<Integer>();
    var ordinal = graph.asset(name.reference());
    if (ordinal.isPresent()) {
      int[] origins = Walk.originsOf(graph, graph.rowsOf(ordinal.getAsInt()));
      Reach reach = Walk.everything(graph, origins, Direction.DOWNSTREAM, MAX_HOPS, MAX_REACH);
      for (int i = 0; i < reach.size(); i++) {
        assets.add(graph.assetOf(reach.nodes()[i]));
      }
    }
    return assets;
  }

  private static boolean canBeJoined(Asset asset) {
    Kind kind = asset.kind();
    boolean data =
        kind == Kind.TABLE
            || kind == Kind.VIEW
            || kind == Kind.FILE
            || kind == Kind.TOPIC
            || kind == Kind.DATASET;
    return data && !asset.card().retired() && asset.card().formerly().isEmpty();
  }

  private static MergeCandidates.Candidate candidate(LineageGraph graph, Asset asset) {
    var columns = new TreeSet<String>();
    asset.card().columns().forEach(column -> columns.add(column.path()));
    var writers = new TreeSet<String>();
    boolean[] isRead = {false};
    var ordinal = graph.asset(asset.ref());
    if (ordinal.isPresent()) {
      var nodes = new ArrayList<Integer>(List.of(graph.rowsOf(ordinal.getAsInt())));
      graph.forEachColumn(ordinal.getAsInt(), nodes::add);
      for (int node : nodes) {
        if (asset.card().columns().isEmpty() && !graph.isRows(node)) {
          columns.add(graph.columnOf(node));
        }
        graph.forEachLink(
            node,
            Direction.UPSTREAM,
            (end, flow, masking, owner) -> writers.add(lastPart(graph.owner(owner))));
        graph.forEachLink(
            node, Direction.DOWNSTREAM, (end, flow, masking, owner) -> isRead[0] = true);
      }
    }
    return new MergeCandidates.Candidate(
        DatasetName.parse(asset.ref()), columns, isRead[0], writers);
  }

  private static String lastPart(String ref) {
    int cut = Math.max(ref.lastIndexOf('/'), ref.lastIndexOf('.'));
    return ref.substring(cut + 1);
  }

  /**
   * What a rule would do, before it is set.
   *
   * @throws ProblemException if it cannot be read
   */
  public RuleTry tryRule(String rule) {
    MergeRules one;
    try {
      one = MergeRules.of(List.of(rule));
    } catch (IllegalArgumentException e) {
      throw ProblemException.badRequest("bad-rule", String.valueOf(e.getMessage()));
    }
    var joined = new ArrayList<RuledName>();
    var dangling = new ArrayList<RuledName>();
    int fits = 0;
    for (Asset asset : catalog.all()) {
      for (String part : asset.parts()) {
        Optional<DatasetName> target =
            Reference.isJob(part) || catalog.card(part).isEmpty()
                ? Optional.empty()
                : one.target(DatasetName.parse(part));
        if (target.isPresent()) {
          fits++;
          String becomes = target.get().reference();
          boolean known = catalog.card(becomes).isPresent();
          (known ? joined : dangling).add(new RuledName(part, becomes));
        }
      }
    }
    Comparator<RuledName> order = Comparator.comparing(RuledName::name);
    joined.sort(order);
    dangling.sort(order);
    return new RuleTry(
        rule,
        fits,
        joined.subList(0, Math.min(MAX_NAMES, joined.size())),
        dangling.subList(0, Math.min(MAX_NAMES, dangling.size())));
  }

  // ------------------------------------------------------------------ copies

  /** Assets that are copied, those with the most copies first. */
  public List<CopiedAsset> copies() {
    LineageGraph graph = follower.graph();
    var all = new ArrayList<CopiedAsset>();
    for (LikelyCopies.Copied copied : LikelyCopies.in(graph)) {
      Asset source = catalog.asset(graph.assetReference(copied.source())).orElse(null);
      if (source == null || !canBeJoined(source)) {
        continue;
      }
      var copies = new ArrayList<LikelyCopy>();
      for (LikelyCopies.Copy copy : copied.copies()) {
        Asset asset = catalog.asset(graph.assetReference(copy.asset())).orElse(null);
        if (asset != null && canBeJoined(asset)) {
          copies.add(
              new LikelyCopy(
                  asset.ref(),
                  asset.shown(),
                  asset.system(),
                  copy.copied(),
                  copy.columns(),
                  readers(graph, copy.asset())));
        }
      }
      if (!copies.isEmpty()) {
        all.add(new CopiedAsset(source.ref(), source.shown(), source.system(), copies));
      }
    }
    return all;
  }

  private List<String> readers(LineageGraph graph, int asset) {
    var readers = new TreeSet<String>();
    var nodes = new ArrayList<Integer>(List.of(graph.rowsOf(asset)));
    graph.forEachColumn(asset, nodes::add);
    for (int node : nodes) {
      graph.forEachLink(
          node,
          Direction.DOWNSTREAM,
          (end, flow, masking, owner) -> {
            if (graph.assetOf(end) != asset) {
              readers.add(graph.assetReference(graph.assetOf(end)));
            }
          });
    }
    return List.copyOf(readers);
  }

  // ------------------------------------------------------------------ terms

  /** Terms for columns that hold the same values as one that has the term. */
  public List<TermSuggestion> terms() {
    LineageGraph graph = follower.graph();
    Set<String> dismissed = dismissals.ids();
    var suggestions = new LinkedHashMap<String, TermSuggestion>();
    Map<String, Set<String>> has = new HashMap<>();
    for (Asset asset : catalog.all()) {
      for (Card.Column column : asset.card().columns()) {
        if (!column.terms().isEmpty()) {
          has.put(asset.ref() + "#" + column.path(), Set.copyOf(column.terms()));
        }
      }
    }
    for (String of : new TreeSet<>(has.keySet())) {
      int hash = of.indexOf('#');
      var ordinal = graph.asset(of.substring(0, hash));
      var node =
          ordinal.isPresent()
              ? graph.node(ordinal.getAsInt(), of.substring(hash + 1))
              : java.util.OptionalInt.empty();
      if (node.isEmpty()) {
        continue;
      }
      for (int copy : LikelyCopies.ofColumn(graph, node.getAsInt(), MAX_TERM_COLUMNS)) {
        String column = graph.reference(copy);
        for (Glossary.Term term : glossary.named(List.copyOf(has.get(of)))) {
          String id = idOf("term", term.id(), column);
          boolean known = has.getOrDefault(column, Set.of()).contains(term.id());
          if (!known && !dismissed.contains(id) && isListed(column)) {
            suggestions.putIfAbsent(
                id,
                new TermSuggestion(
                    id,
                    column,
                    term.id(),
                    term.name(),
                    of,
                    List.of("Its values are those of " + of + ", copied unchanged.")));
          }
        }
      }
    }
    return List.copyOf(suggestions.values());
  }

  private boolean isListed(String column) {
    int hash = column.indexOf('#');
    String path = column.substring(hash + 1);
    return catalog
        .asset(column.substring(0, hash))
        .map(asset -> asset.card().columns().stream().anyMatch(c -> c.path().equals(path)))
        .orElse(false);
  }
}
