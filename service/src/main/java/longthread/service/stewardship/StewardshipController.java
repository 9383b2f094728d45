package longthread.service.stewardship;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.TreeMap;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.service.intake.WaitPreference;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.Glossary;
import longthread.service.statements.Statements;
import longthread.service.web.Csv;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Sheets, the glossary and suggestions over HTTP. */
@RestController
class StewardshipController {
  record EditRows(List<Edits.EditRow> items, @Nullable String cursor) {}

  /**
   * A term as it is listed.
   *
   * @param path the names of the terms above it and its own
   * @param uses how many assets and columns have it
   */
  record ListedTerm(
      String id,
      String name,
      @Nullable String definition,
      @Nullable String parent,
      List<String> path,
      List<String> owners,
      List<String> synonyms,
      int uses) {}

  record TermList(List<ListedTerm> items, @Nullable String cursor) {}

  /** An asset or column that has a term. */
  record TermUse(String ref, String name, String kind, String system) {}

  record TermDetail(ListedTerm term, List<ListedTerm> below, List<TermUse> uses) {}

  record MergeSuggestionList(List<Suggestions.MergeSuggestion> items, @Nullable String cursor) {}

  record TermSuggestionList(List<Suggestions.TermSuggestion> items, @Nullable String cursor) {}

  record CopyList(List<Suggestions.CopiedAsset> items, @Nullable String cursor) {}

  /** Names that hang together and are too many to be one asset; the link to cut parts them best. */
  record OverMergedAsset(int names, String from, String to) {}

  record OverMergedList(List<OverMergedAsset> items, @Nullable String cursor) {}

  private final Edits edits;
  private final Glossary glossary;
  private final Suggestions suggestions;
  private final Catalog catalog;
  private final WaitPreference wait;
  private final Pages pages;

  StewardshipController(
      Edits edits,
      Glossary glossary,
      Suggestions suggestions,
      Catalog catalog,
      WaitPreference wait,
      Pages pages) {
    this.edits = edits;
    this.glossary = glossary;
    this.suggestions = suggestions;
    this.catalog = catalog;
    this.wait = wait;
    this.pages = pages;
  }

  // ------------------------------------------------------------------ sheets

