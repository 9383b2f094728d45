package longthread.service.planned;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import longthread.core.asset.Reference;
import longthread.core.change.ChangeDocument;
import longthread.core.json.CanonicalJson;
import longthread.service.impact.ChangeJudge;
import longthread.service.storage.StoredText;
import longthread.service.storage.planned.PlannedQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpStatus;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Service;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** Keeps planned changes, judges the open ones again, and notes what their owners answer. */
@Service
class PlannedBoard {
  private static final Logger LOG = LoggerFactory.getLogger(PlannedBoard.class);
  private static final JsonMapper JSON = CanonicalJson.MAPPER;
  private static final List<String> OPEN = List.of("proposed", "agreed");
  static final List<String> STATES = List.of("proposed", "agreed", "done", "withdrawn");
  private static final Map<String, List<String>> NEXT =
      Map.of(
          "proposed", List.of("agreed", "done", "withdrawn"),
          "agreed", List.of("proposed", "done", "withdrawn"),
          "done", List.of(),
          "withdrawn", List.of());
  private static final List<String> VERDICTS =
      List.of("breaks", "goes-stale", "values-shift", "rows-shift");
  private static final long JUDGE_EVERY_MILLIS = 20_000;
  private static final int MAX_DRIFT = 40;

  private final PlannedQueries stored;
  private final ChangeJudge judge;
  private final Outcomes outcomes;
  private final Clock clock;
  private final Map<String, String> problems = new java.util.concurrent.ConcurrentHashMap<>();

  PlannedBoard(PlannedQueries stored, ChangeJudge judge, Outcomes outcomes, Clock clock) {
    this.stored = stored;
    this.judge = judge;
    this.outcomes = outcomes;
    this.clock = clock;
  }

  /** Judges a change and keeps it. */
  Plan propose(ChangeDocument document, String by) {
    ChangeJudge.Judgement judgement = judge.judge(document.steps());
    Instant now = clock.instant();
    String id = UUID.randomUUID().toString();
    stored.add(
        id,
        document.title(),
        document.reason(),
        document.author() == null ? by : document.author(),
        document.planned(),
        JSON.writeValueAsString(judgement.steps()),
        by,
        now,
        judgement.graph(),
        packed(judgement));
    return one(id);
  }

  /** A planned change, judged as of now if it is open. */
  Plan one(String id) {
    PlannedQueries.Plan plan =
        stored
            .plan(id)
            .orElseThrow(
                () ->
                    new ProblemException(
                        HttpStatus.NOT_FOUND,
                        "unknown-change",
                        "There is no such planned change",
                        "no planned change has the id "
                            + id
                            + "; GET /api/v1/planned-changes lists them"));
    return shown(judgedAgain(plan), true, answers(List.of(plan)).getOrDefault(plan.id(), Map.of()));
  }

  /**
   * Planned changes, newest first, as they were judged last, without items and outcome: a list
   * stands on every page, and judging all that is open takes long.
   */
  List<Plan> list(@Nullable String state, @Nullable String ref) {
    List<PlannedQueries.Plan> all = state == null ? stored.all() : stored.in(new String[] {state});
    List<PlannedQueries.Plan> listed =
        all.stream().filter(plan -> ref == null || touches(plan, ref)).toList();
    Map<String, Map<String, PlannedQueries.Answer>> answers = answers(listed);
    return listed.stream()
        .map(plan -> shown(plan, false, answers.getOrDefault(plan.id(), Map.of())))
        .toList();
  }

  /** The answers to changes, by change and owner. */
  private Map<String, Map<String, PlannedQueries.Answer>> answers(List<PlannedQueries.Plan> plans) {
    var byChange = new HashMap<String, Map<String, PlannedQueries.Answer>>();
    stored
        .answers(plans.stream().map(PlannedQueries.Plan::id).toArray(String[]::new))
        .forEach(
            answer ->
                byChange
                    .computeIfAbsent(answer.change(), k -> new HashMap<>())
                    .put(answer.owner(), answer));
    return byChange;
  }

  private boolean touches(PlannedQueries.Plan plan, String ref) {
    ChangeJudge.Judgement judgement = judgement(plan.judged());
    return judgement.steps().stream().anyMatch(s -> Reference.assetOf(s.of()).equals(ref))
        || judgement.items().stream().anyMatch(item -> Reference.assetOf(item.ref()).equals(ref));
  }

