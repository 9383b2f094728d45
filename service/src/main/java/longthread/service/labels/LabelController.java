package longthread.service.labels;

import io.swagger.v3.oas.annotations.Operation;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import longthread.core.label.ColumnRule;
import longthread.core.label.LabelSpread;
import longthread.service.live.LabelBoard;
import longthread.service.live.LabelMasks;
import longthread.service.live.LabelSettings;
import longthread.service.live.Receipts;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** Labels over HTTP. */
@RestController
class LabelController {
  private static final List<String> HOW =
      Arrays.stream(LabelSpread.How.values()).map(LabelBoard::word).toList();

  record LabelList(List<Labels.LabelCounts> items, @Nullable String cursor) {}

  /** What has a label; {@code total} counts all pages. */
  record LabelPlaces(
      Labels.LabelCounts label,
      List<Labels.LabelledPlace> items,
      int total,
      @Nullable String cursor) {}

  record NameRuleList(List<ListedRule> items, @Nullable String cursor) {}

  record StopList(List<ListedStop> items, @Nullable String cursor) {}

  record PolicyList(List<ListedPolicy> items, @Nullable String cursor) {}

  record MaskList(List<ListedMask> items, @Nullable String cursor) {}

  record LabelCoverageList(List<LabelWork.LabelledSystem> items, @Nullable String cursor) {}

  record LabelSuggestionList(List<LabelWork.LabelSuggestion> items, @Nullable String cursor) {}

  record DisagreementList(List<LabelWork.Disagreement> items, @Nullable String cursor) {}

  record ReviewList(List<LabelWork.Review> items, @Nullable String cursor) {}

  /** A rule that gives a label to columns, with its conditions. */
  record ListedRule(
      String id,
      String label,
      List<String> names,
      List<String> except,
      List<String> types,
      List<String> terms,
      List<String> systems,
      String by,
      Instant at,
      @Nullable String note) {}

  /** A place at which a label ends; {@code review} says when somebody looks at it again. */
  record ListedStop(
      String id, String label, String ref, String reason, Instant review, String by, Instant at) {}

  /** Where a label may be, or may not. */
  record ListedPolicy(
      String id,
      String label,
      boolean allowed,
      List<String> kinds,
      List<String> systems,
      List<String> workspaces,
      List<String> audience,
      List<String> locations,
      String by,
      Instant at,
      @Nullable String note) {}

  /**
   * How much of values with a label a role sees.
   *
   * @param id absent for one that nobody set, which follows from the level of the label
   */
  record ListedMask(
      @Nullable String id,
      String label,
      String role,
      String shown,
      @Nullable String by,
      @Nullable Instant at) {}

  private final Labels labels;
  private final LabelWork work;
  private final LabelSettings settings;
  private final LabelMasks masks;
  private final Receipts receipts;
  private final Pages pages;

  LabelController(
      Labels labels,
      LabelWork work,
      LabelSettings settings,
      LabelMasks masks,
      Receipts receipts,
      Pages pages) {
    this.labels = labels;
    this.work = work;
    this.settings = settings;
    this.masks = masks;
    this.receipts = receipts;
    this.pages = pages;
  }

