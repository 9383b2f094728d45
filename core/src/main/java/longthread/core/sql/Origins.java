package longthread.core.sql;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.lineage.Flow;
import longthread.core.sql.SqlStatement.Output;
import longthread.core.sql.SqlStatement.Source;
import longthread.core.sql.SqlStatement.Step;
import longthread.core.sql.SqlStatement.StepColumn;
import longthread.core.sql.SqlStatement.StepSpan;
import longthread.core.sql.SqlStatement.StepUse;
import org.jspecify.annotations.Nullable;

/**
 * Follows fields back through the steps to the tables.
 *
 * <p>Along a path the strongest flow wins. What decides a step's value goes on deciding what is
 * made from it. Recursive expressions make circles; their fields are gone through again until
 * nothing is added. Each field and each relation is worked out once, in time linear in its uses
 * times the tables' columns behind them.
 */
final class Origins {
  private static final int MAX_ROUNDS = 64;

  /**
   * How many pairs of a column and one behind it a statement may have, steps included. A short text
   * can have the product of its columns: a sum of all, selected a thousand times.
   */
  static final int MAX_PAIRS = 500_000;

  /** Thrown when a statement has more pairs of columns than are worked out. */
  static final class TooManyPairsException extends RuntimeException {
    private static final long serialVersionUID = 1;
  }

  /** What a field comes down to. */
  private static final class Origin {
    private final Map<Field, Uses.How> direct = new LinkedHashMap<>();
    private final Map<Field, Set<Flow>> decides = new LinkedHashMap<>();
    private final Set<Field> uncertain = new HashSet<>();
    private final Set<String> counted = new TreeSet<>();
    private final Set<Constant> constants = new LinkedHashSet<>();
    private final Set<Field> behind = new LinkedHashSet<>();

    int size() {
      int flows = decides.values().stream().mapToInt(Set::size).sum();
      return direct.size() + flows + counted.size() + constants.size() + behind.size();
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

    /** All behind another value decides this one. */
    void decidedBy(Origin other, @Nullable Flow flow, boolean possible) {
      if (flow != null) {
        other.direct.forEach((f, how) -> decides(f, flow, possible || how.possible()));
      }
      other.decides.forEach(
          (f, flows) ->
              flows.forEach(
                  own ->
                      decides(
                          f,
                          flow == null || own.group() == Flow.Group.DECIDES_ROWS ? own : flow,
                          possible || other.uncertain.contains(f))));
      behind.addAll(other.behind);
    }
  }

  private final Map<Field, Origin> fields = new IdentityHashMap<>();
  private final Map<Relation, Origin> rows = new IdentityHashMap<>();
  private final Map<Relation, Set<String>> tables = new IdentityHashMap<>();
  private final Set<Object> busy = new HashSet<>();
  private final Set<Object> done = new HashSet<>();
  private boolean circle;
  private long pairs; // of what is done in this round

  /** Works out these fields and the rows of {@code relation} until nothing changes. */
  private void settle(Relation relation, List<Field> of) {
    int before = -1;
    for (int round = 0; round < MAX_ROUNDS; round++) {
      circle = false;
      pairs = 0;
      done.clear();
      of.forEach(this::origin);
      int size = rowsOf(relation).size();
      for (Field field : of) {
        size += origin(field).size();
      }
      if (!circle || size == before) {
        return;
      }
      before = size;
    }
  }

  private Origin origin(Field field) {
    Origin origin = fields.computeIfAbsent(field, k -> new Origin());
    if (done.contains(field)) {
      return origin;
    }
    if (!busy.add(field)) {
      circle = true;
      return origin;
    }
    Uses uses = field.uses();
    if (field.of().isTable()) {
      origin.direct.put(field, Uses.How.of(Flow.IDENTITY));
    } else {
      origin.behind.add(field);
      uses.direct.forEach((from, how) -> carry(origin, from, how));
      uses.decides.forEach(
          (from, flows) ->
              flows.forEach(
                  flow -> origin.decidedBy(origin(from), flow, uses.uncertain.contains(from))));
      uses.rowsOf.forEach(sub -> origin.decidedBy(rowsOf(sub), null, false));
      uses.counted.forEach(relation -> origin.counted.addAll(tablesOf(relation)));
      origin.constants.addAll(uses.constants);
    }
    busy.remove(field);
    done.add(field);
    count(origin);
    return origin;
  }

