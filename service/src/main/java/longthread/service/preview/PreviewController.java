package longthread.service.preview;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import longthread.service.audit.AuditLog;
import longthread.service.audit.AuditNote;
import longthread.service.web.Csv;
import longthread.service.web.OutgoingText;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Previews and their sources over HTTP. */
@RestController
class PreviewController {
  record SourceList(List<PreviewSources.ListedSource> items, @Nullable String cursor) {}

  private final Previews previews;
  private final Sampler sampler;
  private final PreviewSources sources;
  private final Pages pages;

  PreviewController(Previews previews, PreviewSources sources, Sampler sampler, Pages pages) {
    this.sampler = sampler;
    this.previews = previews;
    this.sources = sources;
    this.pages = pages;
  }

  @GetMapping("/api/v1/preview")
  @Operation(
      operationId = "preview",
      summary = "Show a few rows as they are at the source, masked for the caller",
      responses =
          @ApiResponse(
              responseCode = "200",
              content = {
                @Content(
                    mediaType = "application/json",
                    schema = @Schema(implementation = Previews.PreviewRows.class)),
                @Content(mediaType = "text/csv", schema = @Schema(type = "string"))
              }))
  Previews.@Nullable PreviewRows preview(
      HttpServletRequest request,
      HttpServletResponse response,
      Authentication who,
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable Integer limit)
      throws IOException {
    int rows = limit == null ? Previews.DEFAULT_ROWS : limit;
    if (rows < 1 || rows > Previews.MAX_ROWS) {
      throw ProblemException.badRequest(
          "bad-limit", "limit is " + rows + "; it takes 1 to " + Previews.MAX_ROWS);
    }
    response.setHeader("Cache-Control", "no-store");
    Previews.PreviewRows found = previews.of(ref, rows, AuditLog.Caller.of(who, request));
    if (Csv.isWanted(request)) {
      OutgoingText.clear(); // values of what the caller sees, not words about the catalog
      Csv.send(
          response,
          "preview.csv",
          found.columns().stream().map(Previews.PreviewColumn::name).toList(),
          found.rows());
      return null;
    }
    return found;
  }

  /** Looks at values of one asset's columns without labels; what they look like is kept. */
  @PostMapping("/api/v1/preview/sample")
  @Operation(
      operationId = "sampleValues",
      summary = "Look at values of columns without labels now, to propose labels")
  Sampler.SampleFound sample(@RequestParam String ref) {
    return sampler.sample(ref);
  }

  @GetMapping("/api/v1/preview/sources")
  @Operation(
      operationId = "listPreviewSources",
      summary = "List the databases and folders from which rows can be shown")
  SourceList sources(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<PreviewSources.ListedSource> page = pages.page(limit, cursor, sources::all);
    return new SourceList(page.items(), page.cursor());
  }

  @PutMapping("/api/v1/preview/sources")
  @Operation(
      operationId = "putPreviewSource",
      summary = "Set a database or folder from which rows can be shown")
  PreviewSources.ListedSource put(
      Authentication who, @RequestBody PreviewSources.WantedSource wanted) {
    AuditNote.about(wanted.name());
    AuditNote.detail(
        wanted.under()
            + " from "
            + (wanted.url() == null ? wanted.folder() : wanted.url())
            + (Boolean.TRUE.equals(wanted.sampled()) ? ", sampled" : ""));
    boolean administers =
        who.getAuthorities().stream().anyMatch(a -> "ROLE_ADMIN".equals(a.getAuthority()));
    return sources.put(who.getName(), administers, wanted);
  }

  @DeleteMapping("/api/v1/preview/sources")
  @Operation(operationId = "deletePreviewSource", summary = "Show rows from there no more")
  void delete(@RequestParam String name) {
    sources.delete(name);
  }
}