  /** Two planned changes side by side: what each does to everything that either touches. */
  Plan.Compared compare(String id, String otherId) {
    Plan one = one(id);
    Plan other = one(otherId);
    var byRef = new LinkedHashMap<String, Plan.PlanItem>();
    other.items().forEach(item -> byRef.put(item.ref(), item));
    var items = new ArrayList<Plan.ComparedItem>();
    for (Plan.PlanItem item : one.items()) {
      items.add(compared(item, item, byRef.remove(item.ref())));
    }
    byRef.values().forEach(item -> items.add(compared(item, null, item)));
    items.sort(Comparator.comparing(Plan.ComparedItem::same));
    int different = (int) items.stream().filter(item -> !item.same()).count();
    return new Plan.Compared(one.id(), one.title(), other.id(), other.title(), different, items);
  }

  private static Plan.ComparedItem compared(
      Plan.PlanItem any, Plan.@Nullable PlanItem one, Plan.@Nullable PlanItem other) {
    boolean same =
        one != null
            && other != null
            && one.verdict().equals(other.verdict())
            && one.certainty().equals(other.certainty());
    return new Plan.ComparedItem(
        any.ref(),
        any.kind(),
        any.name(),
        one == null ? null : one.verdict(),
        one == null ? null : one.certainty(),
        other == null ? null : other.verdict(),
        other == null ? null : other.certainty(),
        same);
  }

