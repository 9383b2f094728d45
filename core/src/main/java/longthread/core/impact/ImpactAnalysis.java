package longthread.core.impact;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.Collection;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.IntConsumer;
import longthread.core.asset.Reference;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.lineage.Flow;
import org.jspecify.annotations.Nullable;

/**
 * Judges changes by following their effects along the links.
 *
 * <ul>
 *   <li>A column that is gone breaks every job that uses it, whatever for, and every view or chart
 *       that is made of it live; all outputs of a broken job go stale, and a broken view breaks
 *       whatever reads it.
 *   <li>Shifted values shift the values made from or decided by them, and the rows of outputs that
 *       they join, filter, group or sort, with the values that the job makes of many of these rows.
 *       A mask leaves that only possible.
 *   <li>Shifted rows shift the rows of every output they feed and the values made from many rows.
 *   <li>Stale data makes stale whatever is fed by it, and never turns into shifted values or rows.
 *   <li>Over a coarse link everything but staleness is only possible.
 * </ul>
 *
 * <p>An effect that is first found possible and later certain is followed again, so that certainty
 * does not depend on the order of search. That takes O(n + l) steps for the n nodes and l links
 * downstream, each node at most twice per effect, and as many again for the list of what is
 * untouched.
 */
public final class ImpactAnalysis {
  /** What the analysis must know of assets beyond their links. */
  public interface Knowledge {
    /**
     * Returns what is missing before the map of {@code owner} into {@code target} can be called
     * complete, or null if it is.
     */
    @Nullable String missing(String owner, String target);

    /**
     * Whether an asset is made anew whenever it is read, as a view or a chart is, and so fails
     * whatever reads it while it is broken. What keeps its data only goes stale.
     */
    default boolean isLive(String asset) {
      return false;
    }
  }

  /** What travels along the links. */
  private enum Effect {
    GONE,
    GONE_FOR_COPIES,
    BREAKS,
    STALE,
    VALUES,
    ROWS
  }

  private static final Effect[] EFFECTS = Effect.values();

  /** A broken job, by the mark that broke it and the link it was using. */
  private record Broken(boolean certain, int hops, int from, GraphLink by) {}

  private final LineageGraph graph;
  private final Knowledge knowledge;
  private final Marks marks = new Marks();
  private final Writers writers;
  private final Map<Integer, Broken> brokenJobs = new LinkedHashMap<>();
  private int[] open = new int[64]; // marks still to be followed, first in first out
  private int opened;
  private final Set<Long> aggregated =
      new HashSet<>(); // whose aggregates were looked at: rows, job

  private ImpactAnalysis(LineageGraph graph, Knowledge knowledge) {
    this.graph = graph;
    this.knowledge = knowledge;
    this.writers = new Writers(graph);
  }

  /** Returns what the changes do together. */
  public static Impact of(
      LineageGraph graph, Collection<Change> changes, Knowledge knowledge, int mostHops) {
    var analysis = new ImpactAnalysis(graph, knowledge);
    Set<Integer> origins = new LinkedHashSet<>();
    Set<Integer> outputs = new LinkedHashSet<>();
    Set<String> jobs = new HashSet<>();
    for (Change change : changes) {
      if (change instanceof Change.OfJob job) {
        job.outputs().forEach(rows -> outputs.add(graph.assetOf(rows)));
        if (job.owner() >= 0) {
          jobs.add(graph.owner(job.owner()));
        }
        analysis.start(job);
      } else if (change instanceof Change.OfData data) {
        origins.add(graph.assetOf(data.node()));
        analysis.start(data);
      }
    }
    analysis.spread(mostHops);
    List<Impact.Item> items = analysis.items(origins, jobs);
    UntouchedSearch.Untouched untouched =
        new UntouchedSearch(
                graph,
                knowledge,
                origins,
                outputs,
                jobs,
                analysis.touched(),
                analysis.brokenJobs.keySet())
            .all();
    return new Impact(items, untouched, untouched.certain(), analysis.marks.size());
  }

  private void start(Change.OfJob job) {
    for (int rows : job.outputs()) {
      switch (job.kind()) {
        case DROP, DELAY -> write(job, Effect.STALE, rows, true);
        case VALUES -> forEachWritten(job, rows, column -> write(job, Effect.VALUES, column, true));
        case ROWS -> {
          write(job, Effect.ROWS, rows, isKnown(job, rows));
          forEachMadeOfMany(rows, job.owner(), column -> write(job, Effect.VALUES, column, true));
        }
        case RENAME, RETYPE -> {} // its data stays as it is
      }
    }
  }

