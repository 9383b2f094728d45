package longthread.service.impact;

import io.swagger.v3.oas.annotations.Hidden;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.List;
import longthread.core.change.ChangeDocument;
import longthread.service.impact.ImpactFinder.Found;
import longthread.service.impact.ImpactFinder.Item;
import longthread.service.live.Receipts;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import longthread.service.web.PublicAddress;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What a change does downstream, over HTTP: as JSON page by page, or as one sheet. */
@RestController
class ImpactController {
  record UntouchedList(int count, int certain, List<ImpactFinder.Untouched> items) {}

  record ImpactAnswer(
      String of,
      String change,
      List<PlannedChanges.Judged> changes,
      ImpactFinder.Summary summary,
      @Nullable List<ImpactGroups.Group> groups,
      List<Item> items,
      int total,
      UntouchedList untouched,
      @Nullable String cursor) {}

  private final ImpactFinder impact;
  private final Receipts receipts;
  private final Pages pages;
  private final PublicAddress address;
  private final ImpactGroups groups;
  private final ImpactFiles files;

  ImpactController(
      ImpactFinder impact,
      Receipts receipts,
      Pages pages,
      PublicAddress address,
      ImpactGroups groups,
      ImpactFiles files) {
    this.groups = groups;
    this.files = files;
    this.address = address;
    this.impact = impact;
    this.receipts = receipts;
    this.pages = pages;
  }

  @GetMapping("/api/v1/impact")
  @Operation(
      operationId = "getImpact",
      summary = "Judge what one change does downstream",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(
                    mediaType = "application/json",
                    schema = @Schema(implementation = ImpactAnswer.class)),
                @Content(mediaType = "text/csv", schema = @Schema(type = "string")),
                @Content(mediaType = ImpactFiles.MARKDOWN, schema = @Schema(type = "string")),
                @Content(
                    mediaType = ImpactFiles.WORKBOOK,
                    schema = @Schema(type = "string", format = "binary"))
              }))
  @Nullable ImpactAnswer impact(
      @RequestParam String ref,
      @RequestParam(defaultValue = "drop") String change,
      @RequestParam(required = false) @Nullable String to,
      @RequestParam(required = false) @Nullable Integer hops,
      @RequestParam(required = false) @Nullable String kind,
      @RequestParam(required = false) @Nullable String owner,
      @RequestParam(required = false) @Nullable String system,
      @RequestParam(required = false) @Nullable String workspace,
      @RequestParam(required = false) @Nullable String label,
      @RequestParam(required = false) @Nullable String verdict,
      @RequestParam(required = false) @Nullable String groupBy,
      @RequestParam(required = false) @Nullable String asOf,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor,
      @RequestParam(required = false) @Nullable String after,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    receipts.awaitVisible(after);
    Found found =
        impact.find(
            List.of(new ImpactFinder.PlannedStep(ref, change, to)),
            hops,
            new ImpactFinder.Filters(kind, owner, system, workspace, label, verdict),
            address.base(request),
            asOf == null ? null : Times.parse(asOf));
    return answer(found, groupBy, limit, cursor, asOf != null, request, response);
  }

  @PostMapping("/api/v1/impact")
  @Operation(
      operationId = "judgeChanges",
      summary = "Judge several changes together, without keeping them")
  @Nullable ImpactAnswer planned(
      @RequestBody ImpactFinder.PlannedChange plan,
      @RequestParam(required = false) @Nullable String groupBy,
      @RequestParam(required = false) @Nullable Integer limit,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    List<ImpactFinder.PlannedStep> steps = plan.all();
    if (steps.isEmpty()) {
      throw ProblemException.badRequest(
          "no-changes",
          "the plan has no changes; give steps with change and of, or changes with ref and change");
    }
    if (steps.stream().anyMatch(step -> step.ref() == null || step.change() == null)) {
      throw ProblemException.badRequest(
          "bad-change", "each step takes change and of; each change takes ref and change");
    }
    Found found =
        impact.find(steps, plan.hops(), ImpactFinder.Filters.NONE, address.base(request), null);
    return answer(found, groupBy, limit, null, false, request, response);
  }

  @PostMapping(
      value = "/api/v1/impact",
      consumes = {"application/yaml", "application/x-yaml", "text/plain"})
  @Hidden // one path has one description
  @Nullable ImpactAnswer document(
      @RequestBody byte[] document,
      @RequestParam(required = false) @Nullable String groupBy,
      @RequestParam(required = false) @Nullable Integer limit,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    ChangeDocument change = ChangeJudge.document(new String(document, StandardCharsets.UTF_8));
    return planned(
        new ImpactFinder.PlannedChange(null, change.steps(), null),
        groupBy,
        limit,
        request,
        response);
  }

  /** Of a past moment the first page alone: a cursor would keep a whole graph of its own. */
  private static Pages.Page<Item> only(List<Item> items, int most) {
    return new Pages.Page<>(items.subList(0, Math.min(most, items.size())), items.size(), null);
  }

  private @Nullable ImpactAnswer answer(
      Found found,
      @Nullable String groupBy,
      @Nullable Integer limit,
      @Nullable String cursor,
      boolean isPast,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    int most = Pages.limit(limit);
    ImpactGroups.By by = groupBy == null ? null : ImpactGroups.By.of(groupBy);
    if (files.send(request, response, found, by)) {
      return null;
    }
    Pages.Page<Item> page =
        isPast ? only(found.items(), most) : pages.page(limit, cursor, found::pages);
    List<ImpactFinder.Untouched> untouched = found.untouched();
    return new ImpactAnswer(
        found.changes().get(0).ref(),
        found.changes().get(0).change(),
        found.changes(),
        found.summary(),
        by == null ? null : groups.of(found.judged(), by),
        page.items(),
        page.total(),
        new UntouchedList(
            untouched.size(),
            found.certainlyUntouched(),
            untouched.subList(0, Math.min(most, untouched.size()))),
        page.cursor());
  }
}
