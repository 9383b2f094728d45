package longthread.core.cause;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.Reference;
import longthread.core.cause.Causes.Effect;
import longthread.core.cause.Causes.Incident;
import longthread.core.cause.Causes.Parts;
import longthread.core.cause.Causes.Suspect;
import longthread.core.cause.Causes.What;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.ThreadFinder;
import longthread.core.graph.Walk;
import longthread.core.history.RunState;
import longthread.core.trust.Supply;
import org.jspecify.annotations.Nullable;

/**
 * Walks upstream of a symptom, gathers everything that deviated there, and separates causes from
 * effects.
 *
 * <p>An incident follows from another if that lies upstream on a thread that can carry its sort of
 * harm, began no later, and can bring it about at all ({@link What#canCause}). Of several such the
 * earliest counts; a mere change counts only where nothing else explains it. What follows from
 * nothing is a suspect. Its score is the product of five parts, see {@link Parts}.
 *
 * <p>Only what can be in the symptom counts: a load that was taken after the symptom's own is not
 * its cause, see {@link Supply}.
 */
public final class CauseSearch {
  /** How many runs of each job are looked at. */
  public static final int RUNS_WANTED = 60;

  /** How far back is looked, where nothing says until when the symptom was right. */
  public static final Duration WINDOW = Duration.ofDays(14);

  private static final int THREADS_SHOWN = 20; // of the likeliest suspects
  private static final double UNPROVED_CHANGE = 0.3;
  private static final double THREAD_DECIDES = 0.8;
  private static final double THREAD_COARSE = 0.6;

  /**
   * What is asked.
   *
   * @param node the node of an asset or column
   * @param now the moment as of which things are judged
   * @param goodUntil up to when it was known to be right; null if nobody knows
   */
  public record Question(
      LineageGraph graph,
      int node,
      Symptom symptom,
      Health health,
      Instant now,
      @Nullable Instant goodUntil) {}

  private final LineageGraph graph;
  private final Health health;
  private final Instant now;
  private final Symptom symptom;
  private final int node;
  private final int asset;
  private final BitSet affecting = new BitSet(); // nodes from which something runs to the symptom
  private final BitSet within = new BitSet(); // the assets upstream
  private Instant goodUntil;

  /** By job, or by dataset for what is wrong with its content: where its harm enters the graph. */
  private final Map<String, Set<Integer>> placeOf = new HashMap<>();

  private final Map<String, List<Health.Run>> runsOf = new LinkedHashMap<>();
  private final Map<Incident, Finding> findings = new LinkedHashMap<>();
  private final Set<Incident> notTaken = new HashSet<>(); // changes that the symptom is not made of

  private CauseSearch(Question question) {
    this.graph = question.graph();
    this.health = question.health();
    this.now = question.now();
    this.symptom = question.symptom();
    this.node = question.node();
    this.asset = graph.assetOf(node);
    Instant good = question.goodUntil();
    this.goodUntil = good == null ? now.minus(WINDOW) : good;
  }

  /** Returns the suspects for whatever may be wrong with an asset or column. */
  public static Causes of(LineageGraph graph, int node, Health health, Instant now) {
    return of(new Question(graph, node, Symptom.ANY, health, now, null));
  }

  /**
   * Returns the suspects for a symptom in O((u + l) log u + r + i²) for u assets and l links
   * upstream, r runs looked at, and i incidents, each of which also costs one walk downstream.
   */
  public static Causes of(Question question) {
    return new CauseSearch(question).search(question.goodUntil() != null);
  }

  private Causes search(boolean goodIsKnown) {
    Set<Integer> upstream = assetsUpstream();
    upstream.forEach(within::set);
    findPlaces(upstream);
    List<String> jobs = placeOf.keySet().stream().filter(Reference::isJob).toList();
    List<String> datasets = upstream.stream().map(graph::assetReference).toList();
    health.prepare(jobs, datasets);
    if (!goodIsKnown && symptom == Symptom.FAILED_CHECK) {
      lastPass().ifPresent(at -> goodUntil = at);
    }
    for (String job : jobs) {
      runsOf.put(job, health.runs(job));
    }
    Supply supply = Supply.of(graph, asset, this::loads, now);
    for (String job : jobs) {
      Instant usedUpTo = symptom == Symptom.LATE ? now : supply.usedUpTo(job).orElse(now);
      List<Health.Run> runs = Objects.requireNonNull(runsOf.get(job));
      new RunDeviations(job, runs, goodUntil).all(now, usedUpTo).forEach(this::add);
      codeChanges(job, usedUpTo);
    }
    for (int place : upstream) {
      String dataset = graph.assetReference(place);
      Instant takenAt = supply.takenAt(place).orElse(now);
      for (Finding finding : new DataDeviations(dataset, health, goodUntil).all(takenAt, now)) {
        if (isOnAThread(place, finding.incident())) {
          placeOf.computeIfAbsent(dataset, k -> new TreeSet<>()).add(place);
          add(finding, takenAt);
        }
      }
    }
    return judged(supply);
  }