  /** Marks what a changed job writes, with one of its links there as the proof. */
  private void write(Change.OfJob job, Effect effect, int node, boolean certain) {
    boolean all = certain && byAllWriters(effect, node, job.owner());
    int made = mark(effect, node, all, 1);
    if (made != Marks.NONE) {
      GraphLink proof = linkOf(job.owner(), node);
      if (proof == null) {
        proof = linkOf(job.owner(), graph.rowsOf(graph.assetOf(node)));
      }
      if (proof != null) {
        marks.cameBy(
            made,
            Marks.NONE,
            proof.from(),
            proof.to(),
            proof.flow(),
            proof.masking(),
            proof.owner());
      }
    }
  }

  /** Whether this is certain by now: where it was before, the writers are not looked at again. */
  private boolean byAllWriters(Effect effect, int node, int owner) {
    int known = marks.find(effect.ordinal(), node);
    return (known != Marks.NONE && marks.certain(known))
        || writers.allBring(effect.ordinal(), node, owner);
  }

  /** A link of an owner to a node; null if it has none. */
  private @Nullable GraphLink linkOf(int owner, int node) {
    for (GraphLink link : graph.links(node, Direction.UPSTREAM)) {
      if (link.owner() == owner) {
        return link;
      }
    }
    return null;
  }

  /** Whether the job states where the rows of an output come from. */
  private boolean isKnown(Change.OfJob job, int rows) {
    return graph.links(rows, Direction.UPSTREAM).stream()
        .anyMatch(link -> link.owner() == job.owner() && link.flow() != Flow.COARSE);
  }

  /**
   * The columns that a job writes of an output: those it states the sources of, and those that
   * nobody does. What is written by a job without a column map may be any of them.
   */
  private void forEachWritten(Change.OfJob job, int rows, IntConsumer visit) {
    boolean known = isKnown(job, rows);
    if (!known) {
      write(job, Effect.VALUES, rows, false);
      write(job, Effect.ROWS, rows, false);
    }
    graph.forEachColumn(
        graph.assetOf(rows),
        column -> {
          List<GraphLink> links = graph.links(column, Direction.UPSTREAM);
          if (links.isEmpty() || links.stream().anyMatch(link -> link.owner() == job.owner())) {
            if (known) {
              visit.accept(column);
            } else {
              write(job, Effect.VALUES, column, false);
            }
          }
        });
  }

  private void start(Change.OfData change) {
    int node = change.node();
    int rows = graph.rowsOf(graph.assetOf(node));
    switch (change.kind()) {
      case DROP, RENAME -> seed(Effect.GONE, node, true);
      case RETYPE -> {
        // A wider type can only trouble plain copies; a narrower one may cut values off as well.
        seed(change.narrows() ? Effect.GONE : Effect.GONE_FOR_COPIES, node, false);
        if (change.narrows()) {
          seed(Effect.VALUES, node, false);
        }
      }
      case VALUES -> seed(Effect.VALUES, node, true);
      case ROWS -> seed(Effect.ROWS, rows, true);
      case DELAY -> seed(Effect.STALE, rows, true);
    }
  }

  private void seed(Effect effect, int node, boolean certain) {
    mark(effect, node, certain, 0);
    if (graph.isRows(node) && effect != Effect.ROWS && effect != Effect.STALE) {
      graph.forEachColumn(graph.assetOf(node), column -> mark(effect, column, certain, 0));
    }
  }

  /** Marks a node, or makes its mark certain; returns the mark if that changed anything. */
  private int mark(Effect effect, int node, boolean certain, int hops) {
    return mark(effect, node, certain, hops, false);
  }

  private int mark(Effect effect, int node, boolean certain, int hops, boolean nested) {
    int known = marks.find(effect.ordinal(), node);
    if (known != Marks.NONE && (marks.certain(known) || !certain)) {
      if (!nested && marks.isNested(known)) {
        // It is reached by a link too: so are the columns within it. It stays explained as it is.
        marks.setNested(known, false);
        follow(known);
      }
      return Marks.NONE;
    }
    int mark = known == Marks.NONE ? marks.make(effect.ordinal(), node) : known;
    marks.set(mark, certain, known == Marks.NONE ? hops : Math.min(hops, marks.hops(mark)));
    marks.setNested(mark, nested);
    follow(mark);
    return mark;
  }

  private void follow(int mark) {
    if (opened == open.length) {
      open = Arrays.copyOf(open, opened * 2);
    }
    open[opened++] = mark;
  }

