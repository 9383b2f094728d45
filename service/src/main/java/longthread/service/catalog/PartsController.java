package longthread.service.catalog;

import io.swagger.v3.oas.annotations.Operation;
import java.time.LocalDate;
import java.util.List;
import longthread.service.live.Asset;
import longthread.service.live.References;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The parts of an asset and the folding rules over HTTP. */
@RestController
class PartsController {
  record Parts(
      String ref,
      List<String> rules,
      int total,
      List<LocalDate> missingDays,
      List<AssetParts.AssetPart> parts,
      @Nullable String cursor) {}

  private final References references;
  private final AssetParts parts;
  private final Pages pages;

  PartsController(References references, AssetParts parts, Pages pages) {
    this.references = references;
    this.parts = parts;
    this.pages = pages;
  }

  @GetMapping("/api/v1/fold")
  @Operation(operationId = "foldName", summary = "Show what the folding rules make of a name")
  AssetParts.Fold fold(@RequestParam String name) {
    return parts.fold(name);
  }

  @GetMapping("/api/v1/parts")
  @Operation(
      operationId = "listParts",
      summary = "List the names that fold into an asset, with missing days")
  Parts parts(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Asset asset = references.resolve(ref).asset();
    AssetParts.Parts all = parts.of(asset);
    Pages.Page<AssetParts.AssetPart> page = pages.page(limit, cursor, all::all);
    return new Parts(
        asset.ref(), all.rules(), all.all().size(), all.missingDays(), page.items(), page.cursor());
  }
}
