package longthread.service.workspaces;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.time.Instant;
import java.util.List;
import longthread.core.workspace.WorkspaceDifference;
import longthread.core.workspace.WorkspaceReader;
import longthread.service.intake.IntakeBody;
import longthread.service.intake.IntakeLimits;
import longthread.service.intake.WaitPreference;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Workspaces over HTTP: described, listed, shown. */
@RestController
class WorkspaceController {
  /**
   * What a description changes, or would.
   *
   * @param receipt may be passed to any query as {@code after}; absent for a dry run
   * @param newerAt the time of a newer description, so that this one changes nothing that stands;
   *     absent if it is the newest
   */
  record WorkspacePut(
      String ref,
      String title,
      boolean dryRun,
      @Nullable String receipt,
      boolean duplicate,
      @Nullable Instant newerAt,
      List<WorkspaceDifference> differences) {}

  record WorkspaceList(List<WorkspaceMaps.ListedWorkspace> items, @Nullable String cursor) {}

  private final WorkspaceStore store;
  private final WorkspaceMaps maps;
  private final IntakeLimits limits;
  private final WaitPreference wait;
  private final Pages pages;

  WorkspaceController(
      WorkspaceStore store,
      WorkspaceMaps maps,
      IntakeLimits limits,
      WaitPreference wait,
      Pages pages) {
    this.store = store;
    this.maps = maps;
    this.limits = limits;
    this.wait = wait;
    this.pages = pages;
  }

  @PutMapping("/api/v1/workspaces")
  @Operation(
      operationId = "putWorkspace",
      summary = "Replace what is described of one workspace",
      requestBody =
          @io.swagger.v3.oas.annotations.parameters.RequestBody(
              required = true,
              description = "A workspace description, see /api/v1/schemas/workspace.json.",
              content =
                  @Content(
                      mediaType = "application/json",
                      schema = @Schema(ref = "#/components/schemas/Workspace"))))
  ResponseEntity<WorkspacePut> put(
      HttpServletRequest request, @RequestParam(required = false) boolean dryRun)
      throws IOException {
    try (IntakeLimits.Post post = limits.enter(request)) {
      WorkspaceStore.Kept kept = store.put(IntakeBody.read(request, store.largest(), post), dryRun);
      var answer = ResponseEntity.ok();
      if (!dryRun && wait.isOver(request, kept.block())) {
        answer.header(WaitPreference.APPLIED, "wait");
      }
      return answer.body(
          new WorkspacePut(
              kept.description().name().reference(),
              kept.description().root().path("workspace").path("title").stringValue(""),
              dryRun,
              dryRun ? null : "" + kept.block(),
              kept.isDuplicate(),
              kept.newerAt(),
              kept.differences()));
    }
  }

  @GetMapping("/api/v1/workspaces")
  @Operation(
      operationId = "listWorkspaces",
      summary = "List workspaces with what is in them and how their refreshes went")
  WorkspaceList list(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<WorkspaceMaps.ListedWorkspace> page = pages.page(limit, cursor, maps::list);
    return new WorkspaceList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/workspace")
  @Operation(
      operationId = "getWorkspace",
      summary = "Show everything in a workspace, what feeds it and what rests on it")
  WorkspaceMaps.WorkspaceMap map(@RequestParam String ref) {
    return maps.of(ref);
  }

  @GetMapping(value = "/api/v1/schemas/workspace.json", produces = "application/schema+json")
  @Operation(
      operationId = "getWorkspaceSchema",
      summary = "The JSON Schema of workspace descriptions")
  String schema() {
    return WorkspaceReader.schema();
  }
}