  private void spread(int mostHops) {
    for (int at = 0; at < opened; at++) {
      int mark = open[at];
      if (marks.hops(mark) >= mostHops) {
        continue;
      }
      var step = new Step(mark);
      graph.forEachLink(step.node, Direction.DOWNSTREAM, step);
      int rows = graph.rowsOf(graph.assetOf(step.node));
      if (rows != step.node && step.effect != Effect.STALE && step.effect != Effect.BREAKS) {
        if (!marks.isNested(mark)) {
          markNested(mark, step);
        }
        // Coarse links hang on the rows and hold for every column.
        step.source = rows;
        graph.forEachLink(
            rows,
            Direction.DOWNSTREAM,
            (end, flow, masking, owner) -> {
              if (flow == Flow.COARSE) {
                step.link(end, flow, masking, owner);
              } else if (flow == Flow.READS && step.effect == Effect.GONE) {
                step.readUnseen(end, masking, owner);
              }
            });
      }
    }
  }

  /** What happens to a struct may happen to its fields, and what to a field to its struct. */
  private void markNested(int mark, Step step) {
    graph.forEachNested(
        step.node,
        other -> {
          int made = mark(step.effect, other, false, marks.hops(mark), true);
          if (made != Marks.NONE) {
            marks.cameWithin(made, mark);
          }
        });
  }

  /** The columns of an asset that a job makes of many rows. */
  private void forEachMadeOfMany(int rows, int owner, IntConsumer visit) {
    graph.forEachColumn(
        graph.assetOf(rows),
        column -> {
          boolean[] ofMany = {false};
          graph.forEachLink(
              column,
              Direction.UPSTREAM,
              (from, how, masks, by) ->
                  ofMany[0] |= by == owner && (how.dependsOnRows() || how == Flow.ROWS_TO_VALUE));
          if (ofMany[0]) {
            visit.accept(column);
          }
        });
  }

  /** One mark being followed over the links that leave its node. */
  private final class Step implements LineageGraph.LinkVisitor {
    private final int mark;
    private final Effect effect;
    private final int node;
    private final boolean certain;
    private final int hops;
    private int source;

    Step(int mark) {
      this.mark = mark;
      this.effect = EFFECTS[marks.effect(mark)];
      this.node = marks.node(mark);
      this.certain = marks.certain(mark);
      this.hops = marks.hops(mark) + 1;
      this.source = node;
    }

    @Override
    public void link(int end, Flow flow, boolean masking, int owner) {
      boolean unmasked = certain && !masking;
      boolean betweenAssets = graph.isRows(source) && graph.isRows(end);
      switch (effect) {
        case GONE -> gone(end, flow, masking, owner);
        case GONE_FOR_COPIES -> {
          if (flow == Flow.IDENTITY) {
            gone(end, flow, masking, owner);
          }
        }
        case BREAKS -> {
          if (betweenAssets) {
            broken(end, flow, masking, owner);
          }
        }
        case STALE -> {
          if (betweenAssets) {
            pass(Effect.STALE, end, certain, end, flow, masking, owner);
          }
        }
        case VALUES -> {
          if (flow.shapesValues()) {
            if (!(graph.isRows(source) && flow == Flow.HOLDS)) {
              pass(Effect.VALUES, end, unmasked, end, flow, masking, owner);
            }
          } else if (flow.group() == Flow.Group.DECIDES_ROWS) {
            pass(Effect.ROWS, end, certain, end, flow, masking, owner);
            aggregates(end, flow, masking, owner);
          } else if (flow == Flow.COARSE) {
            coarse(end, masking, owner);
          }
        }
        case ROWS -> {
          switch (flow) {
            case ROWS, HOLDS -> pass(Effect.ROWS, end, certain, end, flow, masking, owner);
            case ROWS_TO_VALUE -> pass(Effect.VALUES, end, unmasked, end, flow, masking, owner);
            case COARSE -> coarse(end, masking, owner);
            default -> {}
          }
        }
      }
    }

    private void pass(
        Effect next,
        int target,
        boolean isCertain,
        int end,
        Flow flow,
        boolean masking,
        int owner) {
      if (marks.tellsNothingNew(next.ordinal(), target, isCertain)) {
        return;
      }
      boolean all =
          isCertain
              && (next == Effect.GONE
                  || next == Effect.BREAKS
                  || byAllWriters(next, target, owner));
      int made = mark(next, target, all, hops);
      if (made != Marks.NONE) {
        marks.cameBy(made, mark, source, end, flow, masking, owner);
      }
    }

