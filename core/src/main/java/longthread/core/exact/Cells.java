package longthread.core.exact;

import java.util.ArrayList;
import java.util.BitSet;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.exact.Part.Box;
import longthread.core.exact.Part.Range;
import org.jspecify.annotations.Nullable;

/**
 * The finest pieces into which some parts cut a dataset: each part is a set of whole pieces.
 *
 * <p>The values that the parts name cut each field into regions: below the first value, the value
 * itself, between it and the next, and so on. A piece is one region of each field.
 */
final class Cells {
  /** More pieces than this are not distinguished. */
  static final int MAX_CELLS = 200_000;

  private final List<String> fields = new ArrayList<>();
  private final List<List<String>> values = new ArrayList<>();
  private final int[] strides;
  private final int count;

  private Cells(Map<String, TreeSet<String>> valuesOf) {
    valuesOf.forEach(
        (field, all) -> {
          fields.add(field);
          values.add(List.copyOf(all));
        });
    strides = new int[fields.size()];
    long product = 1;
    for (int i = 0; i < strides.length; i++) {
      strides[i] = (int) product;
      product *= 2L * values.get(i).size() + 1;
      if (product > MAX_CELLS) {
        product = -1;
        break;
      }
    }
    count = (int) product;
  }

  /** The pieces that some parts make; null if they are too many. */
  static @Nullable Cells of(Collection<Part> parts) {
    var valuesOf = new TreeMap<String, TreeSet<String>>();
    for (Part part : parts) {
      for (Box box : part.boxesOrWhole()) {
        box.fields()
            .forEach(
                (field, range) -> {
                  TreeSet<String> all =
                      valuesOf.computeIfAbsent(field, k -> new TreeSet<>(Part.VALUES));
                  if (range.from() != null) {
                    all.add(range.from());
                  }
                  if (range.until() != null) {
                    all.add(range.until());
                  }
                });
      }
    }
    var cells = new Cells(valuesOf);
    return cells.count < 0 ? null : cells;
  }

  int count() {
    return count;
  }

  /** The pieces of a part, in time linear in their number. */
  BitSet of(Part part) {
    var set = new BitSet(count);
    for (Box box : part.boxesOrWhole()) {
      add(box, fields.size() - 1, 0, set);
    }
    return set;
  }

  private void add(Box box, int field, int base, BitSet set) {
    if (field < 0) {
      set.set(base);
      return;
    }
    List<String> named = values.get(field);
    Range range = box.fields().get(fields.get(field));
    int first = range == null || range.from() == null ? 0 : region(named, range.from());
    int last =
        range == null || range.until() == null ? 2 * named.size() : region(named, range.until());
    first += range != null && range.from() != null && !range.fromIncluded() ? 1 : 0;
    last -= range != null && range.until() != null && !range.untilIncluded() ? 1 : 0;
    if (field == 0) {
      set.set(base + first, base + last + 1);
      return;
    }
    for (int at = first; at <= last; at++) {
      add(box, field - 1, base + at * strides[field], set);
    }
  }

  /** The region of a value itself; regions with an even number lie between values. */
  private static int region(List<String> named, String value) {
    return 2 * java.util.Collections.binarySearch(named, value, Part.VALUES) + 1;
  }
}