  private void carry(Origin origin, Field from, Uses.How how) {
    Origin source = origin(from);
    source.direct.forEach((base, own) -> origin.direct.merge(base, own.then(how), Uses.How::or));
    origin.decidedBy(source, null, how.possible());
    origin.counted.addAll(source.counted);
    if (how.flow() != Flow.AGGREGATION) {
      origin.constants.addAll(source.constants);
    } else if (source.direct.isEmpty()) {
      origin.counted.addAll(tablesOf(from.of())); // the same in all rows: it only counts them
    }
  }

  /** What decides which rows a relation has. */
  private Origin rowsOf(Relation relation) {
    Origin origin = rows.computeIfAbsent(relation, k -> new Origin());
    if (relation.isTable() || done.contains(relation)) {
      return origin;
    }
    if (!busy.add(relation)) {
      circle = true;
      return origin;
    }
    relation.rows.decides.forEach(
        (from, flows) ->
            flows.forEach(
                flow ->
                    origin.decidedBy(origin(from), flow, relation.rows.uncertain.contains(from))));
    relation.rows.rowsOf.forEach(sub -> origin.decidedBy(rowsOf(sub), null, false));
    relation.from.forEach(from -> origin.decidedBy(rowsOf(from), null, false));
    busy.remove(relation);
    done.add(relation);
    count(origin);
    return origin;
  }

  private void count(Origin origin) {
    pairs += origin.size();
    if (pairs > MAX_PAIRS) {
      throw new TooManyPairsException();
    }
  }

  /** The tables whose rows run on into a relation's. */
  private Set<String> tablesOf(Relation relation) {
    Set<String> known = tables.get(relation);
    if (known != null) {
      return known;
    }
    var found = new TreeSet<String>();
    tables.put(relation, found);
    var seen = new HashSet<Relation>();
    var next = new ArrayList<Relation>(List.of(relation));
    while (!next.isEmpty()) {
      Relation one = next.remove(next.size() - 1);
      if (seen.add(one)) {
        if (one.isTable()) {
          found.add(one.name());
        }
        next.addAll(one.from);
      }
    }
    return found;
  }

  // ------------------------------------------------------------------ result

  /** What {@link #of} answers with. */
  record Result(List<Output> outputs, List<Source> rows, List<String> reads, List<Step> steps) {}

  /**
   * Works out a relation.
   *
   * @param shown those of its fields that are asked for
   */
  static Result of(Relation relation, List<Field> shown) {
    var origins = new Origins();
    origins.settle(relation, shown);
    var outputs = new ArrayList<Output>();
    for (Field field : shown) {
      outputs.add(origins.output(relation, field));
    }
    Origin decided = origins.rowsOf(relation);
    return new Result(
        outputs,
        deciding(decided),
        List.copyOf(origins.reads(relation, shown)),
        origins.steps(relation, shown));
  }

  private Output output(Relation relation, Field field) {
    Origin origin = origin(field);
    var direct = new ArrayList<Source>();
    origin.direct.forEach(
        (base, how) ->
            direct.add(
                new Source(
                    base.of().name(), base.name(), how.flow(), how.masked(), how.possible())));
    direct.sort(ORDER);
    boolean counts = !origin.counted.isEmpty();
    Set<String> fromRows = origin.counted;
    if (!counts && origin.direct.isEmpty() && !origin.constants.isEmpty()) {
      fromRows = tablesOf(relation);
    }
    var spans = new LinkedHashSet<StepSpan>();
    for (Field step : origin.behind) {
      if (step.span() != null) {
        spans.add(new StepSpan(nameOf(step.of(), relation), step.name(), step.span()));
      }
    }
    return new Output(
        field.name(),
        direct,
        deciding(origin),
        List.copyOf(origin.constants),
        List.copyOf(fromRows),
        counts,
        List.copyOf(spans));
  }

  private static final Comparator<Source> ORDER =
      Comparator.comparing(Source::table).thenComparing(Source::column).thenComparing(Source::flow);

  private static List<Source> deciding(Origin origin) {
    var list = new ArrayList<Source>();
    origin.decides.forEach(
        (base, flows) ->
            flows.forEach(
                flow ->
                    list.add(
                        new Source(
                            base.of().name(),
                            base.name(),
                            flow,
                            false,
                            origin.uncertain.contains(base)))));
    list.sort(ORDER);
    return list;
  }