    /** Which rows a job takes together decides the values that it makes of many of them. */
    private void aggregates(int end, Flow flow, boolean masking, int owner) {
      long key = ((long) end << 32 | owner) * 2 + (certain ? 1 : 0);
      if (!aggregated.add(key)) {
        return;
      }
      forEachMadeOfMany(
          end, owner, column -> pass(Effect.VALUES, column, certain, end, flow, masking, owner));
    }

    /** What is broken and live fails whatever reads it; what keeps its data goes stale with it. */
    private void broken(int end, Flow flow, boolean masking, int owner) {
      boolean live = knowledge.isLive(graph.assetReference(graph.assetOf(node)));
      if (flow == Flow.HOLDS || (live && !Reference.isJob(graph.owner(owner)))) {
        pass(Effect.BREAKS, end, certain, end, flow, masking, owner);
      } else if (live) {
        breakJob(new GraphLink(source, end, flow, masking, owner), certain);
      } else {
        pass(Effect.STALE, end, certain, end, flow, masking, owner);
      }
    }

    private void gone(int end, Flow flow, boolean masking, int owner) {
      boolean sure = certain && flow != Flow.COARSE;
      int target = graph.rowsOf(graph.assetOf(end));
      if (flow == Flow.HOLDS) {
        if (!graph.isRows(source)) {
          pass(Effect.GONE, end, sure, end, flow, masking, owner);
        }
        pass(Effect.BREAKS, target, sure, end, flow, masking, owner);
      } else if (!Reference.isJob(graph.owner(owner))) {
        pass(Effect.BREAKS, target, sure, end, flow, masking, owner);
      } else {
        breakJob(new GraphLink(source, end, flow, masking, owner), sure);
      }
    }

    /**
     * A column is gone of an input that the column map shows nowhere: which of its columns the job
     * uses is not known, so it may break. If other links of the job show that, they decide.
     */
    private void readUnseen(int end, boolean masking, int owner) {
      boolean[] seen = {false};
      graph.forEachLink(
          source,
          Direction.DOWNSTREAM,
          (to, flow, masks, by) -> seen[0] |= by == owner && flow != Flow.READS);
      if (!seen[0] && Reference.isJob(graph.owner(owner))) {
        breakJob(new GraphLink(source, end, Flow.READS, masking, owner), false);
      }
    }

    private void breakJob(GraphLink by, boolean sure) {
      Broken before = brokenJobs.get(by.owner());
      if (before != null && (before.certain() || !sure)) {
        return;
      }
      int nearest = before == null ? hops : Math.min(hops, before.hops());
      brokenJobs.put(by.owner(), new Broken(sure, nearest, mark, by));
      // A job fails as a whole: what it makes of other inputs goes stale too.
      for (int asset : graph.targetsOf(by.owner())) {
        int rows = graph.rowsOf(asset);
        boolean same = asset == graph.assetOf(by.to());
        GraphLink shown = same ? by : linkOf(by.owner(), rows);
        if (shown != null) {
          boolean all = sure && byAllWriters(Effect.STALE, rows, by.owner());
          int made = mark(Effect.STALE, rows, all, hops);
          if (made != Marks.NONE) {
            marks.cameBy(
                made, mark, shown.from(), shown.to(), shown.flow(), shown.masking(), by.owner());
          }
        }
      }
    }

    private void coarse(int end, boolean masking, int owner) {
      pass(Effect.ROWS, end, false, end, Flow.COARSE, masking, owner);
      pass(Effect.VALUES, end, false, end, Flow.COARSE, masking, owner);
      graph.forEachColumn(
          graph.assetOf(end),
          column -> pass(Effect.VALUES, column, false, end, Flow.COARSE, masking, owner));
    }
  }

  private BitSet touched() {
    var touched = new BitSet(graph.assetCount());
    for (int mark = 0; mark < marks.size(); mark++) {
      touched.set(graph.assetOf(marks.node(mark)));
    }
    return touched;
  }