  @GetMapping("/api/v1/labels")
  @Operation(
      operationId = "listLabels",
      summary = "List the labels, how each travels and how far it came")
  LabelList list(
      @RequestParam(required = false) @Nullable String after,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    receipts.awaitVisible(after);
    Pages.Page<Labels.LabelCounts> page = pages.page(limit, cursor, labels::all);
    return new LabelList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/label")
  @Operation(
      operationId = "getLabel",
      summary = "List what has a label: set there or inherited, from where and by which way")
  LabelPlaces one(
      @RequestParam String id,
      @RequestParam(required = false) @Nullable String how,
      @RequestParam(required = false) @Nullable String after,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    receipts.awaitVisible(after);
    if (how != null && !HOW.contains(how)) {
      throw ProblemException.badRequest(
          "bad-how", "how is '" + how + "'; it takes " + String.join(", ", HOW));
    }
    Labels.LabelCounts label = labels.one(id);
    Pages.Page<Labels.LabelledPlace> page = pages.page(limit, cursor, () -> labels.places(id, how));
    return new LabelPlaces(label, page.items(), page.total(), page.cursor());
  }

  // ------------------------------------------------------------------ what stewards set

  @GetMapping("/api/v1/labels/rules")
  @Operation(
      operationId = "listLabelRules",
      summary = "List the rules that label columns by names, types and terms")
  NameRuleList rules(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<ListedRule> page =
        pages.page(
            limit,
            cursor,
            () -> settings.now().rules().stream().map(LabelController::listed).toList());
    return new NameRuleList(page.items(), page.cursor());
  }

  private static ListedRule listed(LabelSettings.NameRule rule) {
    return new ListedRule(
        rule.id(),
        rule.label(),
        texts(rule.value(), "names"),
        texts(rule.value(), "except"),
        texts(rule.value(), "types"),
        texts(rule.value(), "terms"),
        texts(rule.value(), "systems"),
        rule.origin().by(),
        rule.origin().at(),
        rule.origin().note());
  }

  private static List<String> texts(JsonNode value, String member) {
    return value.path(member).valueStream().map(text -> text.stringValue("")).toList();
  }

  @GetMapping("/api/v1/labels/try")
  @Operation(
      operationId = "tryLabelRule",
      summary = "Show which columns a rule would label, before it is set")
  LabelWork.RuleTry tryRule(
      @RequestParam String label,
      @RequestParam(defaultValue = "") List<String> names,
      @RequestParam(defaultValue = "") List<String> except,
      @RequestParam(defaultValue = "") List<String> types,
      @RequestParam(defaultValue = "") List<String> terms,
      @RequestParam(defaultValue = "") List<String> systems) {
    try {
      return work.tryRule(label, ColumnRule.of(names, except, types, terms, systems));
    } catch (IllegalArgumentException e) {
      throw ProblemException.badRequest("bad-rule", String.valueOf(e.getMessage()));
    }
  }

  @GetMapping("/api/v1/labels/stops")
  @Operation(
      operationId = "listLabelStops",
      summary = "List the places at which stewards let a label end, with reason and review")
  StopList stops(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<ListedStop> page =
        pages.page(
            limit,
            cursor,
            () ->
                settings.now().stops().stream()
                    .map(
                        stop ->
                            new ListedStop(
                                stop.id(),
                                stop.label(),
                                stop.at(),
                                stop.reason(),
                                stop.review(),
                                stop.origin().by(),
                                stop.origin().at()))
                    .toList());
    return new StopList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/labels/policies")
  @Operation(
      operationId = "listLabelPolicies",
      summary = "List where labels may be, and where they may not")
  PolicyList policies(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<ListedPolicy> page =
        pages.page(
            limit,
            cursor,
            () -> settings.now().policies().stream().map(LabelController::listed).toList());
    return new PolicyList(page.items(), page.cursor());
  }

  private static ListedPolicy listed(LabelSettings.Policy policy) {
    return new ListedPolicy(
        policy.rule().id(),
        policy.rule().label(),
        policy.rule().allows(),
        texts(policy.value(), "kinds"),
        texts(policy.value(), "systems"),
        texts(policy.value(), "workspaces"),
        texts(policy.value(), "audience"),
        texts(policy.value(), "locations"),
        policy.origin().by(),
        policy.origin().at(),
        policy.origin().note());
  }

  @GetMapping("/api/v1/labels/masks")
  @Operation(
      operationId = "listLabelMasks",
      summary = "List how much of labelled values each role sees in a preview")
  MaskList masks(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<ListedMask> page =
        pages.page(
            limit,
            cursor,
            () ->
                masks.all().stream()
                    .map(
                        mask ->
                            new ListedMask(
                                mask.id(),
                                mask.label(),
                                mask.role(),
                                mask.shown().word(),
                                mask.by(),
                                mask.at()))
                    .toList());
    return new MaskList(page.items(), page.cursor());
  }

  // ------------------------------------------------------------------ what is left to do

  @GetMapping("/api/v1/labels/coverage")
  @Operation(operationId = "getLabelCoverage", summary = "Count labelled columns by system")
  LabelCoverageList coverage(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<LabelWork.LabelledSystem> page = pages.page(limit, cursor, work::coverage);
    return new LabelCoverageList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/labels/suggestions")
  @Operation(
      operationId = "suggestLabels",
      summary = "List columns whose names or values look sensitive and that have no label")
  LabelSuggestionList suggestions(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<LabelWork.LabelSuggestion> page = pages.page(limit, cursor, work::suggestions);
    return new LabelSuggestionList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/labels/disagreements")
  @Operation(
      operationId = "listLabelDisagreements",
      summary = "List columns on which two sources set different labels")
  DisagreementList disagreements(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<LabelWork.Disagreement> page = pages.page(limit, cursor, work::disagreements);
    return new DisagreementList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/labels/reviews")
  @Operation(
      operationId = "listLabelReviews",
      summary = "List when stops and accepted leaks are to be looked at again")
  ReviewList reviews(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<LabelWork.Review> page = pages.page(limit, cursor, work::reviews);
    return new ReviewList(page.items(), page.cursor());
  }
}
