package longthread.client;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import longthread.core.asset.Reference;
import longthread.core.gate.FoundChange;
import longthread.core.gate.GatePolicy;
import org.jspecify.annotations.Nullable;

/** Holds what changes do against a policy. */
final class GateDecisions {
  private final GateJudge judge;
  private final GatePolicy policy;
  private final LocalDate today;
  private final Map<List<GateReport.Step>, GateJudge.Answer> asked = new HashMap<>();

  GateDecisions(GateJudge judge, GatePolicy policy, LocalDate today) {
    this.judge = judge;
    this.policy = policy;
    this.today = today;
  }

  /**
   * Judges steps together and decides about each item they touch.
   *
   * @param unknown changes of names that are not in the catalog
   * @param noted what is to be said besides
   */
  GateReport report(
      String title, List<GateReport.Step> steps, List<FoundChange> unknown, List<String> noted) {
    var notes = new ArrayList<>(noted);
    notes.addAll(judge.notes());
    policy
        .ended(today)
        .forEach(
            w ->
                notes.add(
                    "the waiver of " + w.of() + " ended on " + w.until() + ": " + w.reason()));
    var findings = new ArrayList<GateReport.Finding>();
    var full = new ArrayList<GateReport.Step>();
    List<GateReport.Step> judged = withLineage(steps, full, notes);
    if (!judged.isEmpty()) {
      GateJudge.Answer answer = together(judged);
      List<GateReport.Step> named = fullNames(judged, answer);
      full.addAll(named);
      noteUnread(named, notes);
      List<Cause> causes = causes(named);
      for (GateJudge.Touched item : answer.items()) {
        findings.add(finding(item, decided(item, causes), named));
      }
      if (answer.total() > findings.size()) {
        notes.add(
            "only the worst "
                + findings.size()
                + " of "
                + answer.total()
                + " items were held against the policy; the rest are no worse");
      }
    }
    findings.sort(Comparator.comparing(GateReport.Finding::decision));
    return new GateReport(title, full, findings, unknown, policy.unknown(), notes);
  }

  /**
   * The steps that can be judged; of the others a note says why not, and they are put in {@code
   * others}.
   */
  private List<GateReport.Step> withLineage(
      List<GateReport.Step> steps, List<GateReport.Step> others, List<String> notes) {
    if (steps.isEmpty() || isJudged(steps, null)) {
      return steps; // nearly always
    }
    var judged = new ArrayList<GateReport.Step>();
    for (GateReport.Step step : steps) {
      if (isJudged(List.of(step), notes)) {
        judged.add(step);
      } else {
        others.add(step);
      }
    }
    return judged;
  }

  private boolean isJudged(List<GateReport.Step> steps, @Nullable List<String> notes) {
    try {
      ask(steps);
      return true;
    } catch (GateJudge.NoLineageException e) {
      if (notes != null) {
        notes.add(e.getMessage() + "; it was not judged");
      }
      return false;
    }
  }

  private GateJudge.Answer ask(List<GateReport.Step> steps) throws GateJudge.NoLineageException {
    GateJudge.Answer answer = asked.get(steps);
    if (answer == null) {
      answer = judge.judge(steps);
      asked.put(steps, answer);
    }
    return answer;
  }

  /** What steps do of which each has lineage. */
  private GateJudge.Answer together(List<GateReport.Step> steps) {
    try {
      return ask(steps);
    } catch (GateJudge.NoLineageException e) {
      // It had lineage a moment ago: it was taken out of the catalog meanwhile.
      throw new ServiceException(ServiceException.NOT_FOUND, String.valueOf(e.getMessage()));
    }
  }

  /**
   * Says of which assets nothing is known that reads them: that nothing is touched proves little.
   */
  private void noteUnread(List<GateReport.Step> steps, List<String> notes) {
    var assets = new LinkedHashSet<String>();
    steps.forEach(step -> assets.add(Reference.assetOf(step.ref())));
    for (String asset : assets) {
      if (!Reference.isJob(asset) && !Reference.isSystem(asset) && !judge.isRead(asset)) {
        notes.add(
            "nothing is known that reads "
                + asset
                + "; if something does, it reports no lineage and was not judged");
      }
    }
  }

  /**
   * Steps on which a policy may say different things, with what they alone do: an item may pass for
   * a rename, and yet fail for a drop that is planned with it.
   *
   * @param items by reference
   */
  private record Cause(String change, Set<String> changed, Map<String, GateJudge.Touched> items) {}

  private List<Cause> causes(List<GateReport.Step> steps) {
    var groups = new LinkedHashMap<List<String>, List<GateReport.Step>>();
    for (GateReport.Step step : steps) {
      boolean waived = policy.waivers().stream().anyMatch(w -> w.of().equals(step.ref()));
      groups
          .computeIfAbsent(List.of(step.change(), waived ? step.ref() : ""), k -> new ArrayList<>())
          .add(step);
    }
    var causes = new ArrayList<Cause>();
    groups.forEach(
        (group, some) -> {
          var items = new HashMap<String, GateJudge.Touched>();
          together(some).items().forEach(item -> items.put(item.ref(), item));
          Set<String> changed = some.stream().map(GateReport.Step::ref).collect(Collectors.toSet());
          causes.add(new Cause(group.get(0), changed, items));
        });
    return causes;
  }

  /** The strictest of what the policy says of an item for each of its causes. */
  private GatePolicy.Decided decided(GateJudge.Touched touched, List<Cause> causes) {
    GatePolicy.Item whole = touched.item();
    var all = new ArrayList<GatePolicy.Decided>();
    boolean alone = false; // whether one cause does by itself what all do together
    for (Cause cause : causes) {
      GateJudge.Touched own = cause.items().get(whole.ref());
      if (own != null) {
        GatePolicy.Item one = own.item();
        alone |= one.equals(whole);
        all.add(policy.decide(one, Set.of(cause.change()), cause.changed(), today));
      }
    }
    if (!alone) {
      for (Cause cause : causes) {
        all.add(policy.decide(whole, Set.of(cause.change()), cause.changed(), today));
      }
    }
    return all.stream().min(Comparator.comparing(GatePolicy.Decided::decision)).orElseThrow();
  }

  private static List<GateReport.Step> fullNames(
      List<GateReport.Step> steps, GateJudge.Answer answer) {
    var full = new ArrayList<GateReport.Step>();
    for (int i = 0; i < steps.size(); i++) {
      GateReport.Step step = steps.get(i);
      full.add(new GateReport.Step(step.change(), answer.refs().get(i), step.to(), step.seen()));
    }
    return full;
  }

  private static GateReport.Finding finding(
      GateJudge.Touched item, GatePolicy.Decided decided, List<GateReport.Step> steps) {
    return new GateReport.Finding(
        item.ref(),
        item.kind(),
        item.name(),
        item.verdict(),
        item.certainty(),
        item.hops(),
        item.owners(),
        decided.decision(),
        decided.why(),
        String.join(" → ", item.thread()),
        item.url(),
        placeOf(item, steps));
  }

  /** Where in the files the change stands that touches an item: the one its thread begins at. */
  private static @Nullable FoundChange placeOf(
      GateJudge.Touched item, List<GateReport.Step> steps) {
    String start = item.thread().isEmpty() ? item.ref() : item.thread().get(0);
    String asset = Reference.assetOf(start);
    return steps.stream()
        .filter(step -> step.seen() != null)
        .min(
            Comparator.comparing((GateReport.Step step) -> !step.ref().equals(start))
                .thenComparing(step -> !Reference.assetOf(step.ref()).equals(asset)))
        .map(GateReport.Step::seen)
        .orElse(null);
  }
}