  private List<Impact.Item> items(Set<Integer> origins, Set<String> changedJobs) {
    var byAsset = new LinkedHashMap<Integer, Gathered>();
    for (int mark = 0; mark < marks.size(); mark++) {
      int asset = graph.assetOf(marks.node(mark));
      byAsset.computeIfAbsent(asset, k -> new Gathered()).add(mark);
    }
    var items = new ArrayList<Impact.Item>();
    byAsset.forEach(
        (asset, gathered) -> {
          if (!origins.contains(asset)) {
            items.add(gathered.item(graph.assetReference(asset)));
          }
        });
    Set<String> jobs = new HashSet<>(changedJobs);
    brokenJobs.keySet().forEach(owner -> jobs.add(graph.owner(owner)));
    if (!jobs.isEmpty()) {
      items.removeIf(item -> jobs.contains(item.ref())); // jobs that lineage ends at
    }
    brokenJobs.forEach(
        (owner, broken) -> {
          if (changedJobs.contains(graph.owner(owner))) {
            return;
          }
          byte[] breaks = new byte[Verdict.values().length];
          breaks[Verdict.BREAKS.ordinal()] = code(broken.certain());
          items.add(
              new Impact.Item(
                  graph.owner(owner),
                  breaks,
                  broken.hops(),
                  () -> threadTo(broken),
                  () -> Map.of(),
                  () -> {
                    String earlier = firstFailure(broken.from());
                    return earlier == null ? graph.owner(owner) : earlier;
                  }));
        });
    items.sort(
        Comparator.comparing(Impact.Item::headline)
            .thenComparing(Impact.Item::hops)
            .thenComparing(Impact.Item::ref));
    return items;
  }

  private static byte code(boolean certain) {
    return (byte) (Certainty.of(certain).ordinal() + 1);
  }

  private Verdict verdict(int mark) {
    return switch (EFFECTS[marks.effect(mark)]) {
      case GONE, GONE_FOR_COPIES, BREAKS -> Verdict.BREAKS;
      case STALE -> Verdict.GOES_STALE;
      case VALUES -> Verdict.VALUES_SHIFT;
      case ROWS -> Verdict.ROWS_SHIFT;
    };
  }

  /** What was found at one asset. */
  private final class Gathered {
    private final byte[] verdicts = new byte[Verdict.values().length];
    private final int[] proofs = new int[verdicts.length]; // marks
    private int[] all = new int[2]; // marks
    private int count;
    private int hops = Integer.MAX_VALUE;

    void add(int mark) {
      if (count == all.length) {
        all = Arrays.copyOf(all, count * 2);
      }
      all[count++] = mark;
      int verdict = verdict(mark).ordinal();
      byte certainty = code(marks.certain(mark));
      hops = Math.min(hops, marks.hops(mark));
      if (verdicts[verdict] == 0 || certainty < verdicts[verdict]) {
        verdicts[verdict] = certainty;
        proofs[verdict] = mark;
      }
    }

    Impact.Item item(String ref) {
      int headline = 0;
      while (verdicts[headline] == 0) {
        headline++;
      }
      int proof = proofs[headline];
      return new Impact.Item(
          ref, verdicts, hops, () -> thread(proof), this::columns, () -> firstFailure(proof));
    }

    private Map<String, Verdict> columns() {
      var columns = new TreeMap<String, Verdict>();
      for (int i = 0; i < count; i++) {
        int node = marks.node(all[i]);
        if (!graph.isRows(node)) {
          columns.merge(
              graph.columnOf(node), verdict(all[i]), (a, b) -> a.compareTo(b) <= 0 ? a : b);
        }
      }
      return columns;
    }
  }

  /** The job, view or chart that fails first on the way to a mark; null if nothing fails. */
  private @Nullable String firstFailure(int last) {
    String failure = null;
    for (int mark = last; mark != Marks.NONE; mark = marks.from(mark)) {
      int before = marks.from(mark);
      if (before == Marks.NONE || !isGone(before)) {
        continue;
      }
      int asset = graph.assetOf(marks.node(mark));
      if (EFFECTS[marks.effect(mark)] == Effect.STALE) {
        failure = graph.owner(marks.link(mark).owner());
      } else if (asset != graph.assetOf(marks.node(before))) {
        failure = graph.assetReference(asset);
      }
    }
    return failure;
  }

  private boolean isGone(int mark) {
    Effect effect = EFFECTS[marks.effect(mark)];
    return effect == Effect.GONE || effect == Effect.GONE_FOR_COPIES;
  }

  private List<GraphLink> threadTo(Broken broken) {
    List<GraphLink> hops = thread(broken.from());
    hops.add(broken.by());
    return hops;
  }

  /** The links by which a mark came, from its origin on. */
  private List<GraphLink> thread(int last) {
    var hops = new ArrayList<GraphLink>();
    for (int mark = last; mark != Marks.NONE; mark = marks.from(mark)) {
      if (marks.cameByLink(mark)) {
        hops.add(marks.link(mark));
      }
    }
    Collections.reverse(hops);
    return hops;
  }
}
