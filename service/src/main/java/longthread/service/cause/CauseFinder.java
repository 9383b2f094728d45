package longthread.service.cause;

import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.Arrays;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.OptionalInt;
import java.util.Set;
import longthread.core.asset.Kind;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.cause.CauseSearch;
import longthread.core.cause.Causes;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;
import longthread.core.trust.Supply;
import longthread.service.health.StoredHealth;
import longthread.service.job.JobParts;
import longthread.service.lineage.Hops;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.Dependents;
import longthread.service.live.GraphFollower;
import longthread.service.live.References;
import longthread.service.runs.RunReader;
import longthread.service.runs.Writers;
import longthread.service.storage.runs.HealthQueries;
import longthread.service.storage.runs.RunSearch;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Why something is wrong or late. */
@Service
public class CauseFinder {
  /**
   * The symptom: what is asked about.
   *
   * @param kind what it is, such as a report
   * @param written when it was last written
   * @param symptom what is seen: any, late, wrong-values, missing-rows or failed-check
   * @param goodUntil up to when it is taken to have been right; what deviated since is gathered
   * @param oldestInput the source behind it whose data is the oldest; absent if nothing is upstream
   * @param oldestAt when that was last taken from there
   */
  public record Symptom(
      String ref,
      String name,
      String kind,
      @Nullable Instant written,
      @Nullable String state,
      String symptom,
      Instant goodUntil,
      @Nullable String oldestInput,
      @Nullable Instant oldestAt) {}

  public record Incident(
      String ref,
      String name,
      String kind,
      String what,
      @Nullable String column,
      Instant at,
      String evidence,
      @Nullable String error,
      List<Owner> owners) {}

  /**
   * What a score is the product of, each from 0 to 1; what it explains counts for half.
   *
   * @param kind how well this sort of deviation explains the symptom
   * @param time 1 if it is still so, less if it is over
   * @param thread how certain the thread is
   * @param explains the share of what went wrong on the threads that it accounts for
   * @param rarity 1 if that never happened there before
   */
  public record ScoreParts(
      double kind, double time, double thread, double explains, double rarity) {}

  /**
   * A suspect.
   *
   * @param unobserved sources right behind it that nothing reports about
   * @param affects how many reports, dashboards and other assets lie downstream of it
   * @param affected some of those that people look at
   * @param toolUrl its page in its own tool
   * @param proposedNotice a text for a notice to those who are affected
   */
  public record Suspect(
      String ref,
      String name,
      String kind,
      String what,
      @Nullable String column,
      Instant at,
      double score,
      ScoreParts parts,
      String evidence,
      @Nullable String error,
      List<Hops.Hop> thread,
      List<Owner> owners,
      List<Incident> explains,
      List<UnobservedSource> unobserved,
      int affects,
      List<String> affected,
      String toConfirm,
      String toRuleOut,
      String proposedNotice,
      @Nullable String toolUrl) {}

  /** A source that no job is known to write. */
  public record UnobservedSource(String ref, String name, List<Owner> owners) {}

  /** Something that went wrong too, but only because of a suspect. */
  public record Explained(
      String ref,
      String name,
      String what,
      @Nullable String column,
      Instant at,
      String evidence,
      @Nullable String error,
      String by) {}

  /**
   * The answer.
   *
   * @param suspectCount of all suspects; those that are listed are the likeliest
   * @param explainedCount of all that follows from a suspect
   * @param changeCount of all changes that nothing measured follows
   */
  public record CauseAnswer(
      Symptom symptom,
      Instant at,
      List<Suspect> suspects,
      int suspectCount,
      List<Explained> explained,
      int explainedCount,
      List<Incident> changes,
      int changeCount,
      @Nullable Instant expectedRecovery) {}

