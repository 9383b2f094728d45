package longthread.service.access;

import io.swagger.v3.oas.annotations.Operation;
import java.time.Instant;
import java.util.List;
import longthread.service.audit.AuditNote;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PatchMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The accounts of people, as administrators see them. */
@RestController
@RequestMapping("/api/v1/accounts")
class AccountController {
  /** An account to be made. */
  record NewAccount(
      @Nullable String name,
      @Nullable String displayName,
      @Nullable String password,
      @Nullable String role) {}

  /** What is to change of an account; what is missing stays. */
  record AccountChange(
      @Nullable String displayName, @Nullable String role, @Nullable Boolean disabled) {}

  /** A password for an account. */
  record NewPassword(@Nullable String password) {}

  /**
   * An account as it is listed.
   *
   * @param provider the provider at which its owner signs in; absent for a local account
   */
  record ListedAccount(
      String name,
      String displayName,
      String role,
      Instant createdAt,
      @Nullable Instant lastSignInAt,
      @Nullable Instant disabledAt,
      @Nullable String provider) {}

  /** A page of the accounts, by name. */
  record AccountList(List<ListedAccount> items, int total, @Nullable String cursor) {}

  private final Accounts accounts;
  private final FirstSignIn firstSignIn;

  private final Pages pages;

  AccountController(Accounts accounts, FirstSignIn firstSignIn, Pages pages) {
    this.pages = pages;
    this.accounts = accounts;
    this.firstSignIn = firstSignIn;
  }

  @GetMapping
  @Operation(operationId = "listAccounts", summary = "List the accounts of people")
  AccountList listAccounts(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Pages.Page<ListedAccount> page =
        pages.page(
            limit, cursor, () -> accounts.list().stream().map(AccountController::listed).toList());
    return new AccountList(page.items(), page.total(), page.cursor());
  }

  @PostMapping
  @Operation(operationId = "makeAccount", summary = "Make an account")
  ListedAccount makeAccount(@RequestBody NewAccount wanted) {
    AuditNote.about(wanted.name());
    AuditNote.detail("role " + wanted.role());
    return listed(
        accounts.add(
            wanted.name(), wanted.displayName(), wanted.password(), Role.checked(wanted.role())));
  }

  /** Changes display name or role of an account, disables it, or enables it again. */
  @PatchMapping
  @Operation(operationId = "changeAccount", summary = "Change an account, disable or enable it")
  ListedAccount changeAccount(@RequestParam String name, @RequestBody AccountChange change) {
    AuditNote.detail(
        (change.role() == null ? "" : "role " + change.role() + " ")
            + (change.disabled() == null ? "" : change.disabled() ? "disabled" : "enabled"));
    return listed(
        accounts.change(
            name,
            change.displayName(),
            change.role() == null ? null : Role.checked(change.role()),
            change.disabled()));
  }

  /** Gives an account another password; all its sessions end. */
  @PutMapping("/password")
  @Operation(
      operationId = "setAccountPassword",
      summary = "Give an account another password; its sessions end")
  void setPassword(@RequestParam String name, @RequestBody NewPassword given) {
    accounts.changePassword(name, given.password());
    firstSignIn.passwordChanged(name);
  }

  @DeleteMapping
  @Operation(operationId = "deleteAccount", summary = "Delete an account; its sessions end")
  void deleteAccount(@RequestParam String name) {
    accounts.delete(name);
    firstSignIn.passwordChanged(name);
  }

  private static ListedAccount listed(Accounts.Account account) {
    return new ListedAccount(
        account.name(),
        account.displayName(),
        account.role().word(),
        account.createdAt(),
        account.lastSignInAt(),
        account.disabledAt(),
        account.issuer());
  }
}
