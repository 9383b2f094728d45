package longthread.core.graph;

import java.util.Arrays;
import java.util.Map;
import java.util.OptionalInt;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.IntConsumer;
import longthread.core.asset.ColumnName;

/**
 * The names behind the ordinals. It only grows: one writer appends, and readers ask only for
 * ordinals of a snapshot published after they were appended. Adding an asset of c columns takes
 * O(c²), since each column is sought among those before it.
 */
final class NodeTable {
  private static final int NO_NODE = -1;

  private volatile int[] assetOf = new int[16]; // by node
  private volatile String[] columnOf = new String[16]; // by node
  private volatile int[] nextOfAsset = new int[16]; // by node: another column of the same asset
  private volatile int[] rows = new int[16]; // by asset
  private volatile int[] firstColumn = new int[16]; // by asset, NO_NODE without columns
  private volatile int[] lastColumn = new int[16]; // by asset
  private volatile String[] references = new String[16]; // by asset
  private volatile String[] owners = new String[16];
  private final ConcurrentHashMap<String, Integer> assets = new ConcurrentHashMap<>();
  private final ConcurrentHashMap<String, Integer> ownerOrdinals = new ConcurrentHashMap<>();

  /** By asset, the paths that others begin with: structs of fields. Most assets have none. */
  private final Map<Integer, Set<String>> structs = new ConcurrentHashMap<>();

  private volatile int nodeCount;
  private volatile int assetCount;
  private volatile int ownerCount;

  NodeTable() {}

  /** One that begins with the names of another, which must not grow meanwhile. O(n). */
  NodeTable(NodeTable other) {
    assetOf = other.assetOf.clone();
    columnOf = other.columnOf.clone();
    nextOfAsset = other.nextOfAsset.clone();
    rows = other.rows.clone();
    firstColumn = other.firstColumn.clone();
    lastColumn = other.lastColumn.clone();
    references = other.references.clone();
    owners = other.owners.clone();
    assets.putAll(other.assets);
    ownerOrdinals.putAll(other.ownerOrdinals);
    other.structs.forEach(
        (asset, paths) -> {
          Set<String> own = ConcurrentHashMap.newKeySet();
          own.addAll(paths);
          structs.put(asset, own);
        });
    nodeCount = other.nodeCount;
    assetCount = other.assetCount;
    ownerCount = other.ownerCount;
  }

  int nodeCount() {
    return nodeCount;
  }

  int assetCount() {
    return assetCount;
  }

  int ownerCount() {
    return ownerCount;
  }

  OptionalInt asset(String reference) {
    Integer asset = assets.get(reference);
    return asset == null ? OptionalInt.empty() : OptionalInt.of(asset);
  }

  String assetReference(int asset) {
    return references[asset];
  }

  int assetOf(int node) {
    return assetOf[node];
  }

  String columnOf(int node) {
    return columnOf[node];
  }

  int rowsOf(int asset) {
    return rows[asset];
  }

  /** A column by its path. O(c) for the c columns of the asset: most have tens, some thousands. */
  OptionalInt column(int asset, String path) {
    for (int node = firstColumn[asset]; node != NO_NODE; node = nextOfAsset[node]) {
      if (columnOf[node].equals(path)) {
        return OptionalInt.of(node);
      }
    }
    return OptionalInt.empty();
  }

  void forEachColumn(int asset, int below, IntConsumer visit) {
    for (int node = firstColumn[asset]; node != NO_NODE; node = nextOfAsset[node]) {
      if (node < below) {
        visit.accept(node);
      }
    }
  }

