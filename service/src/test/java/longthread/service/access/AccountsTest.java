package longthread.service.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Browser;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(RunningService.Extension.class)
class AccountsTest {
  private static final String PASSWORD = "a long password";

  private RunningService service;
  private String name;

  @BeforeEach
  void makeAccount(RunningService running) {
    service = running;
    name = "person-" + UUID.randomUUID();
    Api.Answer made =
        send(
            "/api/v1/accounts",
            "{'name':'" + name + "','password':'" + PASSWORD + "','role':'reader'}");
    assertThat(made.status()).isEqualTo(200);
  }

  private Api.Answer send(String path, String body) {
    return service.api().post(path, body.replace('\'', '"'), "Content-Type", "application/json");
  }

  private Api.Answer change(String method, String path, String body) {
    return service.api().send(method, path, body.replace('\'', '"'));
  }

  private Browser signedIn() {
    var browser = new Browser(service.base());
    assertThat(browser.signIn(name, PASSWORD).status()).isEqualTo(200);
    return browser;
  }

  @Test
  void accounts_are_listed_without_anything_of_their_passwords() {
    signedIn();
    Api.Answer list = service.api().get("/api/v1/accounts");
    assertThat(list.body()).contains(name, "lastSignInAt").doesNotContain("bcrypt", "assword");
  }

  @Test
  void who_is_disabled_is_signed_out_and_kept_out_until_enabled_again() {
    Browser browser = signedIn();
    assertThat(browser.get("/api/v1/search").status()).isEqualTo(200);
    String path = "/api/v1/accounts?name=" + name;
    assertThat(change("PATCH", path, "{'disabled':true}").body()).contains("disabledAt");
    assertThat(browser.get("/api/v1/search").status()).isEqualTo(401);
    Api.Answer refused = new Browser(service.base()).signIn(name, PASSWORD);
    assertThat(refused.status()).isEqualTo(403);
    assertThat(refused.type()).isEqualTo("/problems/account-disabled");
    assertThat(change("PATCH", path, "{'disabled':false}").body()).doesNotContain("disabledAt");
    signedIn();
  }

  @Test
  void a_role_that_changes_counts_in_sessions_that_are_open() {
    Browser browser = signedIn();
    assertThat(browser.get("/api/v1/keys").status()).isEqualTo(403);
    change("PATCH", "/api/v1/accounts?name=" + name, "{'role':'admin'}");
    assertThat(browser.get("/api/v1/keys").status()).isEqualTo(200);
    assertThat(change("PATCH", "/api/v1/accounts?name=" + name, "{'role':'king'}").type())
        .isEqualTo("/problems/unknown-role");
  }

  @Test
  void a_person_changes_the_own_password_and_other_sessions_end() {
    Browser here = signedIn();
    Browser elsewhere = signedIn();
    String wrong = "{'current':'not the password','password':'another password'}";
    assertThat(here.send("PUT", "/api/v1/session/password", wrong).type())
        .isEqualTo("/problems/wrong-password");
    String right = "{'current':'" + PASSWORD + "','password':'another password'}";
    assertThat(here.send("PUT", "/api/v1/session/password", right).status()).isEqualTo(200);
    assertThat(here.get("/api/v1/search").status()).isEqualTo(200);
    assertThat(elsewhere.get("/api/v1/search").status()).isEqualTo(401);
    assertThat(new Browser(service.base()).signIn(name, PASSWORD).status()).isEqualTo(401);
    assertThat(new Browser(service.base()).signIn(name, "another password").status())
        .isEqualTo(200);
    // a key is nobody's session
    assertThat(change("PUT", "/api/v1/session/password", right).status()).isEqualTo(401);
  }

