package longthread.service.live;

import java.io.DataOutput;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import longthread.core.asset.Card;
import longthread.core.graph.GraphImage;
import longthread.core.impact.ImpactAnalysis;
import longthread.service.storage.graph.LinkQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * Of which output columns each job or dataset reports the sources: what makes lineage complete
 * enough to be certain of. One thread changes it, any number read it.
 */
@Component
public class ColumnMaps implements ImpactAnalysis.Knowledge {
  /** By the asset's reference, the columns that an owner reports the sources of. */
  private static final class ColumnMap {
    private final Map<String, Set<String>> described;
    private final boolean gap;
    private volatile @Nullable Answer newest; // most owners write one asset
    private volatile @Nullable Map<String, Answer> others;

    ColumnMap(Map<String, Set<String>> described, boolean gap) {
      this.described = Map.copyOf(described); // takes less room
      this.gap = gap;
    }

    Map<String, Set<String>> described() {
      return described;
    }

    boolean gap() {
      return gap;
    }

    @Nullable Answer answer(String target) {
      Answer one = newest;
      if (one != null && one.target().equals(target)) {
        return one;
      }
      Map<String, Answer> more = others;
      return more == null ? null : more.get(target);
    }

    void note(Answer answer) {
      Answer one = newest;
      newest = answer;
      if (one != null && !one.target().equals(answer.target())) {
        Map<String, Answer> more = others;
        if (more == null) {
          more = new ConcurrentHashMap<>(2);
          others = more;
        }
        more.put(one.target(), one);
      }
    }
  }

  /** What is missing in a map into an asset, as that is now; null if nothing is. */
  private record Answer(String target, @Nullable Asset asset, @Nullable String missing) {}

  private final LinkQueries links;
  private final Catalog catalog;
  private final Map<String, ColumnMap> maps = new ConcurrentHashMap<>();

  ColumnMaps(LinkQueries links, Catalog catalog) {
    this.links = links;
    this.catalog = catalog;
  }

  /** Reads all maps anew. */
  void reload() {
    Map<String, ColumnMap> read = read(links.described());
    maps.keySet().retainAll(read.keySet());
    maps.putAll(read);
  }

  /** Writes all maps; each text stands there once. */
  void write(DataOutput out) throws IOException {
    var texts = new LinkedHashMap<String, Integer>();
    var numbers = new ArrayList<Integer>();
    maps.forEach(
        (owner, map) -> {
          numbers.add(numberOf(owner, texts));
          numbers.add(map.gap() ? 1 : 0);
          numbers.add(map.described().size());
          map.described()
              .forEach(
                  (lead, columns) -> {
                    numbers.add(numberOf(lead, texts));
                    numbers.add(columns.size());
                    columns.forEach(column -> numbers.add(numberOf(column, texts)));
                  });
        });
    GraphImage.writeTexts(texts.keySet().toArray(String[]::new), out);
    GraphImage.writeInts(numbers.stream().mapToInt(Integer::intValue).toArray(), out);
  }

  private static int numberOf(String text, Map<String, Integer> texts) {
    return texts.computeIfAbsent(text, k -> texts.size());
  }

  /** Puts what {@link #write} wrote in the place of all maps. */
  void read(ByteBuffer in) {
    String[] texts = GraphImage.readTexts(in);
    for (int i = 0; i < texts.length; i++) {
      texts[i] = texts[i].intern();
    }
    int[] numbers = GraphImage.readInts(in);
    maps.clear();
    for (int at = 0; at < numbers.length; ) {
      String owner = texts[numbers[at]];
      boolean gap = numbers[at + 1] == 1;
      int leads = numbers[at + 2];
      at += 3;
      var described = new HashMap<String, Set<String>>();
      for (int i = 0; i < leads; i++) {
        String lead = texts[numbers[at]];
        String[] columns = new String[numbers[at + 1]];
        at += 2;
        for (int c = 0; c < columns.length; c++) {
          columns[c] = texts[numbers[at++]];
        }
        described.put(lead, Set.of(columns));
      }
      maps.put(owner, new ColumnMap(described, gap));
    }
  }