  private Set<String> reads(Relation relation, List<Field> shown) {
    var found = new TreeSet<String>();
    for (Relation one : reached(relation, shown)) {
      if (one.isTable()) {
        found.add(one.name());
      }
    }
    return found;
  }

  /**
   * All relations that take part in the result, nearest first. A column of a step that nobody reads
   * does not count, nor what only it would need.
   */
  private static Set<Relation> reached(Relation relation, List<Field> shown) {
    var relations = new LinkedHashSet<Relation>();
    var fields = new HashSet<Field>();
    var next = new ArrayDeque<Object>();
    next.add(relation);
    next.addAll(shown);
    while (!next.isEmpty()) {
      Object one = next.poll();
      if (one instanceof Relation step) {
        if (relations.add(step)) {
          next.addAll(step.from);
          follow(step.rows, next);
        }
      } else if (one instanceof Field field && fields.add(field)) {
        next.add(field.of());
        follow(field.uses(), next);
      }
    }
    return relations;
  }

  private static void follow(Uses uses, ArrayDeque<Object> next) {
    next.addAll(uses.direct.keySet());
    next.addAll(uses.decides.keySet());
    next.addAll(uses.rowsOf);
    next.addAll(uses.counted);
  }

  private static Set<Relation> usedBy(Uses uses) {
    var found = new LinkedHashSet<Relation>();
    uses.direct.keySet().forEach(field -> found.add(field.of()));
    uses.decides.keySet().forEach(field -> found.add(field.of()));
    found.addAll(uses.rowsOf);
    found.addAll(uses.counted);
    return found;
  }

  private static String nameOf(Relation step, Relation result) {
    return step == result ? "result" : step.name();
  }

  private List<Step> steps(Relation relation, List<Field> shown) {
    var ordered = new ArrayList<Relation>();
    for (Relation one : reached(relation, shown)) {
      if (!one.isTable()) {
        ordered.add(0, one);
      }
    }
    // As the text has them, so that both can be read side by side; the result comes last.
    ordered.sort(
        Comparator.comparing((Relation step) -> step == relation)
            .thenComparing(step -> step.span() == null ? 0 : step.span().start()));
    var names = new HashMap<Relation, String>();
    for (Relation step : ordered) {
      names.put(step, nameOf(step, relation));
    }
    var steps = new ArrayList<Step>();
    for (Relation step : ordered) {
      var columns = new ArrayList<StepColumn>();
      List<Field> own = step == relation ? shown : step.fields();
      for (Field field : own) {
        columns.add(column(field, names));
      }
      var from = new TreeSet<String>();
      step.from.forEach(f -> from.add(names.getOrDefault(f, f.name())));
      usedBy(step.rows).forEach(f -> from.add(names.getOrDefault(f, f.name())));
      own.forEach(
          field -> usedBy(field.uses()).forEach(f -> from.add(names.getOrDefault(f, f.name()))));
      steps.add(
          new Step(
              names.get(step),
              step == relation ? "result" : step.kind().word(),
              step.span(),
              columns,
              uses(step.rows.decides, names),
              List.copyOf(from)));
    }
    return steps;
  }

  private static StepColumn column(Field field, Map<Relation, String> names) {
    var direct = new ArrayList<StepUse>();
    boolean inPlace = false;
    for (var use : field.uses().direct.entrySet()) {
      Field from = use.getKey();
      Uses.How how = use.getValue();
      inPlace |= how.flow() != Flow.IDENTITY && from.name().equalsIgnoreCase(field.name());
      direct.add(
          new StepUse(
              names.getOrDefault(from.of(), from.of().name()),
              !from.of().isTable(),
              from.name(),
              how.flow(),
              how.masked()));
    }
    var indirect = new ArrayList<>(uses(field.uses().decides, names));
    for (Relation sub : field.uses().rowsOf) {
      indirect.addAll(uses(sub.rows.decides, names));
    }
    return new StepColumn(
        field.name(), field.span(), direct, indirect, List.copyOf(field.uses().constants), inPlace);
  }

  private static List<StepUse> uses(Map<Field, Set<Flow>> decides, Map<Relation, String> names) {
    var list = new ArrayList<StepUse>();
    decides.forEach(
        (field, flows) ->
            flows.forEach(
                flow ->
                    list.add(
                        new StepUse(
                            names.getOrDefault(field.of(), field.of().name()),
                            !field.of().isTable(),
                            field.name(),
                            flow,
                            false))));
    return list;
  }
}
