package longthread.core.exact;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Which part of a dataset a run read or wrote: a union of boxes, each of which bounds the values of
 * some fields.
 *
 * @param boxes none is the whole; a box without fields is the whole too
 * @param exact false if the run touched something inside the boxes that is not known any closer
 */
public record Part(List<Box> boxes, boolean exact) {
  /** All of it. */
  public static final Part WHOLE = new Part(List.of(), true);

  /** Something of it; which part was not reported. */
  public static final Part SOMETHING = new Part(List.of(), false);

  /** Values of fields that all hold together. */
  public record Box(SortedMap<String, Range> fields) {
    /** The box that is the whole. */
    static final Box WHOLE = new Box(new TreeMap<>());

    static Box of(String field, Range range) {
      return new Box(new TreeMap<>(Map.of(field, range)));
    }

    String words() {
      var words = new ArrayList<String>();
      fields.forEach((field, range) -> words.add(range.words(field)));
      return String.join(" and ", words);
    }

    /** What is in both; null if that is nothing. */
    @Nullable Box and(Box other) {
      var both = new TreeMap<>(fields);
      for (Map.Entry<String, Range> entry : other.fields.entrySet()) {
        Range before = both.get(entry.getKey());
        Range narrower = before == null ? entry.getValue() : before.and(entry.getValue());
        if (narrower == null) {
          return null;
        }
        both.put(entry.getKey(), narrower);
      }
      return new Box(both);
    }
  }

  /**
   * An interval of values.
   *
   * @param from null without a lower bound
   * @param until null without an upper bound
   */
  public record Range(
      @Nullable String from, boolean fromIncluded, @Nullable String until, boolean untilIncluded) {
    static Range only(String value) {
      return new Range(value, true, value, true);
    }

    String words(String field) {
      String name =
          field.equals(PartReader.LOCATION)
              ? "address"
              : field.equals(PartReader.PARTITION) ? "partition" : field;
      if (from != null && from.equals(until)) {
        return name + " = " + from;
      }
      var words = new ArrayList<String>();
      if (from != null) {
        words.add(name + (fromIncluded ? " >= " : " > ") + from);
      }
      if (until != null) {
        words.add(name + (untilIncluded ? " <= " : " < ") + until);
      }
      return String.join(" and ", words);
    }

    @Nullable Range and(Range other) {
      boolean later =
          from == null
              || (other.from != null
                  && (VALUES.compare(other.from, from) > 0
                      || (other.from.equals(from) && !other.fromIncluded)));
      boolean earlier =
          until == null
              || (other.until != null
                  && (VALUES.compare(other.until, until) < 0
                      || (other.until.equals(until) && !other.untilIncluded)));
      Range low = later ? other : this;
      Range high = earlier ? other : this;
      if (low.from != null && high.until != null) {
        int order = VALUES.compare(low.from, high.until);
        if (order > 0 || (order == 0 && !(low.fromIncluded && high.untilIncluded))) {
          return null;
        }
      }
      return new Range(low.from, low.fromIncluded, high.until, high.untilIncluded);
    }
  }

  /** Numbers by size and before texts; texts, such as dates, by their characters. */
  static final Comparator<String> VALUES =
      (one, other) -> {
        BigDecimal a = number(one);
        BigDecimal b = number(other);
        if (a != null && b != null) {
          int bySize = a.compareTo(b);
          return bySize != 0 ? bySize : one.compareTo(other);
        }
        return a != null ? -1 : b != null ? 1 : one.compareTo(other);
      };

  private static final int LONGEST_NUMBER = 40;

  private static @Nullable BigDecimal number(String text) {
    boolean may =
        !text.isEmpty()
            && text.length() <= LONGEST_NUMBER
            && text.chars().allMatch(c -> (c >= '0' && c <= '9') || c == '.' || c == '-');
    if (!may) {
      return null;
    }
    try {
      return new BigDecimal(text);
    } catch (NumberFormatException e) {
      return null; // such as a date
    }
  }

  public Part {
    boxes = List.copyOf(boxes);
  }

  /** The part in which a field has one value. */
  public static Part where(String field, String value) {
    return new Part(List.of(Box.of(field, Range.only(value))), true);
  }

  /**
   * The part that the name of a partition or dated file stands for, such as {@code day=2031-05-01}.
   */
  public static Part ofPartition(String name) {
    var fields = new TreeMap<String, Range>();
    for (String level : name.split("/")) {
      int equals = level.indexOf('=');
      if (equals <= 0) {
        return where(PartReader.PARTITION, name);
      }
      fields.put(
          level.substring(0, equals).toLowerCase(java.util.Locale.ROOT),
          Range.only(level.substring(equals + 1)));
    }
    return new Part(List.of(new Box(fields)), true);
  }

  /** The part in which a field has a value of a range. */
  static Part where(String field, Range range) {
    return new Part(List.of(Box.of(field, range)), true);
  }

  private static final int MAX_NAMED = 6;
  private static final int MAX_SHORT = 3;

  /** The part in words, such as {@code day = 2031-05-01}; empty for all of it. */
  public String words() {
    if (isWhole()) {
      return exact ? "" : "a part that was not reported";
    }
    String all = valuesOfOneField();
    if (all == null) {
      all = boxes.stream().limit(MAX_NAMED).map(Box::words).collect(Collectors.joining(", or "));
      if (boxes.size() > MAX_NAMED) {
        all += ", and " + (boxes.size() - MAX_NAMED) + " more parts";
      }
    }
    return exact ? all : "something of " + all;
  }

  /** Several values of one field in short; null if the part is of another form. */
  private @Nullable String valuesOfOneField() {
    String field = boxes.get(0).fields().size() == 1 ? boxes.get(0).fields().firstKey() : null;
    var values = new TreeSet<String>(VALUES);
    for (Box box : boxes) {
      Range range = box.fields().size() == 1 ? box.fields().get(field) : null;
      if (field == null || range == null || range.from() == null) {
        return null;
      }
      if (!range.from().equals(range.until())) {
        return null;
      }
      values.add(range.from());
    }
    if (values.size() < 2) {
      return null;
    }
    String name = Range.only("").words(field).replace(" = ", "");
    return values.size() <= MAX_SHORT
        ? name + " = " + String.join(", ", values)
        : name + " = " + values.first() + " … " + values.last() + " (" + values.size() + " values)";
  }

  public boolean isWhole() {
    return boxes.isEmpty() || boxes.stream().anyMatch(box -> box.fields().isEmpty());
  }

  List<Box> boxesOrWhole() {
    return boxes.isEmpty() ? List.of(Box.WHOLE) : boxes;
  }

  /** What is in both parts; empty if that is nothing. */
  public List<Box> overlap(Part other) {
    var both = new ArrayList<Box>();
    for (Box one : boxesOrWhole()) {
      for (Box two : other.boxesOrWhole()) {
        Box box = one.and(two);
        if (box != null) {
          both.add(box);
        }
      }
    }
    return both;
  }

  /** What is in both parts, as a part; null if that is nothing. */
  public @Nullable Part and(Part other) {
    List<Box> both = overlap(other);
    return both.isEmpty() ? null : new Part(both, exact && other.exact);
  }

  /** What is in either part. */
  public Part or(Part other) {
    if (isWhole() && exact) {
      return this;
    }
    if (other.isWhole() && other.exact) {
      return other;
    }
    var either = new ArrayList<>(boxesOrWhole());
    for (Box box : other.boxesOrWhole()) {
      if (!either.contains(box)) {
        either.add(box);
      }
    }
    return new Part(either, exact && other.exact);
  }
}
