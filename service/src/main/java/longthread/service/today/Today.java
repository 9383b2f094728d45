package longthread.service.today;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import longthread.core.asset.Kind;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.cause.Causes;
import longthread.core.cause.EstateHealth;
import longthread.core.cause.Symptom;
import longthread.core.graph.LineageGraph;
import longthread.service.cause.CauseFinder;
import longthread.service.coverage.BlindSpots;
import longthread.service.health.AssetHealth;
import longthread.service.health.HealthBoard;
import longthread.service.intake.Emitters;
import longthread.service.intake.IntakeStatus;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.References;
import longthread.service.notices.Notice;
import longthread.service.notices.NoticeBoard;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;

/** All that needs somebody, in one answer. */
@Service
class Today {
  private static final Set<Kind> SHOWN = Set.of(Kind.REPORT, Kind.DASHBOARD);
  private static final Duration NEW = Duration.ofDays(7);
  private static final Duration SPOTS_KEPT = Duration.ofMinutes(1);
  private static final int MAX_CAUSES = 50;
  private static final int MAX_LATE = 100;
  private static final int MAX_EXPECTED = 20; // reports whose recovery is reckoned
  private static final int MAX_NAMES = 6;
  private static final int MAX_SPOTS = 10;

  /**
   * A cause, not an effect.
   *
   * @param what failed, missing, late, empty and so on
   * @param state the health word that it amounts to
   * @param affects how many assets rest on it
   * @param pages some of the reports and dashboards among them
   * @param effects what follows from it
   */
  record TodayCause(
      String ref,
      String name,
      String kind,
      String what,
      String state,
      @Nullable String column,
      Instant since,
      String evidence,
      @Nullable String error,
      List<Owner> owners,
      int affects,
      List<PageName> pages,
      List<TodayEffect> effects) {}

  /** A report or dashboard. */
  record PageName(String ref, String name) {}

  record TodayEffect(String ref, String name, String what, Instant since) {}

  /**
   * A report or dashboard that something is wrong with, itself or upstream.
   *
   * @param cause the reference of the cause
   * @param expectedAt when it should be right again; absent where that is not known
   */
  record TodayPage(
      String ref,
      String name,
      String kind,
      AssetHealth health,
      List<Owner> owners,
      @Nullable String cause,
      @Nullable String causeName,
      @Nullable Instant expectedAt) {}

  /** Blind spots that came up within a week. */
  record TodaySpots(int total, int fresh, List<BlindSpots.BlindSpot> newest) {}

  /**
   * How the intake does.
   *
   * @param silent the emitters that are silent for longer than they ever rest
   */
  record TodayIntake(
      boolean applying,
      double lagSeconds,
      long waiting,
      long refused,
      @Nullable Instant newest,
      List<String> silent) {}

  record TodayAnswer(
      Instant at,
      int causeCount,
      List<TodayCause> causes,
      int pageCount,
      List<TodayPage> pages,
      List<Notice> notices,
      TodaySpots blindSpots,
      TodayIntake intake) {}

  private record Spots(Instant at, List<BlindSpots.BlindSpot> all) {}

  private record Expected(EstateHealth estate, Map<String, Optional<Instant>> byPage) {}

  private final HealthBoard health;
  private final Catalog catalog;
  private final References references;
  private final CauseFinder causeFinder;
  private final NoticeBoard notices;
  private final BlindSpots blindSpots;
  private final IntakeStatus intake;
  private final Emitters emitters;
  private final Clock clock;
  private volatile @Nullable Spots spots;
  private volatile @Nullable Expected expected;

  Today(
      HealthBoard health,
      Catalog catalog,
      References references,
      CauseFinder causeFinder,
      NoticeBoard notices,
      BlindSpots blindSpots,
      IntakeStatus intake,
      Emitters emitters,
      Clock clock) {
    this.health = health;
    this.catalog = catalog;
    this.references = references;
    this.causeFinder = causeFinder;
    this.notices = notices;
    this.blindSpots = blindSpots;
    this.intake = intake;
    this.emitters = emitters;
    this.clock = clock;
  }

  /**
   * All that needs somebody.
   *
   * @param owner only what they own, or what what they own rests on; null for everybody
   */
  TodayAnswer now(@Nullable String owner) {
    EstateHealth estate = health.estate();
    LineageGraph graph = estate.graph();
    List<EstateHealth.Cause> causes =
        graph == null
            ? List.of()
            : estate.causes().stream()
                .filter(cause -> owner == null || concerns(graph, estate, cause, owner))
                .toList();
    List<TodayPage> pages = graph == null ? List.of() : pages(graph, estate, owner);
    List<Notice> active =
        notices.all().stream()
            .filter(Notice::isActive)
            .filter(
                notice ->
                    owner == null
                        || notices.affected(notice).stream().anyMatch(a -> isOwned(a, owner)))
            .toList();
    return new TodayAnswer(
        health.judgedAt(),
        causes.size(),
        causes.stream()
            .sorted(
                Comparator.comparingInt(EstateHealth.Cause::affects)
                    .thenComparing(EstateHealth.Cause::state)
                    .reversed())
            .limit(MAX_CAUSES)
            .map(cause -> cause(java.util.Objects.requireNonNull(graph), estate, cause))
            .toList(),
        pages.size(),
        pages.stream().limit(MAX_LATE).toList(),
        active,
        spots(owner),
        intake());
  }

  private static boolean isOwned(Asset asset, String owner) {
    return asset.ownerNames().contains(owner);
  }

