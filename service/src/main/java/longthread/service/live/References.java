package longthread.service.live;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import longthread.core.asset.ShortNames;
import longthread.core.graph.LineageGraph;
import longthread.service.storage.catalog.CardSearch;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/** Turns what a person typed into the one thing it means. */
@Component
public class References {
  private static final int MAX_CANDIDATES = 20;
  private static final int NEAREST = 3;

  private final Catalog catalog;
  private final GraphFollower follower;
  private final CardSearch cards;

  References(Catalog catalog, GraphFollower follower, CardSearch cards) {
    this.catalog = catalog;
    this.follower = follower;
    this.cards = cards;
  }

  /**
   * What a reference means.
   *
   * @param column the path of a column, {@code *} for the rows; null for the whole asset
   */
  public record Named(Asset asset, @Nullable String column) {
    public String ref() {
      return column == null ? asset.ref() : asset.ref() + "#" + column;
    }

    /** Its node in a graph; the rows node where it has none of its own. */
    public int node(LineageGraph graph) {
      int ordinal = graph.asset(asset.ref()).orElse(-1);
      return ordinal < 0 ? -1 : graph.node(ordinal, column).orElse(graph.rowsOf(ordinal));
    }
  }

  /**
   * Returns what the text names.
   *
   * @throws ProblemException 404 with the nearest names if nothing, 409 with the candidates if
   *     several things
   */
  public Named resolve(String text) {
    String given = catalog.candidates(beforeHash(text)).isEmpty() ? text.strip() : text;
    int hash = given.indexOf('#');
    String name = hash < 0 ? given : given.substring(0, hash);
    String column = hash < 0 ? null : given.substring(hash + 1);
    if (name.isEmpty()) {
      throw ProblemException.badRequest(
          "bad-reference",
          "the reference is empty; write a name or its ending, such as core.pickup");
    }
    Set<String> candidates = catalog.candidates(name);
    if (candidates.isEmpty() && catalog.known(name).isPresent() && catalog.isSeen(name)) {
      candidates = Set.of(name); // only links know it, so it is named in full
    }
    if (candidates.isEmpty() && Sight.isAlias(name)) {
      throw restricted(name);
    }
    if (candidates.isEmpty()) {
      throw unknown(name);
    }
    if (column != null && candidates.size() > 1) {
      // A column may show which of several assets is meant.
      var having = new ArrayList<String>();
      for (String ref : candidates) {
        if (columnOf(catalog.asset(ref).orElseThrow(), column) != null) {
          having.add(ref);
        }
      }
      candidates = having.isEmpty() ? candidates : Set.copyOf(having);
    }
    if (candidates.size() > 1) {
      throw ambiguous(name, candidates);
    }
    Asset asset = catalog.asset(candidates.iterator().next()).orElseThrow();
    if (column == null || column.equals("*")) {
      return new Named(asset, column);
    }
    String path = columnOf(asset, column);
    if (path == null) {
      throw unknownColumn(asset, column);
    }
    return new Named(asset, path);
  }

  /** The text without a column; as typed, since names may end in spaces. */
  private static String beforeHash(String text) {
    int hash = text.indexOf('#');
    return hash < 0 ? text : text.substring(0, hash);
  }

  private @Nullable String columnOf(Asset asset, String column) {
    return ShortNames.column(columns(asset), column);
  }

  /** All columns of an asset: those its schema lists, and those only links know. */
  public List<String> columns(Asset asset) {
    var paths = new ArrayList<String>();
    asset.card().columns().forEach(c -> paths.add(c.path()));
    LineageGraph graph = follower.graph();
    graph
        .asset(asset.ref())
        .ifPresent(
            ordinal ->
                graph.forEachColumn(
                    ordinal,
                    node -> {
                      // A column without links that no schema lists any more is gone.
                      boolean linked = graph.isLinked(node);
                      if (linked && !paths.contains(graph.columnOf(node))) {
                        paths.add(graph.columnOf(node));
                      }
                    }));
    return paths;
  }

  /** The names most like one that the catalog does not have, nearest first; empty if it is away. */
  public List<String> nearest(String name) {
    try {
      return cards.nearest(name.replace("\0", "").toLowerCase(Locale.ROOT), NEAREST).stream()
          .filter(catalog::isSeen)
          .toList();
    } catch (DataAccessException | TransactionException e) {
      return List.of(); // an answer stands without the database, only without a hint
    }
  }

  private static ProblemException restricted(String name) {
    return new ProblemException(
        HttpStatus.NOT_FOUND,
        "restricted-reference",
        "This is restricted",
        "'"
            + name
            + "' stands for something that your grants do not cover; an administrator can grant its"
            + " system, workspace or label");
  }

  private ProblemException unknown(String name) {
    List<String> nearest = nearest(name);
    String hint =
        nearest.isEmpty()
            ? follower.graph().nodeCount() == 0
                ? "the catalog is still empty; send events first"
                : "no name is much like it; search for a part of it"
            : "the closest is " + nearest.get(0);
    return new ProblemException(
            HttpStatus.NOT_FOUND,
            "unknown-reference",
            "Nothing has this name",
            "'" + name + "' is not in the catalog; " + hint)
        .with("nearest", nearest);
  }

  private static ProblemException ambiguous(String name, Set<String> candidates) {
    List<String> shown = candidates.stream().sorted().limit(MAX_CANDIDATES).toList();
    return new ProblemException(
            HttpStatus.CONFLICT,
            "ambiguous-reference",
            "Several things have this name",
            "'"
                + name
                + "' may be any of "
                + candidates.size()
                + "; write more of its beginning: "
                + String.join(", ", shown))
        .with("candidates", shown);
  }

  private ProblemException unknownColumn(Asset asset, String column) {
    List<String> paths = columns(asset);
    String hint =
        paths.isEmpty()
            ? "no columns of it are known"
            : "its columns are " + String.join(", ", paths.subList(0, Math.min(12, paths.size())));
    return new ProblemException(
            HttpStatus.NOT_FOUND,
            "unknown-column",
            "The asset has no such column",
            asset.ref() + " has no column '" + column + "'; " + hint)
        .with("nearest", paths.stream().limit(12).map(p -> asset.ref() + "#" + p).toList());
  }
}
