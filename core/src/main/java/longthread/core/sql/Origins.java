package longthread.core.sql;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
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
 * made from it. Each shown field is followed by a walk of its own that carries how a value found
 * there would arrive: so nothing is stored at the steps between, and a chain of n steps costs n for
 * each column. Circles, as recursive expressions make them, end where a field is met again in the
 * same way.
 *
 * <p>Takes time linear in the uses within reach of each shown field.
 */
final class Origins {
  /** What a field, or the rows of a relation, come down to. */
  private static final class Origin {
    private final Map<Field, Uses.How> direct = new LinkedHashMap<>();
    private final Map<Field, Set<Flow>> decides = new LinkedHashMap<>();
    private final Set<Field> uncertain = new HashSet<>();
    private final Set<String> counted = new TreeSet<>();
    private final Set<Constant> constants = new LinkedHashSet<>();
    private final Set<Field> behind = new LinkedHashSet<>();

    void decides(Field field, Flow flow, boolean possible) {
      boolean known = decides.containsKey(field);
      decides.computeIfAbsent(field, k -> EnumSet.noneOf(Flow.class)).add(flow);
      if (possible && !known) {
        uncertain.add(field);
      } else if (!possible) {
        uncertain.remove(field);
      }
    }
  }

  /**
   * A place that a walk has come to, and how what lies behind it arrives where the walk began.
   *
   * @param at a {@link Field}, or a {@link Relation} for its rows
   * @param how of a value that is still a value there; null if it only decides
   * @param flow by which it decides; null for each decider's own
   * @param possible whether a decider is only possible
   * @param constant whether a constant there is one of the values
   */
  private record Visit(
      Object at, Uses.@Nullable How how, @Nullable Flow flow, boolean possible, boolean constant) {
    static Visit value(Field field, Uses.How how, boolean constant) {
      return new Visit(field, how, null, how.possible(), constant);
    }

    Visit decider(Field from, Flow by, boolean uncertain) {
      boolean own = flow == null || by.group() == Flow.Group.DECIDES_ROWS;
      return new Visit(from, null, own ? by : flow, possible || uncertain, false);
    }

    Visit rows(Relation of) {
      return new Visit(of, null, flow, possible, false);
    }
  }

  private final Map<Relation, Set<String>> tables = new IdentityHashMap<>();
  private final Map<Field, Boolean> based = new IdentityHashMap<>();

  private Origin origin(Field field) {
    return walk(Visit.value(field, Uses.How.of(Flow.IDENTITY), true));
  }

  /** What decides which rows a relation has. */
  private Origin rowsOf(Relation relation) {
    return walk(new Visit(relation, null, null, false, false));
  }

  private Origin walk(Visit first) {
    var origin = new Origin();
    var seen = new HashSet<Visit>();
    var next = new ArrayDeque<Visit>();
    var found = new ArrayList<Visit>(); // from one place, in the order of the text
    next.push(first);
    while (!next.isEmpty()) {
      Visit visit = next.pop();
      Budget.step(1);
      if (!seen.add(visit)) {
        continue;
      }
      found.clear();
      if (visit.at() instanceof Relation relation) {
        behindRows(visit, relation, found);
      } else {
        behindField(visit, (Field) visit.at(), origin, found);
      }
      for (int i = found.size() - 1; i >= 0; i--) {
        next.push(found.get(i));
      }
    }
    int flows = origin.decides.values().stream().mapToInt(Set::size).sum();
    Budget.keep(
        origin.direct.size()
            + flows
            + origin.counted.size()
            + origin.constants.size()
            + origin.behind.size());
    return origin;
  }

  private void behindField(Visit visit, Field field, Origin origin, List<Visit> found) {
    Uses.How arrives = visit.how();
    if (field.of().isTable()) {
      if (arrives != null) {
        origin.direct.merge(field, arrives, Uses.How::or);
      } else {
        origin.decides(field, Objects.requireNonNull(visit.flow()), visit.possible());
      }
      return;
    }
    origin.behind.add(field);
    Uses uses = field.uses();
    Budget.step(uses.direct.size() + uses.decides.size());
    for (Map.Entry<Field, Uses.How> use : uses.direct.entrySet()) {
      Uses.How how = use.getValue();
      boolean aggregates = how.flow() == Flow.AGGREGATION;
      if (arrives == null) {
        boolean possible = visit.possible() || how.possible();
        found.add(new Visit(use.getKey(), null, visit.flow(), possible, false));
      } else {
        boolean constant = visit.constant() && !aggregates;
        found.add(Visit.value(use.getKey(), how.then(arrives), constant));
        if (aggregates && !isBased(use.getKey())) {
          // The same in all rows: it only counts them.
          origin.counted.addAll(tablesOf(use.getKey().of()));
        }
      }
    }
    uses.decides.forEach(
        (from, flows) ->
            flows.forEach(
                flow -> found.add(visit.decider(from, flow, uses.uncertain.contains(from)))));
    uses.rowsOf.forEach(sub -> found.add(visit.rows(sub)));
    if (arrives != null) {
      uses.counted.forEach(relation -> origin.counted.addAll(tablesOf(relation)));
      if (visit.constant()) {
        origin.constants.addAll(uses.constants);
      }
    }
  }

  private static void behindRows(Visit visit, Relation relation, List<Visit> found) {
    if (relation.isTable()) {
      return;
    }
    Uses rows = relation.rows;
    Budget.step(rows.decides.size() + relation.from.size());
    rows.decides.forEach(
        (from, flows) ->
            flows.forEach(
                flow -> found.add(visit.decider(from, flow, rows.uncertain.contains(from)))));
    rows.rowsOf.forEach(sub -> found.add(visit.rows(sub)));
    relation.from.forEach(from -> found.add(visit.rows(from)));
  }

  /** Whether some column of a table arrives in a field by value. */
  private boolean isBased(Field field) {
    var parents = new IdentityHashMap<Field, Field>();
    var next = new ArrayDeque<Field>(List.of(field));
    parents.put(field, field);
    while (!next.isEmpty()) {
      Field one = next.pop();
      Boolean known = one.of().isTable() ? Boolean.TRUE : based.get(one);
      if (Boolean.TRUE.equals(known)) {
        for (Field on = one; !Boolean.TRUE.equals(based.put(on, true)); ) {
          on = parents.get(on);
        }
        return true;
      }
      if (known == null) {
        Budget.step(1L + one.uses().direct.size());
        for (Field from : one.uses().direct.keySet()) {
          if (parents.putIfAbsent(from, one) == null) {
            next.push(from);
          }
        }
      }
    }
    parents.keySet().forEach(one -> based.put(one, false));
    return false;
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
        Budget.step(1L + one.from.size());
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
      Budget.step(1);
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
        ordered.add(one);
      }
    }
    Collections.reverse(ordered);
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
    Budget.keep(1L + field.uses().direct.size() + field.uses().decides.size());
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