  Plan move(String id, String to, String by) {
    Plan plan = one(id);
    if (!NEXT.getOrDefault(plan.state(), List.of()).contains(to)) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "bad-transition",
          "The state cannot be reached from here",
          "a change that is "
              + plan.state()
              + " cannot become "
              + to
              + (NEXT.getOrDefault(plan.state(), List.of()).isEmpty()
                  ? "; plan another one"
                  : "; it can become "
                      + String.join(", ", NEXT.getOrDefault(plan.state(), List.of()))));
    }
    if (stored.move(id, plan.state(), to, by, clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "changed-meanwhile",
          "Somebody else changed it",
          "the change is no longer " + plan.state() + "; look at it again");
    }
    return one(id);
  }

  Plan answer(String id, String owner, String answer, @Nullable String note, String by) {
    Plan plan = one(id);
    if (!OPEN.contains(plan.state())) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "not-open",
          "The change is not open",
          "the change is " + plan.state() + ", so nothing more is answered to it");
    }
    if (plan.owners().stream().noneMatch(one -> one.owner().equals(owner))) {
      throw ProblemException.badRequest(
          "unknown-owner",
          "'"
              + owner
              + "' owns nothing that the change touches; its owners are "
              + String.join(", ", plan.owners().stream().map(Plan.ConcernedOwner::owner).toList()));
    }
    stored.answer(id, owner, answer, note, by, clock.instant());
    return one(id);
  }

  // ------------------------------------------------------------------ judging again

  @Scheduled(fixedDelay = JUDGE_EVERY_MILLIS, initialDelay = JUDGE_EVERY_MILLIS)
  void judgeOpen() {
    try {
      stored.in(OPEN.toArray(String[]::new)).forEach(this::judgedAgain);
    } catch (DataAccessException e) {
      LOG.warn("planned changes are judged again later: {}", e.getMessage());
    }
  }

  private PlannedQueries.Plan judgedAgain(PlannedQueries.Plan plan) {
    if (!OPEN.contains(plan.state()) || plan.graph() == judge.graph()) {
      return plan;
    }
    try {
      List<ChangeDocument.Step> steps =
          judgement(plan.judged()).steps().stream()
              .map(s -> new ChangeDocument.Step(s.change(), s.of(), s.to()))
              .toList();
      ChangeJudge.Judgement judgement = judge.judge(steps);
      stored.judge(plan.id(), packed(judgement), clock.instant(), judgement.graph());
      problems.remove(plan.id());
      return stored.plan(plan.id()).orElse(plan);
    } catch (ProblemException e) {
      // What it was to change is gone or has another name: it stands as it was judged last.
      problems.put(plan.id(), String.valueOf(e.getMessage()));
      return plan;
    }
  }

  private static byte[] packed(ChangeJudge.Judgement judgement) {
    return StoredText.packed(JSON.writeValueAsString(judgement));
  }

  private static ChangeJudge.Judgement judgement(byte @Nullable [] packed) {
    return packed == null
        ? new ChangeJudge.Judgement(List.of(), Map.of(), List.of(), 0)
        : JSON.readValue(StoredText.text(packed), new TypeReference<ChangeJudge.Judgement>() {});
  }

  // ------------------------------------------------------------------ showing

  private Plan shown(
      PlannedQueries.Plan plan, boolean whole, Map<String, PlannedQueries.Answer> answers) {
    ChangeJudge.Judgement now = judgement(plan.judged());
    var verdicts = new LinkedHashMap<String, Integer>();
    VERDICTS.forEach(verdict -> verdicts.put(verdict, 0));
    now.items().forEach(item -> verdicts.merge(item.verdict(), 1, Integer::sum));
    return new Plan(
        plan.id(),
        plan.title(),
        plan.reason(),
        plan.author(),
        plan.plannedAt(),
        now.steps().stream().map(s -> new Plan.PlanStep(s.change(), s.of(), s.to())).toList(),
        plan.state(),
        plan.madeBy(),
        plan.madeAt(),
        plan.changedBy(),
        plan.changedAt(),
        plan.doneAt(),
        plan.judgedAt(),
        verdicts,
        whole ? items(now) : List.of(),
        whole ? since(judgement(plan.first()), now) : List.of(),
        owners(now, answers),
        whole && plan.doneAt() != null ? outcomes.of(now, plan.doneAt()) : null,
        problems.get(plan.id()));
  }

  private static List<Plan.PlanItem> items(ChangeJudge.Judgement judgement) {
    return judgement.items().stream()
        .map(
            i ->
                new Plan.PlanItem(
                    i.ref(), i.kind(), i.name(), i.verdict(), i.certainty(), i.hops(), i.owners()))
        .toList();
  }

  /** What is judged otherwise than when it was proposed, in words. */
  static List<String> since(ChangeJudge.Judgement first, ChangeJudge.Judgement now) {
    var before = new HashMap<String, ChangeJudge.JudgedItem>();
    first.items().forEach(item -> before.put(item.ref(), item));
    var words = new ArrayList<String>();
    for (ChangeJudge.JudgedItem item : now.items()) {
      ChangeJudge.JudgedItem old = before.remove(item.ref());
      if (old == null) {
        words.add(item.name() + " " + spoken(item) + ", which it did not when it was proposed");
      } else if (!old.verdict().equals(item.verdict())
          || !old.certainty().equals(item.certainty())) {
        words.add(item.name() + " " + spoken(item) + "; before, it " + spoken(old));
      }
    }
    before
        .values()
        .forEach(old -> words.add(old.name() + " is no longer touched; before, it " + spoken(old)));
    return words.size() > MAX_DRIFT ? words.subList(0, MAX_DRIFT) : words;
  }

  private static String spoken(ChangeJudge.JudgedItem item) {
    String verdict = item.verdict().replace('-', ' ').replace(" shift", "");
    String words =
        switch (item.verdict()) {
          case "values-shift" -> "shifts in values";
          case "rows-shift" -> "shifts in rows";
          default -> verdict;
        };
    return item.certainty().equals("possible") ? "possibly " + words : words;
  }

  private static List<Plan.ConcernedOwner> owners(
      ChangeJudge.Judgement judgement, Map<String, PlannedQueries.Answer> answers) {
    var worst = new TreeMap<String, String>();
    var items = new HashMap<String, Integer>();
    for (ChangeJudge.JudgedItem item : judgement.items()) {
      for (String owner : item.owners()) {
        items.merge(owner, 1, Integer::sum);
        worst.merge(
            owner, item.verdict(), (a, b) -> VERDICTS.indexOf(a) <= VERDICTS.indexOf(b) ? a : b);
      }
    }
    var owners = new ArrayList<Plan.ConcernedOwner>();
    worst.forEach(
        (owner, verdict) -> {
          PlannedQueries.Answer answer = answers.get(owner);
          owners.add(
              new Plan.ConcernedOwner(
                  owner,
                  items.getOrDefault(owner, 0),
                  verdict,
                  answer == null ? null : answer.answer(),
                  answer == null ? null : answer.note(),
                  answer == null ? null : answer.by(),
                  answer == null ? null : answer.at()));
        });
    owners.sort(
        Comparator.comparing((Plan.ConcernedOwner o) -> VERDICTS.indexOf(o.worst()))
            .thenComparing(Plan.ConcernedOwner::owner));
    return owners;
  }
}
