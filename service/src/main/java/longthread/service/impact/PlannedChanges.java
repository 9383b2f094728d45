package longthread.service.impact;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.OptionalInt;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.core.asset.Kind;
import longthread.core.asset.Reference;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.impact.Change;
import longthread.core.impact.TypeChange;
import longthread.service.job.JobParts;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.References;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/** Turns planned steps, on a column, an asset, a job or a whole system, into changes to judge. */
@Component
class PlannedChanges {
  /**
   * A step with its reference in full.
   *
   * @param assets how many assets and jobs it changes
   */
  record Judged(String ref, String change, @Nullable String to, int assets) {}

  /** The changes of all steps, as the analysis takes them. */
  record All(List<Change> changes, List<Judged> steps) {}

  private final References references;
  private final Catalog catalog;
  private final JobParts jobParts;

  PlannedChanges(References references, Catalog catalog, JobParts jobParts) {
    this.references = references;
    this.catalog = catalog;
    this.jobParts = jobParts;
  }

  All of(LineageGraph graph, List<ImpactFinder.PlannedStep> steps) {
    var changes = new ArrayList<Change>();
    var judged = new ArrayList<Judged>();
    for (ImpactFinder.PlannedStep step : steps) {
      int before = changes.size();
      Change.Kind kind = kind(step.change());
      String ref;
      if (Reference.isSystem(step.ref().strip())) {
        ref = addSystem(graph, step.ref().strip(), kind, changes);
      } else {
        References.Named named = references.resolve(step.ref());
        changes.add(
            Reference.isJob(named.ref())
                ? job(graph, named.ref(), kind)
                : data(graph, named, kind, step.to()));
        ref = named.ref();
      }
      judged.add(new Judged(ref, step.change(), step.to(), changes.size() - before));
    }
    return new All(changes, judged);
  }

  private static Change.Kind kind(String word) {
    try {
      return Change.Kind.valueOf(word.toUpperCase(Locale.ROOT));
    } catch (IllegalArgumentException e) {
      throw ProblemException.badRequest(
          "unknown-change",
          "'"
              + word
              + "' is not a change; use one of "
              + String.join(
                  ", ", Arrays.stream(Change.Kind.values()).map(Change.Kind::word).toList()));
    }
  }

  private Change data(
      LineageGraph graph, References.Named named, Change.Kind kind, @Nullable String to) {
    if (kind == Change.Kind.RETYPE && (named.column() == null || to == null)) {
      throw noColumnAndType();
    }
    int node = named.node(graph);
    if (node < 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "no-lineage",
          "No lineage is known",
          named.ref() + " feeds nothing that any event reported");
    }
    boolean narrows = kind == Change.Kind.RETYPE && TypeChange.mayNarrow(typeOf(named), to);
    return new Change.OfData(node, kind, to, narrows);
  }

  private static ProblemException noColumnAndType() {
    return ProblemException.badRequest(
        "bad-change", "retype takes a column and its new type, as to=bigint");
  }

  private static @Nullable String typeOf(References.Named named) {
    return named.asset().card().columns().stream()
        .filter(column -> column.path().equals(named.column()))
        .map(Card.Column::type)
        .findFirst()
        .orElse(null);
  }

  private Change job(LineageGraph graph, String ref, Change.Kind kind) {
    if (kind == Change.Kind.RETYPE) {
      throw noColumnAndType();
    }
    var outputs = new ArrayList<Integer>();
    for (String output : jobParts.of(ref).outputs()) {
      graph.asset(output).ifPresent(asset -> outputs.add(graph.rowsOf(asset)));
    }
    return new Change.OfJob(graph.ownerOrdinal(ref).orElse(-1), outputs, kind);
  }

  /** Adds a change for each asset and job of a system, and returns the system's reference. */
  private String addSystem(
      LineageGraph graph, String text, Change.Kind kind, List<Change> changes) {
    if (kind == Change.Kind.RETYPE) {
      throw noColumnAndType();
    }
    String system = system(text.substring(Reference.SYSTEM_PREFIX.length()));
    Map<String, Boolean> known = new HashMap<>(); // by namespace, for what no event described
    for (int asset = 0; asset < graph.assetCount(); asset++) {
      String ref = graph.assetReference(asset);
      if (!Reference.isJob(ref) && isIn(system, ref, known)) {
        changes.add(new Change.OfData(graph.rowsOf(asset), kind, null, false));
      }
    }
    var jobs = new LinkedHashSet<String>();
    for (Asset asset : catalog.seen()) {
      if ((asset.kind() == Kind.JOB || asset.kind() == Kind.PIPELINE)
          && asset.system().equals(system)) {
        jobs.add(asset.ref());
      }
    }
    addJobs(graph, jobs, kind, changes);
    if (changes.isEmpty()) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "no-lineage",
          "No lineage is known",
          "nothing in the system " + system + " has lineage that any event reported");
    }
    return Reference.SYSTEM_PREFIX + system;
  }

  private boolean isIn(String system, String ref, Map<String, Boolean> known) {
    Asset asset = catalog.asset(ref).orElse(null);
    return asset != null
        ? asset.system().equals(system)
        : known.computeIfAbsent(
            Card.namespaceOf(ref), namespace -> catalog.systemOf(ref).equals(system));
  }

  /**
   * What the jobs write is found in one pass over the links; of those without links, one by one.
   */
  private void addJobs(
      LineageGraph graph, Set<String> jobs, Change.Kind kind, List<Change> changes) {
    var owners = new BitSet();
    for (String job : jobs) {
      graph.ownerOrdinal(job).ifPresent(owners::set);
    }
    Map<Integer, Set<Integer>> outputs = new LinkedHashMap<>();
    if (!owners.isEmpty()) {
      for (int asset = 0; asset < graph.assetCount(); asset++) {
        int rows = graph.rowsOf(asset);
        boolean isJob = Reference.isJob(graph.assetReference(asset));
        graph.forEachLink(
            rows,
            Direction.UPSTREAM,
            (from, flow, masking, owner) -> {
              if (owners.get(owner) && !isJob) {
                outputs.computeIfAbsent(owner, k -> new LinkedHashSet<>()).add(rows);
              }
            });
      }
    }
    for (String job : jobs) {
      OptionalInt owner = graph.ownerOrdinal(job);
      Set<Integer> written = owner.isPresent() ? outputs.get(owner.getAsInt()) : null;
      changes.add(
          written == null
              ? job(graph, job, kind)
              : new Change.OfJob(owner.getAsInt(), List.copyOf(written), kind));
    }
  }

  /** The system of this name, whatever its case. */
  private String system(String name) {
    var names = new TreeSet<String>();
    catalog.seen().forEach(asset -> names.add(asset.system()));
    if (names.contains(name)) {
      return name;
    }
    List<String> same = names.stream().filter(name::equalsIgnoreCase).toList();
    if (same.size() == 1) {
      return same.get(0);
    }
    String lower = name.toLowerCase(Locale.ROOT);
    List<String> nearest =
        names.stream()
            .sorted(
                Comparator.comparing(
                        (String other) -> !other.toLowerCase(Locale.ROOT).contains(lower))
                    .thenComparing(Comparator.naturalOrder()))
            .limit(12)
            .toList();
    throw new ProblemException(
            HttpStatus.NOT_FOUND,
            "unknown-reference",
            "No system has this name",
            "'"
                + name
                + "' is not a system of the catalog; "
                + (nearest.isEmpty()
                    ? "it is still empty"
                    : "there are " + String.join(", ", nearest)))
        .with("nearest", nearest.stream().map(Reference.SYSTEM_PREFIX::concat).toList());
  }
}
