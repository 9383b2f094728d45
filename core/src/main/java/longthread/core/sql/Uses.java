package longthread.core.sql;

import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Supplier;
import longthread.core.lineage.Flow;

/** What a value is made of, one step back. */
final class Uses {
  /**
   * How a field's value arrives.
   *
   * @param masked whether it cannot be read back
   * @param possible whether the field is one of several that the name may mean
   */
  record How(Flow flow, boolean masked, boolean possible) {
    /** Readable, and from this field for certain. */
    static How of(Flow flow) {
      return new How(flow, false, false);
    }

    /** Of two ways for one field to arrive, the stronger one. */
    How or(How other) {
      return new How(
          stronger(flow, other.flow), masked && other.masked, possible && other.possible);
    }

    How then(How next) {
      return new How(stronger(flow, next.flow), masked || next.masked, possible || next.possible);
    }
  }

  static Flow stronger(Flow one, Flow other) {
    return one.compareTo(other) >= 0 ? one : other;
  }

  final Map<Field, How> direct = new LinkedHashMap<>();
  final Map<Field, Set<Flow>> decides = new LinkedHashMap<>();
  final Set<Field> uncertain = new LinkedHashSet<>(); // deciding fields that are only possible

  /** Subqueries whose rows decide the value. */
  final Set<Relation> rowsOf = new LinkedHashSet<>();

  /** Relations whose rows the value counts or ranks. */
  final Set<Relation> counted = new LinkedHashSet<>();

  final List<Constant> constants = new ArrayList<>();

  static Uses of(Field field, Flow flow) {
    var uses = new Uses();
    uses.direct.put(field, How.of(flow));
    return uses;
  }

  private long size() {
    return 1L + direct.size() + decides.size() + rowsOf.size() + counted.size() + constants.size();
  }

  boolean isConstant() {
    return direct.isEmpty()
        && decides.isEmpty()
        && rowsOf.isEmpty()
        && counted.isEmpty()
        && !constants.isEmpty();
  }

  void direct(Field field, How how) {
    direct.merge(field, how, How::or);
  }

  void decides(Field field, Flow flow, boolean possible) {
    boolean known = decides.containsKey(field);
    decides.computeIfAbsent(field, k -> EnumSet.noneOf(Flow.class)).add(flow);
    if (possible && !known) {
      uncertain.add(field);
    } else if (!possible) {
      uncertain.remove(field);
    }
  }

  /** Adds another value as an alternative to this one. */
  void add(Uses other) {
    Budget.step(other.size());
    other.direct.forEach(this::direct);
    addDeciding(other);
    counted.addAll(other.counted);
    constants.addAll(other.constants);
  }

  private void addDeciding(Uses other) {
    other.decides.forEach(
        (field, flows) ->
            flows.forEach(flow -> decides(field, flow, other.uncertain.contains(field))));
    rowsOf.addAll(other.rowsOf);
  }

  /** Adds a value that only decides, by {@code flow}, what this one is. */
  void addDeciding(Uses other, Flow flow) {
    Budget.step(other.size());
    other.direct.forEach((field, how) -> decides(field, flow, how.possible()));
    other.decides.forEach(
        (field, flows) ->
            flows.forEach(
                own ->
                    decides(
                        field,
                        own.group() == Flow.Group.DECIDES_ROWS ? own : flow,
                        other.uncertain.contains(field))));
    rowsOf.addAll(other.rowsOf);
    counted.addAll(other.counted);
  }

  /** This value as an argument of something that computes with it. */
  Uses computed(Flow flow, boolean masked, Span span, Supplier<String> text) {
    Budget.step(size());
    var result = new Uses();
    var step = new How(flow, masked, false);
    direct.forEach((field, how) -> result.direct(field, how.then(step)));
    result.addDeciding(this);
    result.counted.addAll(counted);
    if (direct.isEmpty() && !constants.isEmpty()) {
      result.constants.add(new Constant(text.get(), span));
    }
    return result;
  }

  Uses copy() {
    var copy = new Uses();
    copy.add(this);
    return copy;
  }
}
