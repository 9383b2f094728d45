package longthread.service.catalog;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import longthread.service.live.Receipts;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Search and browsing over HTTP. */
@RestController
class SearchController {
  /**
   * A page of hits.
   *
   * @param restricted how many assets were not searched, since the caller may not see them
   */
  record SearchResult(
      List<Search.Hit> hits,
      int total,
      Search.Facets facets,
      int restricted,
      @Nullable String cursor) {}

  private final Search search;
  private final Browse browse;
  private final Receipts receipts;
  private final Pages pages;

  SearchController(Search search, Browse browse, Receipts receipts, Pages pages) {
    this.search = search;
    this.browse = browse;
    this.receipts = receipts;
    this.pages = pages;
  }

  @GetMapping("/api/v1/search")
  @Operation(
      operationId = "search",
      summary = "Find assets by name, words, owner, label, system or kind")
  SearchResult search(
      @RequestParam(defaultValue = "") String q,
      @RequestParam(required = false) @Nullable String kind,
      @RequestParam(required = false) @Nullable String system,
      @RequestParam(required = false) @Nullable String owner,
      @RequestParam(required = false) @Nullable String label,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor,
      @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    Search.Found found = search.find(q, new Search.Filters(kind, system, owner, label));
    Pages.Page<Search.Hit> page = pages.page(limit, cursor, found::hits);
    return new SearchResult(
        search.withHealth(page.items()),
        page.total(),
        found.facets(),
        found.restricted(),
        page.cursor());
  }

  @GetMapping("/api/v1/browse")
  @Operation(operationId = "browse", summary = "Open one level of the tree of containers")
  Browse.Level browse(
      @RequestParam(required = false) @Nullable List<String> path,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Browse.Level level = browse.level(path == null ? List.of() : path);
    Pages.Page<Search.Hit> page = pages.page(limit, cursor, level::assets);
    return new Browse.Level(
        level.path(),
        level.containers(),
        search.withHealth(page.items()),
        page.total(),
        level.restricted(),
        page.cursor());
  }
}