  @GetMapping("/api/v1/edits")
  @Operation(
      operationId = "exportEdits",
      summary = "Write descriptions, owners, tags and terms out, to be changed and sent back",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(
                    mediaType = "application/json",
                    schema = @Schema(implementation = EditRows.class)),
                @Content(mediaType = "text/csv", schema = @Schema(type = "string"))
              }))
  @Nullable EditRows export(
      HttpServletRequest request,
      HttpServletResponse response,
      @RequestParam(required = false) @Nullable String kind,
      @RequestParam(required = false) @Nullable String system,
      @RequestParam(required = false) @Nullable String owner,
      @RequestParam(required = false) @Nullable String label,
      @RequestParam(required = false) @Nullable String under,
      @RequestParam(required = false) boolean columns,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor)
      throws IOException {
    var filter = new Edits.EditFilter(system, kind, owner, label, under);
    if (Csv.isWanted(request)) {
      Csv.send(
          response,
          "assets.csv",
          Edits.HEADING,
          edits.rows(filter, columns).stream().map(Edits.EditRow::cells).toList());
      return null;
    }
    Pages.Page<Edits.EditRow> page = pages.page(limit, cursor, () -> edits.rows(filter, columns));
    return new EditRows(page.items(), page.cursor());
  }

  @PostMapping(
      path = "/api/v1/edits",
      consumes = {"text/csv", "application/json"})
  @Operation(
      operationId = "applyEdits",
      summary = "Apply a changed sheet of assets, terms or recorded lineage as one statement",
      requestBody =
          @io.swagger.v3.oas.annotations.parameters.RequestBody(
              required = true,
              description =
                  "The sheet that GET /api/v1/edits, /api/v1/terms or /api/v1/recorded wrote, as CSV"
                      + " or JSON.",
              content = {
                @Content(mediaType = "text/csv", schema = @Schema(type = "string")),
                @Content(mediaType = "application/json", schema = @Schema(type = "object"))
              }))
  ResponseEntity<Statements.Stated> apply(
      HttpServletRequest request,
      Authentication who,
      @RequestParam(required = false) boolean dryRun,
      @RequestParam(defaultValue = "bulk edit") String reason,
      @RequestBody byte[] body) {
    Statements.Stated stated = edits.apply(who.getName(), reason, body, dryRun);
    var answer = ResponseEntity.ok();
    String receipt = stated.receipt();
    if (receipt != null && wait.isOver(request, Long.parseLong(receipt))) {
      answer.header(WaitPreference.APPLIED, "wait");
    }
    return answer.body(stated);
  }

  // ------------------------------------------------------------------ the glossary

  @GetMapping("/api/v1/terms")
  @Operation(
      operationId = "listTerms",
      summary = "List the terms of the glossary, in the order of its tree",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(
                    mediaType = "application/json",
                    schema = @Schema(implementation = TermList.class)),
                @Content(mediaType = "text/csv", schema = @Schema(type = "string"))
              }))
  @Nullable TermList terms(
      HttpServletRequest request,
      HttpServletResponse response,
      @RequestParam(required = false) @Nullable String q,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor)
      throws IOException {
    if (Csv.isWanted(request)) {
      Csv.send(
          response,
          "terms.csv",
          GlossarySheet.HEADING,
          inTree().stream().map(GlossarySheet::row).toList());
      return null;
    }
    String word = q == null ? "" : q.strip().toLowerCase(Locale.ROOT);
    Pages.Page<ListedTerm> page =
        pages.page(
            limit,
            cursor,
            () -> {
              TreeMap<String, List<TermUse>> uses = uses();
              return inTree().stream()
                  .filter(term -> matches(term, word))
                  .map(term -> listed(term, uses))
                  .toList();
            });
    return new TermList(page.items(), page.cursor());
  }

  private static boolean matches(Glossary.Term term, String word) {
    String text = term.name() + " " + String.join(" ", term.synonyms()) + " " + term.definition();
    return text.toLowerCase(Locale.ROOT).contains(word);
  }

  private List<Glossary.Term> inTree() {
    var byPath = new TreeMap<String, Glossary.Term>();
    for (Glossary.Term term : glossary.all()) {
      byPath.put(String.join("\n", glossary.path(term)) + "\n\n" + term.id(), term);
    }
    return List.copyOf(byPath.values());
  }

  private ListedTerm listed(Glossary.Term term, TreeMap<String, List<TermUse>> uses) {
    return new ListedTerm(
        term.id(),
        term.name(),
        term.definition(),
        term.parent(),
        glossary.path(term),
        term.owners(),
        term.synonyms(),
        uses.getOrDefault(term.id(), List.of()).size());
  }

  /** The assets and columns that have each term. */
  private TreeMap<String, List<TermUse>> uses() {
    var uses = new TreeMap<String, List<TermUse>>();
    catalog.seen().stream()
        .sorted((a, b) -> a.ref().compareTo(b.ref()))
        .forEach(
            asset -> {
              asset.card().terms().forEach(id -> add(uses, id, asset, ""));
              for (Card.Column column : asset.card().columns()) {
                column.terms().forEach(id -> add(uses, id, asset, "#" + column.path()));
              }
            });
    return uses;
  }

  private static void add(
      TreeMap<String, List<TermUse>> uses, String id, Asset asset, String column) {
    uses.computeIfAbsent(id, k -> new ArrayList<>())
        .add(
            new TermUse(
                asset.ref() + column, asset.shown() + column, asset.kind().word(), asset.system()));
  }

  @GetMapping("/api/v1/term")
  @Operation(operationId = "getTerm", summary = "Show one term and what has it")
  TermDetail term(@RequestParam String id) {
    Glossary.Term term =
        glossary
            .find(id)
            .orElseThrow(
                () ->
                    new ProblemException(
                        HttpStatus.NOT_FOUND,
                        "unknown-term",
                        "The glossary has no such term",
                        "the glossary has no term '" + id + "'; GET /api/v1/terms lists them"));
    TreeMap<String, List<TermUse>> uses = uses();
    List<ListedTerm> below =
        inTree().stream()
            .filter(other -> term.id().equals(other.parent()))
            .map(other -> listed(other, uses))
            .toList();
    return new TermDetail(listed(term, uses), below, uses.getOrDefault(term.id(), List.of()));
  }

  // ------------------------------------------------------------------ suggestions

  @GetMapping("/api/v1/suggestions/merges")
  @Operation(
      operationId = "suggestMerges",
      summary = "List names that are probably one asset, with the evidence")
  MergeSuggestionList merges(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Suggestions.MergeSuggestion> page = pages.page(limit, cursor, suggestions::merges);
    return new MergeSuggestionList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/suggestions/terms")
  @Operation(
      operationId = "suggestTerms",
      summary = "List terms for columns that hold copies of one that has the term")
  TermSuggestionList termSuggestions(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Suggestions.TermSuggestion> page = pages.page(limit, cursor, suggestions::terms);
    return new TermSuggestionList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/rules/try")
  @Operation(
      operationId = "tryRule",
      summary = "Show which names a rule would join, before it is set")
  Suggestions.RuleTry tryRule(@RequestParam String rule) {
    return suggestions.tryRule(rule);
  }

  @GetMapping("/api/v1/copies")
  @Operation(
      operationId = "listCopies",
      summary = "List tables that are copied column by column, with the readers of the copies")
  CopyList copies(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Suggestions.CopiedAsset> page = pages.page(limit, cursor, suggestions::copies);
    return new CopyList(page.items(), page.cursor());
  }

  @GetMapping("/api/v1/over-merged")
  @Operation(
      operationId = "listOverMerged",
      summary = "List names that hang together and are too many to be one asset")
  OverMergedList overMerged(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<OverMergedAsset> page =
        pages.page(
            limit,
            cursor,
            () ->
                catalog.overMerged().stream()
                    .map(one -> new OverMergedAsset(one.names(), text(one.from()), text(one.to())))
                    .toList());
    return new OverMergedList(page.items(), page.cursor());
  }

  private static String text(DatasetName name) {
    return name.reference();
  }
}
