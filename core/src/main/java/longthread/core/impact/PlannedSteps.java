package longthread.core.impact;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.OptionalInt;
import java.util.Set;
import java.util.function.Predicate;
import longthread.core.asset.Reference;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import org.jspecify.annotations.Nullable;

/** Turns planned steps, of a column, an asset, a job or a system, into changes to judge. */
public final class PlannedSteps {
  /** What must be known beyond the links. */
  public interface Estate {
    /** The type of a column; null if none is known. */
    @Nullable String typeOf(String asset, String column);

    /** The references of what a job writes. */
    Collection<String> outputsOf(String job);
  }

  private final LineageGraph graph;
  private final Estate estate;

  public PlannedSteps(LineageGraph graph, Estate estate) {
    this.graph = graph;
    this.estate = estate;
  }

  /** The kind of change that a word names. */
  public static Change.Kind kind(String word) throws BadStepException {
    for (Change.Kind kind : Change.Kind.values()) {
      if (kind.word().equals(word.toLowerCase(Locale.ROOT))) {
        return kind;
      }
    }
    throw new BadStepException(
        BadStepException.Reason.UNKNOWN_CHANGE,
        "'"
            + word
            + "' is not a change; use one of "
            + String.join(
                ", ", Arrays.stream(Change.Kind.values()).map(Change.Kind::word).toList()));
  }

  /**
   * A change of an asset, or of a job.
   *
   * @param ref the reference of an asset or a job
   * @param column its column; {@code *} for the rows, null for the whole asset
   * @param to the new name or type
   * @throws BadStepException if it says too little, or nothing has lineage with the asset
   */
  public Change of(String ref, @Nullable String column, Change.Kind kind, @Nullable String to)
      throws BadStepException {
    if (kind == Change.Kind.RETYPE && (Reference.isJob(ref) || column == null || to == null)) {
      throw noColumnAndType();
    }
    if (Reference.isJob(ref)) {
      return job(ref, kind);
    }
    OptionalInt asset = graph.asset(ref);
    if (asset.isEmpty()) {
      throw new BadStepException(
          BadStepException.Reason.NO_LINEAGE,
          ref + (column == null ? "" : "#" + column) + " feeds nothing that any event reported");
    }
    int node = graph.node(asset.getAsInt(), column).orElse(graph.rowsOf(asset.getAsInt()));
    boolean narrows =
        kind == Change.Kind.RETYPE && TypeChange.mayNarrow(estate.typeOf(ref, column), to);
    return new Change.OfData(node, kind, to, narrows);
  }

  private Change.OfJob job(String ref, Change.Kind kind) {
    var outputs = new ArrayList<Integer>();
    for (String output : estate.outputsOf(ref)) {
      graph.asset(output).ifPresent(asset -> outputs.add(graph.rowsOf(asset)));
    }
    return new Change.OfJob(graph.ownerOrdinal(ref).orElse(-1), outputs, kind);
  }

  /**
   * A change of each asset and job of a system. Takes one pass over the links, and one look at the
   * estate for each job without any.
   *
   * @param has whether an asset is of the system
   * @param jobs the references of its jobs and pipelines
   * @throws BadStepException if nothing of it has lineage
   */
  public List<Change> ofSystem(
      String system, Predicate<String> has, Collection<String> jobs, Change.Kind kind)
      throws BadStepException {
    if (kind == Change.Kind.RETYPE) {
      throw noColumnAndType();
    }
    var changes = new ArrayList<Change>();
    graph.assets().stream()
        .filter(asset -> !Reference.isJob(graph.assetReference(asset)))
        .filter(asset -> has.test(graph.assetReference(asset)))
        .forEach(asset -> changes.add(new Change.OfData(graph.rowsOf(asset), kind, null, false)));
    addJobs(jobs, kind, changes);
    if (changes.isEmpty()) {
      throw new BadStepException(
          BadStepException.Reason.NO_LINEAGE,
          "nothing in the system " + system + " has lineage that any event reported");
    }
    return changes;
  }

  private void addJobs(Collection<String> jobs, Change.Kind kind, List<Change> changes) {
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
              ? job(job, kind)
              : new Change.OfJob(owner.getAsInt(), List.copyOf(written), kind));
    }
  }

  private static BadStepException noColumnAndType() {
    return new BadStepException(
        BadStepException.Reason.NO_COLUMN_AND_TYPE,
        "retype takes a column and its new type, as to=bigint");
  }
}
