package longthread.service.cause;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.UUID;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.cause.CauseSearch;
import longthread.core.cause.Causes;
import longthread.core.cause.Health;
import longthread.core.graph.LineageGraph;
import longthread.core.history.RunState;
import longthread.service.job.JobParts;
import longthread.service.lineage.Hops;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.live.References;
import longthread.service.runs.RunReader;
import longthread.service.runs.Writers;
import longthread.service.storage.runs.RunSearch;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Why something is wrong or late. */
@Service
class CauseFinder {
  /** The symptom: what is asked about, and when it was last written. */
  record Symptom(
      String ref, String name, String kind, @Nullable Instant written, @Nullable String state) {}

  record Incident(
      String ref,
      String name,
      String kind,
      String what,
      Instant at,
      String evidence,
      @Nullable String error,
      List<Owner> owners) {}

  record Suspect(
      String ref,
      String name,
      String kind,
      String what,
      Instant at,
      double score,
      String evidence,
      @Nullable String error,
      List<Hops.Hop> thread,
      List<Owner> owners,
      List<Incident> explains) {}

  /** Something that went wrong too, but only because of a suspect. */
  record Explained(
      String ref, String name, String what, Instant at, @Nullable String error, String by) {}

  record CauseAnswer(
      Symptom symptom,
      Instant at,
      List<Suspect> suspects,
      List<Explained> explained,
      @Nullable Instant expectedRecovery) {}

  private final Catalog catalog;
  private final GraphFollower follower;
  private final RunReader runs;
  private final JobParts jobParts;
  private final Writers writers;

  CauseFinder(
      Catalog catalog, GraphFollower follower, RunReader runs, JobParts jobParts, Writers writers) {
    this.catalog = catalog;
    this.follower = follower;
    this.runs = runs;
    this.jobParts = jobParts;
    this.writers = writers;
  }

  /** The causes of a symptom as of a moment. */
  @Transactional(readOnly = true)
  public CauseAnswer find(References.Named named, Instant moment) {
    LineageGraph graph = follower.graph();
    int node = place(graph, named);
    Causes causes = CauseSearch.of(graph, node, new StoredHealth(moment), moment);
    List<RunReader.RunRow> writes =
        named.asset().isJob()
            ? runs.runs(RunSearch.Filter.ofJobBefore(named.asset().ref(), moment), 1)
            : writers.of(named.asset());
    return new CauseAnswer(
        symptom(named, writes),
        moment,
        causes.suspects().stream().map(suspect -> suspect(graph, suspect)).toList(),
        causes.effects().stream()
            .map(
                effect ->
                    new Explained(
                        effect.incident().ref(),
                        name(effect.incident().ref()),
                        effect.incident().what().word(),
                        effect.incident().at(),
                        effect.incident().error(),
                        effect.by()))
            .toList(),
        causes.expectedRecovery());
  }

  private int place(LineageGraph graph, References.Named named) {
    int node = -1;
    if (named.asset().isJob()) {
      for (String output : jobParts.of(named.asset().ref()).outputs()) {
        node =
            graph.asset(output).isPresent() ? graph.rowsOf(graph.asset(output).getAsInt()) : node;
      }
    } else {
      node = named.node(graph);
    }
    if (node < 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "no-lineage",
          "No lineage is known",
          named.ref() + " has no upstream that any event reported, so no cause can be found");
    }
    return node;
  }

  private static Symptom symptom(References.Named named, List<RunReader.RunRow> writes) {
    RunReader.RunRow fresh = Writers.freshest(writes);
    return new Symptom(
        named.ref(),
        named.asset().shown(),
        named.asset().kind().word(),
        fresh == null ? null : fresh.end(),
        writes.isEmpty() ? null : writes.get(0).state());
  }

  private Suspect suspect(LineageGraph graph, Causes.Suspect suspect) {
    Causes.Incident incident = suspect.incident();
    return new Suspect(
        incident.ref(),
        name(incident.ref()),
        kind(incident.ref()),
        incident.what().word(),
        incident.at(),
        Math.round(suspect.score() * 100) / 100.0,
        incident.evidence(),
        incident.error(),
        Hops.of(graph, suspect.thread(), catalog),
        owners(incident.ref()),
        suspect.explains().stream()
            .map(
                other ->
                    new Incident(
                        other.ref(),
                        name(other.ref()),
                        kind(other.ref()),
                        other.what().word(),
                        other.at(),
                        other.evidence(),
                        other.error(),
                        owners(other.ref())))
            .toList());
  }

  private String name(String ref) {
    return catalog.asset(ref).map(Asset::shown).orElse(ref);
  }

  private String kind(String ref) {
    return catalog.asset(ref).map(asset -> asset.kind().word()).orElse("dataset");
  }

  /** Who to call; a task without owners has those of its pipeline. */
  private List<Owner> owners(String ref) {
    Asset asset = catalog.asset(ref).orElse(null);
    if (asset == null) {
      return List.of();
    }
    int dot = ref.lastIndexOf('.');
    if (asset.card().owners().isEmpty() && Reference.isJob(ref) && dot > 0) {
      return catalog.asset(ref.substring(0, dot)).map(p -> p.card().owners()).orElse(List.of());
    }
    return asset.card().owners();
  }

  /** Health by the stored runs and check results. */
  private final class StoredHealth implements Health {
    private final Instant moment;

    StoredHealth(Instant moment) {
      this.moment = moment;
    }

    @Override
    public List<Run> runs(String job) {
      return runs.runs(RunSearch.Filter.ofJobBefore(job, moment), CauseSearch.RUNS_WANTED).stream()
          .map(this::run)
          .toList();
    }

    private Run run(RunReader.RunRow row) {
      boolean ended = row.end() != null && !row.end().isAfter(moment);
      boolean asNow = ended || row.end() == null;
      RunState state = asNow ? RunState.of(row.state()).orElseThrow() : RunState.RUNNING;
      return new Run(
          UUID.fromString(row.ref().substring(Reference.RUN_PREFIX.length())),
          row.start(),
          ended ? row.end() : null,
          state,
          row.error(),
          row.rowsWritten());
    }

    @Override
    public Collection<List<CheckResult>> checks(String dataset) {
      var byCheck = new LinkedHashMap<String, List<CheckResult>>();
      List<String> parts = catalog.asset(dataset).map(Asset::parts).orElse(List.of(dataset));
      for (RunReader.CheckRow row : runs.checks(parts, moment, 200)) {
        if (row.status().equals("skip")) {
          continue; // it says nothing about the data
        }
        byCheck
            .computeIfAbsent(row.name() + "\n" + row.column(), k -> new ArrayList<>())
            .add(new CheckResult(row.name(), row.at(), row.passed(), row.column(), row.detail()));
      }
      return byCheck.values();
    }
  }
}
