package longthread.service.sharing;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.http.HttpServletRequest;
import java.util.List;
import longthread.service.live.References;
import longthread.service.web.Pages;
import longthread.service.web.PublicAddress;
import org.jspecify.annotations.Nullable;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Links to the state of one report, over HTTP. */
@RestController
class ShareController {
  record ShareLinkList(List<ShareLinks.ListedShareLink> items, @Nullable String cursor) {}

  private final ShareLinks links;
  private final References references;
  private final PublicAddress address;
  private final Pages pages;

  ShareController(ShareLinks links, References references, PublicAddress address, Pages pages) {
    this.links = links;
    this.references = references;
    this.address = address;
    this.pages = pages;
  }

  @PostMapping("/api/v1/share-links")
  @Operation(
      operationId = "makeShareLink",
      summary = "Make a link by which anybody sees the state of one asset, until it ends")
  ShareLinks.MadeShareLink make(
      HttpServletRequest request, Authentication who, @RequestBody ShareLinks.NewShareLink wanted) {
    return links.make(who.getName(), wanted, address.base(request));
  }

  @GetMapping("/api/v1/share-links")
  @Operation(operationId = "listShareLinks", summary = "List the links that were made")
  ShareLinkList list(
      @RequestParam(required = false) @Nullable String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    String about = ref == null ? null : references.resolve(ref).asset().ref();
    Pages.Page<ShareLinks.ListedShareLink> page = pages.page(limit, cursor, () -> links.all(about));
    return new ShareLinkList(page.items(), page.cursor());
  }

  @DeleteMapping("/api/v1/share-links")
  @Operation(operationId = "revokeShareLink", summary = "Revoke a link: it opens nothing any more")
  void revoke(@RequestParam String id) {
    links.revoke(id);
  }
}