  /** A change after the data was taken is not in it; but it may have stopped the next load. */
  private void add(Finding finding, Instant takenAt) {
    add(finding);
    if (finding.incident().what().isChange() && finding.incident().at().isAfter(takenAt)) {
      notTaken.add(finding.incident());
    }
  }

  private void add(Finding finding) {
    if (symptom.fit(finding.incident().what()) > 0) {
      findings.put(finding.incident(), finding);
    }
  }

  private Set<Integer> assetsUpstream() {
    int[] origins = graph.isRows(node) ? Walk.originsOf(graph, node) : new int[] {node};
    Reach reach =
        Walk.everything(graph, origins, Direction.UPSTREAM, Integer.MAX_VALUE, Integer.MAX_VALUE);
    var assets = new LinkedHashSet<Integer>();
    assets.add(asset);
    for (int reached : reach.nodes()) {
      affecting.set(reached);
      if (!graph.isRows(node)) {
        assets.add(graph.assetOf(reached));
      }
    }
    if (graph.isRows(node)) {
      Reach whole =
          Walk.assets(
              graph, new int[] {node}, Direction.UPSTREAM, Integer.MAX_VALUE, Integer.MAX_VALUE);
      for (int reached : whole.nodes()) {
        assets.add(graph.assetOf(reached));
      }
    }
    return assets;
  }

  private void findPlaces(Set<Integer> upstream) {
    for (int place : upstream) {
      graph.forEachLink(
          graph.rowsOf(place),
          Direction.UPSTREAM,
          (from, flow, masking, owner) -> {
            if (graph.isRows(from)) {
              placeOf.computeIfAbsent(graph.owner(owner), k -> new TreeSet<>()).add(place);
            }
          });
    }
  }

  private List<Supply.Load> loads(String job) {
    return runsOf.getOrDefault(job, List.of()).stream()
        .filter(run -> run.state() == RunState.COMPLETED)
        .map(run -> new Supply.Load(run.start(), RunDeviations.ended(run)))
        .toList();
  }

  private Optional<Instant> lastPass() {
    return health.checks(graph.assetReference(asset)).stream()
        .filter(results -> !results.isEmpty() && !results.get(0).passed())
        .flatMap(results -> results.stream().filter(Health.CheckResult::passed).limit(1))
        .map(Health.CheckResult::at)
        .min(Comparator.naturalOrder());
  }

  private void codeChanges(String job, Instant usedUpTo) {
    for (Health.Change change : health.codeChanges(job)) {
      if (change.at().isAfter(goodUntil) && !change.at().isAfter(now)) {
        add(
            new Finding(
                new Incident(job, What.CODE_CHANGED, null, change.at(), change.words(), null),
                1,
                1,
                change.harmless()),
            usedUpTo);
      }
    }
  }

  /** A column counts if something runs from it to the symptom; one without lineage may. */
  private boolean isOnAThread(int place, Incident incident) {
    if (incident.column() == null) {
      return true;
    }
    OptionalInt column = graph.node(place, incident.column());
    return column.isEmpty() || affecting.get(column.getAsInt());
  }

  // ------------------------------------------------------------------ causes and effects

  private Causes judged(Supply supply) {
    List<Incident> incidents =
        findings.keySet().stream()
            .sorted(
                Comparator.comparing(Incident::at)
                    .thenComparing(Incident::ref)
                    .thenComparing(Incident::what)
                    .thenComparing(incident -> String.valueOf(incident.column())))
            .toList();
    Map<Incident, Incident> rootOf =
        new EffectFolding(graph, placeOf, runsOf, findings, within).roots(incidents);
    var explainedBy = new IdentityHashMap<Incident, List<Incident>>();
    for (Incident incident : incidents) {
      Incident root = rootOf.get(incident);
      if (root != null) {
        explainedBy.computeIfAbsent(root, k -> new ArrayList<>()).add(incident);
      }
    }
    var suspects = new ArrayList<Suspect>();
    var effects = new ArrayList<Effect>();
    var changes = new ArrayList<Incident>();
    long counted =
        incidents.stream().filter(i -> !i.what().isChange() || explainedBy.containsKey(i)).count();
    for (Incident incident : incidents) {
      if (rootOf.containsKey(incident)) {
        effects.add(new Effect(incident, rootOf.get(incident).ref()));
        continue;
      }
      List<Incident> explained = explainedBy.getOrDefault(incident, List.of());
      if (notTaken.contains(incident) && explained.isEmpty()) {
        continue;
      }
      if (speaks(incident, explained)) {
        suspects.add(suspect(incident, explained, counted));
      } else if (incident.what().isChange()) {
        changes.add(incident);
      }
    }
    suspects.sort(
        Comparator.comparingDouble((Suspect suspect) -> -suspect.score())
            .thenComparing(suspect -> suspect.incident().at())
            .thenComparing(suspect -> suspect.incident().ref())
            .thenComparing(suspect -> suspect.incident().what()));
    for (int i = 0; i < Math.min(THREADS_SHOWN, suspects.size()); i++) {
      suspects.set(i, withThread(suspects.get(i)));
    }
    Instant recovery =
        suspects.isEmpty() ? null : new Recovery(graph, runsOf, now).after(suspects.get(0));
    Supply.Source oldest = supply.oldest().filter(source -> source.asset() != asset).orElse(null);
    return new Causes(suspects, effects, changes, goodUntil, oldest, recovery);
  }

