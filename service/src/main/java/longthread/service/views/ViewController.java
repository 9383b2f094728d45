package longthread.service.views;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Saved views over HTTP. */
@RestController
class ViewController {
  record SavedGraphViews(List<SavedViews.SavedGraphView> items, @Nullable String cursor) {}

  private final SavedViews views;
  private final Pages pages;

  ViewController(SavedViews views, Pages pages) {
    this.views = views;
    this.pages = pages;
  }

  @GetMapping("/api/v1/views")
  @Operation(
      operationId = "listViews",
      summary = "List the views of the graph that you saved or others share")
  SavedGraphViews list(
      Authentication who,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<SavedViews.SavedGraphView> page =
        pages.page(limit, cursor, () -> views.visibleTo(who.getName()));
    return new SavedGraphViews(page.items(), page.cursor());
  }

  @PutMapping("/api/v1/views")
  @Operation(operationId = "saveView", summary = "Save a view of the graph under a name")
  SavedViews.SavedGraphView save(Authentication who, @RequestBody SavedViews.NewView wanted) {
    return views.save(who.getName(), wanted);
  }

  @DeleteMapping("/api/v1/views")
  @Operation(operationId = "deleteView", summary = "Delete a view that you saved")
  void delete(Authentication who, @RequestParam String name) {
    views.delete(who.getName(), name);
  }
}
