package longthread.service.access;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import longthread.service.audit.AuditNote;
import longthread.service.web.Pages;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The bearer keys of programs. */
@RestController
@RequestMapping("/api/v1/keys")
class KeyController {
  /**
   * What a key is for, and what it may do.
   *
   * @param expiresAt when it ends by itself, with offset; never if absent
   */
  record NewKey(@Nullable String name, @Nullable String role, @Nullable String expiresAt) {}

  /** A key that was made; its token is shown this once. */
  record MadeKey(String name, String role, String token) {}

  private final Keys keys;

  private final Pages pages;

  KeyController(Keys keys, Pages pages) {
    this.pages = pages;
    this.keys = keys;
  }

  /** The keys by name, without their tokens; a further page is named by the header Link. */
  @GetMapping
  @Operation(operationId = "listKeys", summary = "List the keys of programs, without their tokens")
  ResponseEntity<List<Keys.Listed>> listKeys(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Keys.Listed> page = pages.page(limit, cursor, keys::list);
    return ResponseEntity.ok().headers(page.next("/api/v1/keys", limit)).body(page.items());
  }

  @PostMapping
  @Operation(operationId = "makeKey", summary = "Make a key; its token is shown this once")
  MadeKey makeKey(Authentication who, @RequestBody NewKey wanted) {
    Role role = Role.checked(wanted.role());
    AuditNote.about(wanted.name());
    AuditNote.detail(
        "role " + role.word() + (wanted.expiresAt() == null ? "" : " until " + wanted.expiresAt()));
    String token =
        keys.make(
            wanted.name(),
            role,
            wanted.expiresAt() == null ? null : Times.parse(wanted.expiresAt()),
            who.getName());
    return new MadeKey(HolderNames.checked(wanted.name()), role.word(), token);
  }

  @DeleteMapping("/{name}")
  @Operation(operationId = "revokeKey", summary = "Revoke a key by its name")
  void revokeKey(@PathVariable String name) {
    AuditNote.about(name);
    keys.revoke(name);
  }

  /** Revokes a key by its number in the list, whatever its name is. */
  @DeleteMapping
  @Operation(operationId = "revokeKeyById", summary = "Revoke a key by its number in the list")
  void revokeKey(@RequestParam long id) {
    keys.revoke(id);
  }
}