  /**
   * Whether an incident is named. Where nobody says what is wrong, something that only changed, is
   * over, or took longer is no suspect unless it has done harm.
   */
  private boolean speaks(Incident incident, List<Incident> explained) {
    boolean isHarmless = Objects.requireNonNull(findings.get(incident)).harmless();
    if (symptom != Symptom.ANY) {
      return !isHarmless;
    }
    if (explained.stream().anyMatch(this::isHarmNow)) {
      return true;
    }
    return isHarmNow(incident);
  }

  private boolean isHarmNow(Incident incident) {
    boolean isOver = Objects.requireNonNull(findings.get(incident)).time() < 1;
    return !incident.what().isChange() && !isOver && incident.what() != What.SLOW;
  }

  // ------------------------------------------------------------------ suspects

  private Suspect suspect(Incident incident, List<Incident> explained, long counted) {
    Finding finding = Objects.requireNonNull(findings.get(incident));
    // Only what concerns values is less certain for its thread; others get theirs when they show.
    ThreadFinder.@Nullable Found thread = incident.column() == null ? null : thread(incident);
    double kind = symptom.fit(incident.what());
    if (incident.what().isChange() && explained.isEmpty()) {
      kind *= UNPROVED_CHANGE;
    }
    var parts =
        new Parts(
            kind,
            finding.time(),
            certainty(incident, thread),
            (1.0 + explained.size()) / Math.max(1, Math.max(counted, 1 + explained.size())),
            finding.rarity());
    return new Suspect(
        incident,
        parts.score(),
        parts,
        explained,
        thread == null ? List.of() : thread.hops(),
        unobserved(incident),
        Advice.toConfirm(incident),
        Advice.toRuleOut(incident));
  }

  private Suspect withThread(Suspect suspect) {
    ThreadFinder.@Nullable Found thread =
        suspect.thread().isEmpty() ? thread(suspect.incident()) : null;
    return thread == null
        ? suspect
        : new Suspect(
            suspect.incident(),
            suspect.score(),
            suspect.parts(),
            suspect.explains(),
            thread.hops(),
            suspect.unobserved(),
            suspect.toConfirm(),
            suspect.toRuleOut());
  }

  private ThreadFinder.@Nullable Found thread(Incident incident) {
    ThreadFinder.Found shortest = null;
    for (int place : placeOf.getOrDefault(incident.ref(), Set.of())) {
      int from =
          incident.column() == null
              ? graph.rowsOf(place)
              : graph.node(place, incident.column()).orElse(graph.rowsOf(place));
      int to = graph.isRows(from) ? graph.rowsOf(asset) : node;
      ThreadFinder.Found found = ThreadFinder.find(graph, from, to, within).orElse(null);
      if (found != null && (shortest == null || found.hops().size() < shortest.hops().size())) {
        shortest = found;
      }
    }
    return shortest;
  }

  /** What concerns values is only as certain as its thread is fine. */
  private static double certainty(Incident incident, ThreadFinder.@Nullable Found thread) {
    if (incident.column() == null || thread == null || thread.hops().isEmpty()) {
      return 1;
    }
    return switch (thread.basis()) {
      case VALUES -> 1;
      case DECIDES -> THREAD_DECIDES;
      case ASSETS -> THREAD_COARSE;
    };
  }

  /** Sources right behind the incident that no job writes, so that nothing is known of them. */
  private List<String> unobserved(Incident incident) {
    Collection<Integer> places = placeOf.getOrDefault(incident.ref(), Set.of());
    var sources = new TreeSet<String>();
    for (int place : places) {
      if (!Reference.isJob(incident.ref())) {
        if (hasNoWriter(place)) {
          sources.add(graph.assetReference(place));
        }
        continue;
      }
      graph.forEachLink(
          graph.rowsOf(place),
          Direction.UPSTREAM,
          (from, flow, masking, owner) -> {
            if (graph.isRows(from)
                && graph.owner(owner).equals(incident.ref())
                && hasNoWriter(graph.assetOf(from))) {
              sources.add(graph.assetReference(graph.assetOf(from)));
            }
          });
    }
    return List.copyOf(sources);
  }

  private boolean hasNoWriter(int place) {
    boolean[] none = {true};
    graph.forEachLink(
        graph.rowsOf(place),
        Direction.UPSTREAM,
        (from, flow, masking, owner) -> none[0] &= !Reference.isJob(graph.owner(owner)));
    return none[0];
  }

  /** The links of a thread as the jobs that carry it, in order and each once. */
  static List<String> jobsOf(LineageGraph graph, List<GraphLink> thread) {
    return thread.stream()
        .map(link -> graph.owner(link.owner()))
        .filter(Reference::isJob)
        .distinct()
        .toList();
  }
}