  @Test
  void an_administrator_sets_a_password_within_the_limits_of_its_hash() {
    String path = "/api/v1/accounts/password?name=" + name;
    assertThat(change("PUT", path, "{'password':'" + "ö".repeat(40) + "'}").type())
        .isEqualTo("/problems/long-password");
    assertThat(change("PUT", path, "{'password':'short'}").type())
        .isEqualTo("/problems/short-password");
    assertThat(change("PUT", path, "{'password':'quite another one'}").status()).isEqualTo(200);
    assertThat(new Browser(service.base()).signIn(name, "quite another one").status())
        .isEqualTo(200);
  }

  @Test
  void a_deleted_account_is_gone_with_its_sessions_and_the_last_administrator_stays() {
    Browser browser = signedIn();
    assertThat(service.api().delete("/api/v1/accounts?name=" + name).status()).isEqualTo(200);
    assertThat(browser.get("/api/v1/search").status()).isEqualTo(401);
    Api.Answer again = service.api().delete("/api/v1/accounts?name=" + name);
    assertThat(again.status()).isEqualTo(404);
    service.jdbc().update("delete from account where role = 'admin' and name <> 'admin'");
    assertThat(service.api().delete("/api/v1/accounts?name=admin").type())
        .isEqualTo("/problems/last-administrator");
    assertThat(change("PATCH", "/api/v1/accounts?name=admin", "{'disabled':true}").type())
        .isEqualTo("/problems/last-administrator");
  }

  @Test
  void signing_out_ends_the_session_even_for_who_kept_its_cookie() {
    Browser browser = signedIn();
    String cookie = "longthread_session=" + browser.cookie("longthread_session");
    assertThat(browser.send("DELETE", "/api/v1/session", "").body()).contains("false");
    var thief = new Api(service.base(), "");
    assertThat(thief.get("/api/v1/search", new String[0], "Cookie", cookie).status())
        .isEqualTo(401);
  }

  @Test
  void guessing_is_refused_for_longer_and_longer_even_with_the_right_password() {
    var browser = new Browser(service.base());
    for (int i = 0; i < SignIns.FREE_TRIES; i++) {
      assertThat(browser.signIn(name, "a wrong password").status()).isEqualTo(401);
    }
    Api.Answer refused = browser.signIn(name, PASSWORD);
    assertThat(refused.status()).isEqualTo(429);
    assertThat(refused.type()).isEqualTo("/problems/too-many-sign-ins");
    assertThat(Long.parseLong(refused.headers().firstValue("Retry-After").orElseThrow()))
        .isBetween(20L, 30L);
    // other accounts go on, and the block ends
    assertThat(browser.signIn("admin", RunningService.PASSWORD).status()).isEqualTo(200);
    service
        .jdbc()
        .update(
            "update failed_sign_in set blocked_until = now() where subject like ?",
            "%" + name + "%");
    assertThat(browser.signIn(name, "a wrong password").status()).isEqualTo(401);
    assertThat(
            Long.parseLong(
                browser.signIn(name, PASSWORD).headers().firstValue("Retry-After").orElseThrow()))
        .as("twice as long")
        .isBetween(50L, 60L);
  }

  @Test
  void a_second_home_on_the_database_gets_a_key_of_its_own_and_a_revoked_one_stays_so() {
    Keys keys = service.bean(Keys.class);
    String theirs = "lt_second-" + UUID.randomUUID();
    assertThat(keys.ensure("first-key", Role.ADMIN, theirs)).isTrue();
    assertThat(new Api(service.base(), theirs).get("/api/v1/keys").status()).isEqualTo(200);
    assertThat(service.api().get("/api/v1/keys").status()).as("the first one").isEqualTo(200);
    var second = keys.list().stream().filter(k -> k.name().startsWith("first-key-")).toList();
    second.forEach(key -> keys.revoke(key.id()));
    assertThat(keys.ensure("first-key", Role.ADMIN, theirs)).as("revoked").isFalse();
    assertThat(new Api(service.base(), theirs).get("/api/v1/keys").status()).isEqualTo(401);
    assertThat(service.bean(Accounts.class).addFirst("another first password")).isFalse();
    assertThat(service.bean(Accounts.class).matches("admin", RunningService.PASSWORD)).isTrue();
  }
}
