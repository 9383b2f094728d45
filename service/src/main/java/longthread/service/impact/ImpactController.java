package longthread.service.impact;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import longthread.core.asset.Card;
import longthread.core.graph.LineageGraph;
import longthread.core.impact.Change;
import longthread.core.impact.Impact;
import longthread.core.impact.ImpactAnalysis;
import longthread.core.impact.TypeChange;
import longthread.core.impact.Verdict;
import longthread.service.catalog.Asset;
import longthread.service.catalog.Catalog;
import longthread.service.catalog.References;
import longthread.service.lineage.GraphFollower;
import longthread.service.lineage.Hops;
import longthread.service.web.Csv;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.servlet.support.ServletUriComponentsBuilder;

/** What a change does downstream, as a list to act on or to hand to others. */
@RestController
class ImpactController {
  private static final List<String> HEADING =
      List.of(
          "name",
          "kind",
          "verdict",
          "certainty",
          "hops",
          "system",
          "owners",
          "owner addresses",
          "labels",
          "columns",
          "all verdicts",
          "thread",
          "reference",
          "link",
          "address in its tool");

  /** One verdict on an item. */
  record Judged(String verdict, String certainty) {}

  record TouchedColumn(String name, String verdict) {}

  record Item(
      String ref,
      String kind,
      String name,
      String system,
      String verdict,
      List<Judged> verdicts,
      String certainty,
      int hops,
      List<Hops.Hop> thread,
      List<TouchedColumn> columns,
      List<String> owners,
      List<String> ownerAddresses,
      List<String> labels,
      String url,
      @Nullable String toolUrl) {}

  record Untouched(
      String ref, String kind, String name, int hops, String certainty, @Nullable String missing) {}

  record UntouchedList(int count, int certain, List<Untouched> items) {}

  record JudgedChange(String ref, String change, @Nullable String to) {}

  /** The counts over the whole answer, filters applied. */
  record Summary(
      Map<String, Integer> verdicts, Map<String, Integer> kinds, Map<String, Integer> owners) {}

  record ImpactAnswer(
      String of,
      String change,
      List<JudgedChange> changes,
      Summary summary,
      List<Item> items,
      int total,
      UntouchedList untouched,
      @Nullable String cursor) {}

  /** Several changes to be judged together. */
  record PlannedChange(List<PlannedStep> changes, @Nullable Integer hops) {}

  record PlannedStep(String ref, String change, @Nullable String to) {}

  private final References references;
  private final Catalog catalog;
  private final GraphFollower follower;
  private final Pages pages;

  ImpactController(References references, Catalog catalog, GraphFollower follower, Pages pages) {
    this.references = references;
    this.catalog = catalog;
    this.follower = follower;
    this.pages = pages;
  }

  private record Filters(
      @Nullable String kind,
      @Nullable String owner,
      @Nullable String system,
      @Nullable String verdict) {
    boolean pass(Item item) {
      return passes(kind, List.of(item.kind()))
          && passes(owner, item.owners())
          && passes(system, List.of(item.system()))
          && passes(verdict, List.of(item.verdict()));
    }

    private static boolean passes(@Nullable String wanted, List<String> values) {
      return wanted == null || wanted.isEmpty() || values.contains(wanted);
    }
  }