  private boolean concerns(
      LineageGraph graph, EstateHealth estate, EstateHealth.Cause cause, String owner) {
    return catalog.asset(cause.incident().ref()).filter(a -> isOwned(a, owner)).isPresent()
        || !estate
            .affected(
                cause,
                at ->
                    catalog
                        .asset(graph.assetReference(at))
                        .filter(a -> isOwned(a, owner))
                        .isPresent())
            .isEmpty();
  }

  private TodayCause cause(LineageGraph graph, EstateHealth estate, EstateHealth.Cause cause) {
    Causes.Incident incident = cause.incident();
    List<PageName> shown =
        estate.affected(cause, at -> isShown(graph.assetReference(at))).stream()
            .map(at -> graph.assetReference(at))
            .map(ref -> new PageName(ref, name(ref)))
            .limit(MAX_NAMES)
            .toList();
    return new TodayCause(
        incident.ref(),
        name(incident.ref()),
        catalog.asset(incident.ref()).map(a -> a.kind().word()).orElse("dataset"),
        incident.what().word(),
        cause.state().word(),
        incident.column(),
        incident.at(),
        incident.evidence(),
        incident.error(),
        owners(incident.ref()),
        cause.affects(),
        shown,
        cause.effects().stream()
            .limit(MAX_NAMES)
            .map(
                effect ->
                    new TodayEffect(
                        effect.ref(), name(effect.ref()), effect.what().word(), effect.at()))
            .toList());
  }

  private boolean isShown(String ref) {
    return catalog.asset(ref).filter(asset -> SHOWN.contains(asset.kind())).isPresent();
  }

  private String name(String ref) {
    return catalog.asset(ref).map(Asset::shown).orElse(ref);
  }

  /** Who to call; a task without owners has those of its pipeline. */
  private List<Owner> owners(String ref) {
    List<Owner> own = catalog.asset(ref).map(a -> a.card().owners()).orElse(List.of());
    int dot = ref.lastIndexOf('.');
    return own.isEmpty() && Reference.isJob(ref) && dot > 0
        ? catalog.asset(ref.substring(0, dot)).map(a -> a.card().owners()).orElse(List.of())
        : own;
  }

  // ------------------------------------------------------------------ reports

  private List<TodayPage> pages(LineageGraph graph, EstateHealth estate, @Nullable String owner) {
    var pages = new ArrayList<TodayPage>();
    for (Asset asset : catalog.all()) {
      if (!SHOWN.contains(asset.kind())
          || asset.card().retired()
          || (owner != null && !isOwned(asset, owner))) {
        continue;
      }
      int at = graph.asset(asset.ref()).orElse(-1);
      List<EstateHealth.Cause> upstream = at < 0 ? List.of() : estate.upstreamOf(at);
      if (!upstream.isEmpty()) {
        pages.add(page(asset, estate, upstream.get(0), pages.size() < MAX_EXPECTED));
      }
    }
    pages.sort(
        Comparator.comparing(
                (TodayPage page) -> page.expectedAt(), Comparator.nullsLast(Instant::compareTo))
            .thenComparing(TodayPage::name));
    return pages;
  }

  private TodayPage page(
      Asset asset, EstateHealth estate, EstateHealth.Cause cause, boolean reckon) {
    return new TodayPage(
        asset.ref(),
        asset.shown(),
        asset.kind().word(),
        health.of(asset),
        asset.card().owners(),
        cause.incident().ref(),
        name(cause.incident().ref()),
        reckon ? expected(asset, estate) : null);
  }

  /** When a report should be right again, reckoned once for each state of the estate. */
  private @Nullable Instant expected(Asset asset, EstateHealth estate) {
    Expected known = expected;
    if (known == null || known.estate() != estate) {
      known = new Expected(estate, new HashMap<>());
      expected = known;
    }
    synchronized (known.byPage()) {
      return known
          .byPage()
          .computeIfAbsent(asset.ref(), ref -> Optional.ofNullable(recovery(ref)))
          .orElse(null);
    }
  }

  private @Nullable Instant recovery(String ref) {
    try {
      return causeFinder
          .find(references.resolve(ref), Symptom.ANY, clock.instant(), null)
          .expectedRecovery();
    } catch (ProblemException e) {
      return null; // nothing is known upstream of it
    }
  }

  // ------------------------------------------------------------------ blind spots, intake

  private TodaySpots spots(@Nullable String owner) {
    Instant now = clock.instant();
    Spots known = spots;
    if (known == null || known.at().plus(SPOTS_KEPT).isBefore(now)) {
      known = new Spots(now, blindSpots.all(null, null, false));
      spots = known;
    }
    List<BlindSpots.BlindSpot> all =
        known.all().stream()
            .filter(spot -> owner == null || spot.owners().contains(owner))
            .toList();
    List<BlindSpots.BlindSpot> fresh =
        all.stream()
            .filter(spot -> spot.since() != null && spot.since().plus(NEW).isAfter(now))
            .toList();
    return new TodaySpots(all.size(), fresh.size(), fresh.stream().limit(MAX_SPOTS).toList());
  }

  private TodayIntake intake() {
    IntakeStatus.Brief brief = intake.brief();
    return new TodayIntake(
        brief.applying(),
        brief.lagSeconds(),
        brief.waiting(),
        brief.refused(),
        brief.newest(),
        emitters.all().stream()
            .filter(emitter -> emitter.overdueSince() != null)
            .map(Emitters.Emitter::namespace)
            .distinct()
            .toList());
  }
}