  private static final Set<Kind> SHOWN = Set.of(Kind.REPORT, Kind.DASHBOARD);
  private static final int MAX_AFFECTED = 6; // names that are shown
  private static final int MAX_SUSPECTS = 20; // beyond that nobody looks for the cause
  private static final int MAX_OTHERS = 200;
  private static final int NEAR = 2_000; // assets within which most find names enough
  private static final DateTimeFormatter TIME =
      DateTimeFormatter.ofPattern("d MMM yyyy, HH:mm", Locale.ENGLISH).withZone(ZoneOffset.UTC);

  private final Catalog catalog;
  private final GraphFollower follower;
  private final RunReader runs;
  private final JobParts jobParts;
  private final Writers writers;
  private final HealthQueries health;
  private final Dependents dependents;

  CauseFinder(
      Catalog catalog,
      GraphFollower follower,
      RunReader runs,
      JobParts jobParts,
      Writers writers,
      HealthQueries health,
      Dependents dependents) {
    this.dependents = dependents;
    this.catalog = catalog;
    this.follower = follower;
    this.runs = runs;
    this.jobParts = jobParts;
    this.writers = writers;
    this.health = health;
  }

  /**
   * The causes of a symptom as of a moment.
   *
   * @param goodUntil up to when it was known to be right; null if nobody knows
   */
  @Transactional(readOnly = true)
  public CauseAnswer find(
      References.Named named,
      longthread.core.cause.Symptom symptom,
      Instant moment,
      @Nullable Instant goodUntil) {
    LineageGraph graph = follower.graph();
    int node = place(graph, named);
    var stored = new StoredHealth(health, runs, catalog, moment);
    Causes causes =
        CauseSearch.of(new CauseSearch.Question(graph, node, symptom, stored, moment, goodUntil));
    List<RunReader.RunRow> writes =
        named.asset().isJob()
            ? runs.runs(RunSearch.Filter.ofJobBefore(named.asset().ref(), moment), 1)
            : writers.of(named.asset());
    return new CauseAnswer(
        symptom(graph, named, symptom, writes, causes),
        moment,
        causes.suspects().stream()
            .limit(MAX_SUSPECTS)
            .map(suspect -> suspect(graph, suspect, causes.expectedRecovery()))
            .toList(),
        causes.suspects().size(),
        causes.effects().stream().limit(MAX_OTHERS).map(this::explained).toList(),
        causes.effects().size(),
        causes.changes().stream().limit(MAX_OTHERS).map(this::incident).toList(),
        causes.changes().size(),
        causes.expectedRecovery());
  }

  private Explained explained(Causes.Effect effect) {
    Causes.Incident incident = effect.incident();
    return new Explained(
        incident.ref(),
        name(incident.ref()),
        incident.what().word(),
        incident.column(),
        incident.at(),
        incident.evidence(),
        incident.error(),
        effect.by());
  }