  @GetMapping("/api/v1/impact")
  @Operation(
      summary = "What a change does downstream",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(
                    mediaType = "application/json",
                    schema = @Schema(implementation = ImpactAnswer.class)),
                @Content(mediaType = "text/csv", schema = @Schema(type = "string"))
              }))
  @Nullable ImpactAnswer impact(
      @RequestParam String ref,
      @RequestParam(defaultValue = "drop") String change,
      @RequestParam(required = false) @Nullable String to,
      @RequestParam(required = false) @Nullable Integer hops,
      @RequestParam(required = false) @Nullable String kind,
      @RequestParam(required = false) @Nullable String owner,
      @RequestParam(required = false) @Nullable String system,
      @RequestParam(required = false) @Nullable String verdict,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor,
      @RequestParam(required = false) @Nullable String after,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    follower.see(after);
    List<PlannedStep> steps = List.of(new PlannedStep(ref, change, to));
    var filters = new Filters(kind, owner, system, verdict);
    return answer(steps, hops, filters, limit, cursor, request, response);
  }

  @PostMapping("/api/v1/impact")
  @Nullable ImpactAnswer planned(
      @RequestBody PlannedChange plan,
      @RequestParam(required = false) @Nullable Integer limit,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    if (plan.changes() == null || plan.changes().isEmpty()) {
      throw ProblemException.badRequest(
          "no-changes", "the plan has no changes; give at least one with ref and change");
    }
    var filters = new Filters(null, null, null, null);
    return answer(plan.changes(), plan.hops(), filters, limit, null, request, response);
  }

  private @Nullable ImpactAnswer answer(
      List<PlannedStep> steps,
      @Nullable Integer hops,
      Filters filters,
      @Nullable Integer limit,
      @Nullable String cursor,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    int most = Pages.limit(limit);
    LineageGraph graph = follower.graph();
    var changes = new ArrayList<Change>();
    var judged = new ArrayList<JudgedChange>();
    for (PlannedStep step : steps) {
      References.Named named = references.resolve(step.ref());
      changes.add(change(graph, named, step));
      judged.add(new JudgedChange(named.ref(), step.change(), step.to()));
    }
    int far = hops == null ? Integer.MAX_VALUE : hops;
    Impact impact = ImpactAnalysis.of(graph, changes, follower::missing, far);
    String base = ServletUriComponentsBuilder.fromContextPath(request).build().toUriString();
    List<Item> items =
        impact.items().stream().map(item -> item(graph, item, base)).filter(filters::pass).toList();
    String accept = request.getHeader(HttpHeaders.ACCEPT);
    if (accept != null && accept.contains("text/csv")) {
      sheet(items, judged, response);
      return null;
    }
    Pages.Page<Item> page = cursor == null ? pages.first(items, most) : pages.next(cursor, most);
    List<Untouched> untouched = impact.untouched().stream().map(this::untouched).toList();
    return new ImpactAnswer(
        judged.get(0).ref(),
        judged.get(0).change(),
        judged,
        summary(items),
        page.items(),
        page.total(),
        new UntouchedList(
            untouched.size(),
            (int) untouched.stream().filter(u -> u.certainty().equals("certain")).count(),
            untouched.subList(0, Math.min(most, untouched.size()))),
        page.cursor());
  }

  private Change change(LineageGraph graph, References.Named named, PlannedStep step) {
    Change.Kind kind;
    try {
      kind = Change.Kind.valueOf(step.change().toUpperCase(Locale.ROOT));
    } catch (IllegalArgumentException e) {
      throw ProblemException.badRequest(
          "unknown-change",
          "'"
              + step.change()
              + "' is no change; take one of "
              + String.join(
                  ", ", Arrays.stream(Change.Kind.values()).map(Change.Kind::word).toList()));
    }
    int node = named.node(graph);
    if (node < 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "no-lineage",
          "Nothing is known of its lineage",
          named.ref()
              + (named.ref().startsWith("@")
                  ? " is a job; ask the impact of what it writes"
                  : " feeds nothing that any event told of"));
    }
    if (kind == Change.Kind.RETYPE && (named.column() == null || step.to() == null)) {
      throw ProblemException.badRequest(
          "bad-change", "retype takes a column and its new type, as to=bigint");
    }
    boolean narrows = kind == Change.Kind.RETYPE && TypeChange.mayNarrow(typeOf(named), step.to());
    return new Change(node, kind, step.to(), narrows);
  }

  private static @Nullable String typeOf(References.Named named) {
    return named.asset().card().columns().stream()
        .filter(column -> column.path().equals(named.column()))
        .map(Card.Column::type)
        .findFirst()
        .orElse(null);
  }

  private Item item(LineageGraph graph, Impact.Item item, String base) {
    Asset asset = catalog.asset(item.ref()).orElse(null);
    var verdicts = new ArrayList<Judged>();
    item.verdicts()
        .forEach(
            (verdict, certain) -> verdicts.add(new Judged(verdict.word(), certainty(certain))));
    var columns = new ArrayList<TouchedColumn>();
    item.columns().forEach((name, verdict) -> columns.add(new TouchedColumn(name, verdict.word())));
    return new Item(
        item.ref(),
        asset == null ? "dataset" : asset.kind().word(),
        asset == null ? item.ref() : asset.shown(),
        catalog.systemOf(item.ref()),
        item.headline().word(),
        verdicts,
        certainty(item.certain()),
        item.hops(),
        Hops.of(graph, item.thread(), catalog),
        columns,
        asset == null ? List.of() : asset.ownerNames(),
        asset == null
            ? List.of()
            : asset.card().owners().stream().map(o -> o.address()).filter(a -> a != null).toList(),
        asset == null ? List.of() : asset.labels(),
        base + "/asset?ref=" + URLEncoder.encode(item.ref(), StandardCharsets.UTF_8),
        asset == null ? null : asset.card().url());
  }

  private Untouched untouched(Impact.Untouched untouched) {
    Asset asset = catalog.asset(untouched.ref()).orElse(null);
    return new Untouched(
        untouched.ref(),
        asset == null ? "dataset" : asset.kind().word(),
        asset == null ? untouched.ref() : asset.shown(),
        untouched.hops(),
        certainty(untouched.certain()),
        untouched.missing());
  }

  private static String certainty(boolean certain) {
    return certain ? "certain" : "possible";
  }

  private static Summary summary(List<Item> items) {
    var verdicts = new LinkedHashMap<String, Integer>();
    for (Verdict verdict : Verdict.values()) {
      if (verdict != Verdict.UNTOUCHED) {
        verdicts.put(verdict.word(), 0);
      }
    }
    var kinds = new java.util.TreeMap<String, Integer>();
    var owners = new java.util.TreeMap<String, Integer>();
    for (Item item : items) {
      verdicts.merge(item.verdict(), 1, Integer::sum);
      kinds.merge(item.kind(), 1, Integer::sum);
      item.owners().forEach(owner -> owners.merge(owner, 1, Integer::sum));
    }
    return new Summary(verdicts, kinds, owners);
  }

  private static void sheet(
      List<Item> items, List<JudgedChange> changes, HttpServletResponse response)
      throws IOException {
    String name = changes.get(0).ref().replaceAll("[^A-Za-z0-9._-]+", "_");
    response.setContentType("text/csv;charset=UTF-8");
    response.setHeader(
        HttpHeaders.CONTENT_DISPOSITION, "attachment; filename=\"impact-" + name + ".csv\"");
    try (var out = new OutputStreamWriter(response.getOutputStream(), StandardCharsets.UTF_8)) {
      var sheet = new Csv(out, HEADING);
      for (Item item : items) {
        sheet.row(
            Arrays.asList(
                item.name(),
                item.kind(),
                item.verdict(),
                item.certainty(),
                item.hops(),
                item.system(),
                String.join("; ", item.owners()),
                String.join("; ", item.ownerAddresses()),
                String.join("; ", item.labels()),
                String.join("; ", item.columns().stream().map(TouchedColumn::name).toList()),
                String.join(
                    "; ",
                    item.verdicts().stream().map(v -> v.verdict() + " " + v.certainty()).toList()),
                spoken(item.thread()),
                item.ref(),
                item.url(),
                item.toolUrl()));
      }
    }
  }

  private static String spoken(List<Hops.Hop> thread) {
    if (thread.isEmpty()) {
      return "";
    }
    var text = new StringBuilder(thread.get(0).fromName());
    thread.forEach(hop -> text.append(" > ").append(hop.toName()));
    return text.toString();
  }
}
