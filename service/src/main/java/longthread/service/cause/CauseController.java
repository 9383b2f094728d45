package longthread.service.cause;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import longthread.core.asset.Owner;
import longthread.core.cause.CauseSearch;
import longthread.core.cause.Causes;
import longthread.core.cause.Health;
import longthread.core.graph.LineageGraph;
import longthread.core.history.RunState;
import longthread.service.catalog.Asset;
import longthread.service.catalog.Catalog;
import longthread.service.catalog.JobParts;
import longthread.service.catalog.References;
import longthread.service.catalog.RunReader;
import longthread.service.catalog.Writers;
import longthread.service.lineage.GraphFollower;
import longthread.service.lineage.Hops;
import longthread.service.web.ProblemException;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Why something is wrong or late. */
@RestController
class CauseController {
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

  private final References references;
  private final Catalog catalog;
  private final GraphFollower follower;
  private final RunReader runs;
  private final JobParts jobParts;
  private final Writers writers;
  private final Clock clock;

  CauseController(
      References references,
      Catalog catalog,
      GraphFollower follower,
      RunReader runs,
      JobParts jobParts,
      Writers writers,
      Clock clock) {
    this.references = references;
    this.catalog = catalog;
    this.follower = follower;
    this.runs = runs;
    this.jobParts = jobParts;
    this.writers = writers;
    this.clock = clock;
  }

  @GetMapping("/api/v1/causes")
  CauseAnswer causes(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable String at,
      @RequestParam(required = false) @Nullable String after) {
    follower.see(after);
    Instant moment = at == null ? clock.instant() : Times.parse(at);
    References.Named named = references.resolve(ref);
    LineageGraph graph = follower.graph();
    int node = place(graph, named);
    Causes causes = CauseSearch.of(graph, node, new StoredHealth(moment), moment);
    List<RunReader.RunRow> writes =
        named.asset().ref().startsWith("@")
            ? runs.runs(
                new RunReader.Wanted(named.asset().ref(), null, null, null, null, moment, false), 1)
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
    if (named.asset().ref().startsWith("@")) {
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
          "Nothing is known of its lineage",
          named.ref() + " has no upstream that any event told of, so no cause can be looked for");
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
    if (asset.card().owners().isEmpty() && ref.startsWith("@") && dot > 0) {
      return catalog.asset(ref.substring(0, dot)).map(p -> p.card().owners()).orElse(List.of());
    }
    return asset.card().owners();
  }

  /** Health as the stored runs and check results tell it. */
  private final class StoredHealth implements Health {
    private final Instant moment;

    StoredHealth(Instant moment) {
      this.moment = moment;
    }

    @Override
    public List<Run> runs(String job) {
      return runs
          .runs(
              new RunReader.Wanted(job, null, null, null, null, moment, false),
              CauseSearch.RUNS_WANTED)
          .stream()
          .map(this::run)
          .toList();
    }

    private Run run(RunReader.RunRow row) {
      boolean ended = row.end() != null && !row.end().isAfter(moment);
      RunState state =
          ended
              ? RunState.valueOf(row.state().toUpperCase(java.util.Locale.ROOT))
              : RunState.RUNNING;
      return new Run(
          java.util.UUID.fromString(row.ref().substring(4)),
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
          continue; // it tells nothing of the data
        }
        byCheck
            .computeIfAbsent(row.name() + "\n" + row.column(), k -> new ArrayList<>())
            .add(new CheckResult(row.name(), row.at(), row.passed(), row.column(), row.detail()));
      }
      return byCheck.values();
    }
  }
}
