package longthread.service.access;

import io.swagger.v3.oas.annotations.Operation;
import java.util.List;
import longthread.service.audit.AuditNote;
import longthread.service.web.Pages;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Grants on parts of the catalog, and groups of people that hold them. */
@RestController
class GrantController {
  /**
   * A role for somebody on a part of the catalog.
   *
   * @param holderKind account, group or key
   * @param scope everything, system, workspace or label
   * @param value the system, workspace or label; absent for everything
   * @param until when it ends by itself, with offset; never if absent
   */
  record NewGrant(
      @Nullable String holderKind,
      @Nullable String holder,
      @Nullable String role,
      @Nullable String scope,
      @Nullable String value,
      @Nullable String until) {}

  /** A page of the grants, by holder. */
  record GrantList(List<Grants.GrantRow> items, int total, @Nullable String cursor) {}

  /** A group; who is in it is changed one by one. */
  record NewGroup(@Nullable String name, @Nullable String title) {}

  /** An account for a group. */
  record NewMember(@Nullable String group, @Nullable String account) {}

  /** A page of the groups, by name. */
  record GroupList(List<Grants.ListedGroup> items, int total, @Nullable String cursor) {}

  private final Grants grants;
  private final Pages pages;

  GrantController(Grants grants, Pages pages) {
    this.grants = grants;
    this.pages = pages;
  }

  @GetMapping("/api/v1/grants")
  @Operation(operationId = "listGrants", summary = "List who holds which role on what")
  GrantList list(
      @RequestParam(required = false) @Nullable String holderKind,
      @RequestParam(required = false) @Nullable String holder,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Grants.GrantRow> page =
        pages.page(limit, cursor, () -> grants.list(holderKind, holder));
    return new GrantList(page.items(), page.total(), page.cursor());
  }

  @PostMapping("/api/v1/grants")
  @Operation(
      operationId = "giveGrant",
      summary = "Give an account, group or key a role on everything, a system, workspace or label")
  Grants.GrantRow give(Authentication who, @RequestBody NewGrant wanted) {
    AuditNote.about(wanted.holderKind() + " " + wanted.holder());
    AuditNote.detail(
        wanted.role()
            + " on "
            + wanted.scope()
            + (wanted.value() == null ? "" : " " + wanted.value())
            + (wanted.until() == null ? "" : " until " + wanted.until()));
    return grants.give(
        wanted.holderKind(),
        wanted.holder(),
        wanted.role(),
        wanted.scope(),
        wanted.value(),
        wanted.until() == null ? null : Times.parse(wanted.until()),
        who.getName());
  }

  @DeleteMapping("/api/v1/grants")
  @Operation(operationId = "endGrant", summary = "End a grant by its number in the list")
  void end(@RequestParam long id) {
    Grants.GrantRow ended = grants.end(id);
    AuditNote.about(ended.holderKind() + " " + ended.holder());
    AuditNote.detail((ended.role() + " on " + ended.scope() + " " + ended.value()).strip());
  }

  @GetMapping("/api/v1/groups")
  @Operation(operationId = "listGroups", summary = "List the groups of people and who is in them")
  GroupList groups(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<Grants.ListedGroup> page = pages.page(limit, cursor, grants::groups);
    return new GroupList(page.items(), page.total(), page.cursor());
  }

  @PutMapping("/api/v1/groups")
  @Operation(operationId = "putGroup", summary = "Make a group, or give one another title")
  Grants.ListedGroup put(@RequestBody NewGroup wanted) {
    AuditNote.about(wanted.name());
    return grants.putGroup(wanted.name(), wanted.title());
  }

  @DeleteMapping("/api/v1/groups")
  @Operation(operationId = "deleteGroup", summary = "Delete a group with what it holds")
  void delete(@RequestParam String name) {
    grants.deleteGroup(name);
  }

  @PutMapping("/api/v1/groups/members")
  @Operation(operationId = "addMember", summary = "Put an account into a group")
  Grants.ListedGroup add(@RequestBody NewMember wanted) {
    AuditNote.about(wanted.group());
    AuditNote.detail("added " + wanted.account());
    return grants.addMember(wanted.group(), wanted.account());
  }

  @DeleteMapping("/api/v1/groups/members")
  @Operation(operationId = "removeMember", summary = "Take an account out of a group")
  Grants.ListedGroup remove(@RequestParam String group, @RequestParam String account) {
    AuditNote.about(group);
    AuditNote.detail("removed " + account);
    return grants.removeMember(group, account);
  }
}