  private Incident incident(Causes.Incident incident) {
    return new Incident(
        incident.ref(),
        name(incident.ref()),
        kind(incident.ref()),
        incident.what().word(),
        incident.column(),
        incident.at(),
        incident.evidence(),
        incident.error(),
        owners(incident.ref()));
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

  private Symptom symptom(
      LineageGraph graph,
      References.Named named,
      longthread.core.cause.Symptom symptom,
      List<RunReader.RunRow> writes,
      Causes causes) {
    RunReader.RunRow fresh = Writers.freshest(writes);
    Supply.Source oldest = causes.oldest();
    return new Symptom(
        named.ref(),
        named.asset().shown(),
        named.asset().kind().word(),
        fresh == null ? null : fresh.end(),
        writes.isEmpty() ? null : writes.get(0).state(),
        symptom.word(),
        causes.goodUntil(),
        oldest == null ? null : graph.assetReference(oldest.asset()),
        oldest == null ? null : oldest.takenAt());
  }

  private Suspect suspect(LineageGraph graph, Causes.Suspect suspect, @Nullable Instant recovery) {
    Causes.Incident incident = suspect.incident();
    Causes.Parts parts = suspect.parts();
    Affected affected = affected(graph, incident.ref());
    return new Suspect(
        incident.ref(),
        name(incident.ref()),
        kind(incident.ref()),
        incident.what().word(),
        incident.column(),
        incident.at(),
        rounded(suspect.score()),
        new ScoreParts(
            rounded(parts.kind()),
            rounded(parts.time()),
            rounded(parts.thread()),
            rounded(parts.explains()),
            rounded(parts.rarity())),
        incident.evidence(),
        incident.error(),
        Hops.of(graph, suspect.thread(), catalog),
        owners(incident.ref()),
        suspect.explains().stream().limit(MAX_OTHERS).map(this::incident).toList(),
        suspect.unobserved().stream()
            .map(ref -> new UnobservedSource(ref, name(ref), owners(ref)))
            .toList(),
        affected.count(),
        affected.names(),
        suspect.toConfirm(),
        suspect.toRuleOut(),
        proposedNotice(incident, recovery),
        catalog.asset(incident.ref()).map(asset -> asset.card().url()).orElse(null));
  }

  /** What to tell those who are affected: what is wrong, since when, and until when. */
  private String proposedNotice(Causes.Incident incident, @Nullable Instant recovery) {
    String until =
        recovery == null ? "" : " It should be right again by " + TIME.format(recovery) + " UTC.";
    return name(incident.ref())
        + ": "
        + incident.evidence()
        + ", since "
        + TIME.format(incident.at())
        + " UTC."
        + until;
  }

  private static double rounded(double share) {
    return Math.round(share * 100) / 100.0;
  }

  /** How much lies downstream, and some of it that people look at, the nearest. */
  private record Affected(int count, List<String> names) {}

  /** What lies downstream of a job's outputs or of a dataset. */
  private Affected affected(LineageGraph graph, String ref) {
    int[] starts = places(graph, ref);
    Affected near = affected(graph, starts, NEAR);
    boolean enough = near.names().size() == MAX_AFFECTED && starts.length == 1;
    if (enough) {
      String place = graph.assetReference(graph.assetOf(starts[0]));
      return new Affected(Math.max(near.count(), dependents.of(place)), near.names());
    }
    return near.count() + starts.length < NEAR ? near : affected(graph, starts, Integer.MAX_VALUE);
  }

  private Affected affected(LineageGraph graph, int[] starts, int most) {
    Reach reach = Walk.assets(graph, starts, Direction.DOWNSTREAM, Integer.MAX_VALUE, most);
    Set<String> names = new LinkedHashSet<>();
    int count = 0;
    for (int i = 0; i < reach.size(); i++) {
      if (reach.hops()[i] == 0) {
        continue;
      }
      count++;
      if (names.size() < MAX_AFFECTED) {
        catalog
            .asset(graph.assetReference(graph.assetOf(reach.nodes()[i])))
            .filter(asset -> SHOWN.contains(asset.kind()))
            .ifPresent(asset -> names.add(asset.shown()));
      }
    }
    return new Affected(count, List.copyOf(names));
  }

  /** The rows of a dataset, or of what a job writes. */
  private int[] places(LineageGraph graph, String ref) {
    OptionalInt owner = Reference.isJob(ref) ? graph.ownerOrdinal(ref) : OptionalInt.empty();
    if (owner.isPresent() && graph.targetsOf(owner.getAsInt()).length > 0) {
      return Arrays.stream(graph.targetsOf(owner.getAsInt())).map(graph::rowsOf).toArray();
    }
    // A job that reads nothing states no links.
    List<String> starts = Reference.isJob(ref) ? jobParts.of(ref).outputs() : List.of(ref);
    return starts.stream()
        .map(graph::asset)
        .filter(OptionalInt::isPresent)
        .mapToInt(found -> graph.rowsOf(found.getAsInt()))
        .toArray();
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
}