  /** Reads the maps of these owners anew. */
  void reload(String[] owners) {
    Map<String, ColumnMap> read = read(links.describedBy(owners));
    for (String owner : owners) {
      if (!read.containsKey(owner)) {
        maps.remove(owner);
      }
    }
    maps.putAll(read);
  }

  /** All maps as text, for comparing. */
  Map<String, String> texts() {
    var texts = new TreeMap<String, String>();
    maps.forEach(
        (owner, map) ->
            texts.put(
                owner,
                map.gap()
                    + " "
                    + new TreeMap<>(map.described())
                        .entrySet().stream()
                            .map(entry -> entry.getKey() + new TreeSet<>(entry.getValue()))
                            .toList()));
    return texts;
  }

  /** A struct is described by itself or by all its fields, and a field by its struct too. */
  private static boolean isDescribed(String path, List<String> paths, Set<String> described) {
    if (described.contains(path)) {
      return true;
    }
    for (int dot = path.lastIndexOf('.'); dot > 0; dot = path.lastIndexOf('.', dot - 1)) {
      if (described.contains(path.substring(0, dot))) {
        return true;
      }
    }
    String inside = path + ".";
    List<String> fields = paths.stream().filter(other -> other.startsWith(inside)).toList();
    return !fields.isEmpty()
        && fields.stream()
            .filter(field -> field.indexOf('.', inside.length()) < 0)
            .allMatch(field -> isDescribed(field, paths, described));
  }

  private Map<String, ColumnMap> read(List<LinkQueries.Described> rows) {
    var read = new HashMap<String, ColumnMap>();
    for (LinkQueries.Described row : rows) {
      var described = new HashMap<String, Set<String>>();
      for (String column : row.columns()) {
        int hash = column.indexOf('#');
        String lead = catalog.leadOf(column.substring(0, hash));
        described
            .computeIfAbsent(lead, k -> new HashSet<>())
            .add(catalog.columnOf(lead, column.substring(hash + 1)).intern());
      }
      described.replaceAll((lead, columns) -> Set.copyOf(columns)); // takes less room
      read.put(row.owner(), new ColumnMap(described, row.gap()));
    }
    return read;
  }

  /**
   * What is missing before an owner's column map into an asset can be called complete, in words;
   * null if it is complete.
   */
  @Override
  public @Nullable String missing(String owner, String target) {
    ColumnMap map = maps.get(owner);
    Asset asset = catalog.known(target).orElse(null);
    // Maps and assets are replaced as wholes, so an answer holds while both are the same objects.
    Answer known = map == null ? null : map.answer(target);
    if (known == null || known.asset() != asset) {
      known = new Answer(target, asset, gap(owner, target, map, asset));
      if (map != null) {
        map.note(known);
      }
    }
    return known.missing();
  }

  @Override
  public boolean isLive(String ref) {
    return catalog.known(ref).map(asset -> asset.kind().isLive()).orElse(false);
  }

  private static @Nullable String gap(
      String owner, String target, @Nullable ColumnMap map, @Nullable Asset asset) {
    Set<String> described = map == null ? Set.of() : map.described().getOrDefault(target, Set.of());
    if (map == null || described.isEmpty()) {
      return owner + " reports nothing about the columns of " + target;
    }
    if (map.gap()) {
      return "the emitter of " + owner + " could not read parts of it";
    }
    Collection<Card.Column> columns = asset == null ? List.of() : asset.card().columns();
    List<String> paths = columns.stream().map(Card.Column::path).toList();
    List<String> lacking =
        paths.stream().filter(path -> !isDescribed(path, paths, described)).toList();
    return lacking.isEmpty()
        ? null
        : owner
            + " does not report the sources of "
            + lacking.size()
            + " of "
            + columns.size()
            + " columns of "
            + target
            + ", such as "
            + lacking.get(0);
  }
}