  /**
   * Hands over the nodes of the structs that a column lies in, and of the fields that lie in it.
   * O(d·c) for a path of d segments and the c columns of its asset, where that has nested ones.
   */
  void forEachNested(int node, int below, IntConsumer visit) {
    if (structs.isEmpty()) {
      return;
    }
    int asset = assetOf[node];
    Set<String> known = structs.get(asset);
    if (known == null) {
      return;
    }
    String path = columnOf[node];
    for (int dot = path.lastIndexOf('.'); dot > 0; dot = path.lastIndexOf('.', dot - 1)) {
      OptionalInt outer = column(asset, path.substring(0, dot));
      if (outer.isPresent() && outer.getAsInt() < below) {
        visit.accept(outer.getAsInt());
      }
    }
    if (known.contains(path)) {
      String inside = path + ".";
      forEachColumn(
          asset,
          below,
          column -> {
            if (columnOf[column].startsWith(inside)) {
              visit.accept(column);
            }
          });
    }
  }

  String owner(int owner) {
    return owners[owner];
  }

  OptionalInt ownerOrdinal(String reference) {
    Integer owner = ownerOrdinals.get(reference);
    return owner == null ? OptionalInt.empty() : OptionalInt.of(owner);
  }

  /** The asset's ordinal; appends it, with its rows node, if it is new. */
  int internAsset(String reference) {
    Integer known = assets.get(reference);
    if (known != null) {
      return known;
    }
    int asset = assetCount;
    if (asset == references.length) {
      references = Arrays.copyOf(references, asset * 2);
      rows = Arrays.copyOf(rows, asset * 2);
      firstColumn = Arrays.copyOf(firstColumn, asset * 2);
      lastColumn = Arrays.copyOf(lastColumn, asset * 2);
    }
    references[asset] = reference;
    firstColumn[asset] = NO_NODE;
    lastColumn[asset] = NO_NODE;
    rows[asset] = appendNode(asset, ColumnName.ROWS);
    assetCount = asset + 1;
    assets.put(reference, asset);
    return asset;
  }

  /** The column's node; appends it if it is new. */
  int internColumn(int asset, String path) {
    if (path.equals(ColumnName.ROWS)) {
      return rows[asset];
    }
    OptionalInt known = column(asset, path);
    if (known.isPresent()) {
      return known.getAsInt();
    }
    return appendColumn(asset, path.intern());
  }

  private int appendColumn(int asset, String path) {
    int node = appendNode(asset, path);
    if (lastColumn[asset] == NO_NODE) {
      firstColumn[asset] = node;
    } else {
      nextOfAsset[lastColumn[asset]] = node;
    }
    lastColumn[asset] = node;
    for (int dot = path.indexOf('.'); dot > 0; dot = path.indexOf('.', dot + 1)) {
      structs
          .computeIfAbsent(asset, k -> ConcurrentHashMap.newKeySet())
          .add(path.substring(0, dot));
    }
    return node;
  }

  int internOwner(String reference) {
    Integer known = ownerOrdinals.get(reference);
    if (known != null) {
      return known;
    }
    int owner = ownerCount;
    if (owner == Adjacency.MAX_OWNERS) {
      throw new IllegalStateException(
          "more than " + owner + " jobs state links; the graph is full");
    }
    if (owner == owners.length) {
      owners = Arrays.copyOf(owners, owner * 2);
    }
    owners[owner] = reference;
    ownerCount = owner + 1;
    ownerOrdinals.put(reference, owner);
    return owner;
  }

  /**
   * Appends a node as another table had it, which is known to be new: an asset's first is its rows.
   */
  void restore(String reference, int asset, String path) {
    if (asset == assetCount) {
      internAsset(reference);
    } else {
      appendColumn(asset, path);
    }
  }

  private int appendNode(int asset, String path) {
    int node = nodeCount;
    if (node == assetOf.length) {
      assetOf = Arrays.copyOf(assetOf, node * 2);
      columnOf = Arrays.copyOf(columnOf, node * 2);
      nextOfAsset = Arrays.copyOf(nextOfAsset, node * 2);
    }
    assetOf[node] = asset;
    columnOf[node] = path;
    nextOfAsset[node] = NO_NODE;
    nodeCount = node + 1;
    return node;
  }
}
