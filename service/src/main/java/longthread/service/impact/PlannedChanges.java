package longthread.service.impact;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Predicate;
import longthread.core.asset.Card;
import longthread.core.asset.Kind;
import longthread.core.asset.Reference;
import longthread.core.graph.LineageGraph;
import longthread.core.impact.BadStepException;
import longthread.core.impact.Change;
import longthread.core.impact.PlannedSteps;
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
  private final PlannedSteps.Estate estate;

  PlannedChanges(References references, Catalog catalog, JobParts jobParts) {
    this.references = references;
    this.catalog = catalog;
    this.estate =
        new PlannedSteps.Estate() {
          @Override
          public @Nullable String typeOf(String asset, String column) {
            return catalog.asset(asset).stream()
                .flatMap(known -> known.card().columns().stream())
                .filter(known -> known.path().equals(column))
                .map(Card.Column::type)
                .filter(Objects::nonNull)
                .findFirst()
                .orElse(null);
          }

          @Override
          public List<String> outputsOf(String job) {
            return jobParts.of(job).outputs();
          }
        };
  }

  /**
   * The changes of steps.
   *
   * @param asOf the moment of which the graph is; null for now
   * @throws ProblemException if a step is not understood, or what it names has no lineage
   */
  All of(LineageGraph graph, List<ImpactFinder.PlannedStep> steps, @Nullable Instant asOf) {
    var planned = new PlannedSteps(graph, estate);
    var changes = new ArrayList<Change>();
    var judged = new ArrayList<Judged>();
    for (ImpactFinder.PlannedStep step : steps) {
      int before = changes.size();
      String text = step.ref().strip();
      String ref;
      try {
        Change.Kind kind = PlannedSteps.kind(step.change());
        if (Reference.isSystem(text)) {
          String system = system(text.substring(Reference.SYSTEM_PREFIX.length()));
          changes.addAll(planned.ofSystem(system, isIn(system), jobsOf(system), kind));
          ref = Reference.SYSTEM_PREFIX + system;
        } else {
          References.Named named = references.resolve(step.ref());
          changes.add(planned.of(named.asset().ref(), named.column(), kind, step.to()));
          ref = named.ref();
        }
      } catch (BadStepException e) {
        throw problem(e, asOf);
      }
      judged.add(new Judged(ref, step.change(), step.to(), changes.size() - before));
    }
    return new All(changes, judged);
  }

  private static ProblemException problem(BadStepException e, @Nullable Instant asOf) {
    return switch (e.reason()) {
      case UNKNOWN_CHANGE -> ProblemException.badRequest("unknown-change", e.getMessage());
      case NO_COLUMN_AND_TYPE -> ProblemException.badRequest("bad-change", e.getMessage());
      case NO_LINEAGE ->
          new ProblemException(
              HttpStatus.NOT_FOUND,
              "no-lineage",
              "No lineage is known",
              e.getMessage() + (asOf == null ? "" : " by " + asOf + "; take a later moment"));
    };
  }

  private Predicate<String> isIn(String system) {
    Map<String, Boolean> known = new HashMap<>(); // by namespace, for what no event described
    return ref -> {
      Asset asset = catalog.asset(ref).orElse(null);
      return asset != null
          ? asset.system().equals(system)
          : known.computeIfAbsent(
              Card.namespaceOf(ref), namespace -> catalog.systemOf(ref).equals(system));
    };
  }

  private Set<String> jobsOf(String system) {
    var jobs = new LinkedHashSet<String>();
    for (Asset asset : catalog.seen()) {
      if ((asset.kind() == Kind.JOB || asset.kind() == Kind.PIPELINE)
          && asset.system().equals(system)) {
        jobs.add(asset.ref());
      }
    }
    return jobs;
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
