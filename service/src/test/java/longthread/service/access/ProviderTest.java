package longthread.service.access;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.CookieManager;
import java.net.CookiePolicy;
import java.net.HttpCookie;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.UUID;
import longthread.service.audit.AuditLog;
import longthread.service.testing.RunningService;
import longthread.service.testing.SignInProvider;
import longthread.service.testing.SignInProvider.Fault;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** People sign in at an OpenID Connect provider, and out of it. */
class ProviderTest {
  private static SignInProvider provider;
  private static RunningService service;

  @BeforeAll
  static void start() {
    provider = new SignInProvider();
    service =
        RunningService.with(
            "--longthread.provider.issuer=" + provider.issuer(),
            "--longthread.provider.client=" + SignInProvider.CLIENT,
            "--longthread.provider.secret=" + SignInProvider.SECRET,
            "--longthread.provider.title=Hollin Vale",
            "--longthread.provider.roles=data=steward;owners of all=admin;audit=auditor");
  }

  @AfterAll
  static void stop() {
    service.close();
    provider.close();
  }

  @BeforeEach
  void nobody() {
    provider.has(Fault.NONE);
  }

  /** A browser: it keeps cookies, and follows no redirect by itself. */
  private static final class Visitor {
    private final CookieManager cookies = new CookieManager(null, CookiePolicy.ACCEPT_ALL);
    private final HttpClient http =
        HttpClient.newBuilder()
            .cookieHandler(cookies)
            .followRedirects(HttpClient.Redirect.NEVER)
            .build();

    HttpResponse<String> open(String url) {
      return send(HttpRequest.newBuilder(URI.create(url)).GET());
    }

    private HttpResponse<String> send(HttpRequest.Builder request) {
      try {
        return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
      } catch (IOException | InterruptedException e) {
        throw new IllegalStateException(e);
      }
    }

    String next(String url) {
      HttpResponse<String> answer = open(url);
      assertThat(answer.statusCode()).as(answer.body()).isEqualTo(302);
      return answer.headers().firstValue("Location").orElseThrow();
    }

    /** Goes to the provider and back; returns the page that it ends on. */
    String signIn() {
      return next(atProvider(""));
    }

    /** Goes to the provider; returns where that leads back to. */
    String atProvider(String more) {
      return next(next(service.base() + "/api/v1/session/provider" + more));
    }

    JsonNode session() {
      return new JsonMapper().readTree(open(service.base() + "/api/v1/session").body());
    }

    JsonNode signOut() {
      HttpRequest.Builder request =
          HttpRequest.newBuilder(URI.create(service.base() + "/api/v1/session")).DELETE();
      for (HttpCookie cookie : cookies.getCookieStore().getCookies()) {
        if (cookie.getName().equals("XSRF-TOKEN")) {
          request.header("X-XSRF-TOKEN", cookie.getValue());
        }
      }
      return new JsonMapper().readTree(send(request).body());
    }
  }

  private static String someone() {
    return "p" + UUID.randomUUID().toString().substring(0, 8);
  }

  @Test
  void a_person_is_signed_in_with_the_role_of_the_groups() {
    var visitor = new Visitor();
    assertThat(visitor.session().path("provider").stringValue()).isEqualTo("Hollin Vale");
    String name = someone();
    provider.signsIn(name, name, "data", "audit", "others");
    assertThat(visitor.signIn()).isEqualTo(service.base() + "/");
    JsonNode session = visitor.session();
    assertThat(session.path("name").stringValue()).isEqualTo(name);
    assertThat(session.path("displayName").stringValue()).isEqualTo("Person " + name);
    assertThat(session.path("role").stringValue()).as("the strongest").isEqualTo("steward");

    provider.signsIn(name, name + "-renamed", "audit");
    visitor.signIn();
    assertThat(visitor.session().path("role").stringValue()).isEqualTo("auditor");
    assertThat(visitor.session().path("name").stringValue()).as("the same person").isEqualTo(name);
    JsonNode entry =
        service.api().get("/api/v1/audit", "who", name, "action", "signIn").json().path("items");
    assertThat(entry).hasSize(2);
  }

  @Test
  void a_group_without_a_role_gives_what_it_holds_here() {
    String name = someone();
    provider.signsIn(name, name, "payout");
    var visitor = new Visitor();
    assertThat(visitor.signIn()).as("it holds nothing yet").endsWith("/?refused=no-role");
    service.api().send("PUT", "/api/v1/groups", "{\"name\":\"payout\"}");
    service
        .api()
        .send(
            "POST",
            "/api/v1/grants",
            "{\"holderKind\":\"group\",\"holder\":\"payout\",\"role\":\"reader\",\"scope\":\"label\","
                + "\"value\":\"personal\"}");
    assertThat(visitor.signIn()).isEqualTo(service.base() + "/");
    assertThat(visitor.session().path("role").stringValue()).isEqualTo("limited");
    assertThat(visitor.session().path("grants").get(0).path("value").stringValue())
        .isEqualTo("personal");
    JsonNode group = service.api().get("/api/v1/groups").json().path("items").get(0);
    assertThat(group.path("fromProvider").get(0).stringValue()).isEqualTo(name);

    provider.signsIn(name, name, "audit");
    visitor.signIn();
    assertThat(visitor.session().path("role").stringValue()).isEqualTo("auditor");
    assertThat(visitor.session().path("grants")).as("out of the group there").isEmpty();
  }

  @Test
  void it_goes_on_to_the_page_that_was_asked_for_and_never_elsewhere() {
    provider.signsIn(someone(), someone(), "audit");
    var visitor = new Visitor();
    assertThat(visitor.next(visitor.atProvider("?target=%2Flabels%3Ftab%3Dwork")))
        .isEqualTo(service.base() + "/labels?tab=work");
    for (String elsewhere :
        new String[] {"https://evil.example/", "//evil.example", "/\\evil.example", "x"}) {
      String target = URLEncoder.encode(elsewhere, StandardCharsets.UTF_8);
      assertThat(visitor.next(visitor.atProvider("?target=" + target)))
          .isEqualTo(service.base() + "/");
    }
  }

  @Test
  void who_has_no_group_with_a_role_is_refused_and_that_is_noted() {
    String name = someone();
    provider.signsIn(name, name, "others");
    var visitor = new Visitor();
    assertThat(visitor.signIn()).isEqualTo(service.base() + "/?refused=no-role");
    assertThat(visitor.session().path("signedIn").booleanValue()).isFalse();
    service.bean(AuditLog.class).flush();
    JsonNode entry = service.api().get("/api/v1/audit", "about", name).json().path("items").get(0);
    assertThat(entry.path("outcome").stringValue()).isEqualTo("refused");
    assertThat(entry.path("detail").stringValue()).contains("no-role");
  }

  @ParameterizedTest
  @EnumSource(value = Fault.class, mode = EnumSource.Mode.EXCLUDE, names = "NONE")
  void a_token_that_is_not_right_signs_nobody_in(Fault fault) {
    provider.signsIn(someone(), someone(), "data");
    provider.has(fault);
    var visitor = new Visitor();
    assertThat(visitor.signIn()).as(fault.name()).isEqualTo(service.base() + "/?refused=failed");
    assertThat(visitor.session().path("signedIn").booleanValue()).isFalse();
  }

  @Test
  void only_the_browser_that_left_may_come_back_and_only_once() {
    provider.signsIn(someone(), someone(), "data");
    var visitor = new Visitor();
    String back = visitor.atProvider("");
    assertThat(new Visitor().next(back)).endsWith("/?refused=expired");
    assertThat(visitor.next(back)).isEqualTo(service.base() + "/");
    assertThat(visitor.next(back)).endsWith("/?refused=expired");
    assertThat(visitor.next(service.base() + "/api/v1/session/provider/back?error=access_denied"))
        .endsWith("/?refused=cancelled");
    assertThat(visitor.next(service.base() + "/api/v1/session/provider/back"))
        .endsWith("/?refused=expired");
  }

  @Test
  void a_local_account_of_the_same_name_stays_its_owners() {
    provider.signsIn(someone(), "admin", "owners of all");
    assertThat(new Visitor().signIn()).endsWith("/?refused=name-taken");
  }

  @Test
  void an_account_that_is_disabled_here_stays_out_and_has_no_password_here() {
    String name = someone();
    provider.signsIn(name, name, "data");
    var visitor = new Visitor();
    visitor.signIn();
    var api = service.api();
    assertThat(
            api.send(
                    "PUT",
                    "/api/v1/accounts/password?name=" + name,
                    "{\"password\":\"long enough for all\"}")
                .type())
        .contains("provider-account");
    api.send("PATCH", "/api/v1/accounts?name=" + name, "{\"disabled\":true}");
    assertThat(visitor.session().path("signedIn").booleanValue()).isFalse();
    assertThat(visitor.signIn()).endsWith("/?refused=disabled");
  }

  @Test
  void signing_out_goes_on_to_the_provider() {
    provider.signsIn(someone(), someone(), "data");
    var visitor = new Visitor();
    visitor.signIn();
    visitor.session();
    JsonNode out = visitor.signOut();
    assertThat(out.path("continueAt").stringValue(""))
        .startsWith(provider.issuer() + "/end?")
        .contains("id_token_hint=", "post_logout_redirect_uri=");
    assertThat(visitor.session().path("signedIn").booleanValue()).isFalse();
  }

  @Test
  void the_provider_ends_one_session_or_all_of_a_person() {
    String name = someone();
    provider.signsIn(name, name, "data");
    var one = new Visitor();
    one.signIn();
    String first = provider.session();
    var two = new Visitor();
    two.signIn();
    assertThat(ended(provider.logoutToken("", first, false))).isEqualTo(400);
    assertThat(ended("x")).isEqualTo(400);
    assertThat(one.session().path("signedIn").booleanValue()).isTrue();
    assertThat(ended(provider.logoutToken("", first, true))).isEqualTo(200);
    assertThat(one.session().path("signedIn").booleanValue()).isFalse();
    assertThat(two.session().path("signedIn").booleanValue()).isTrue();
    assertThat(ended(provider.logoutToken(name, "", true))).isEqualTo(200);
    assertThat(two.session().path("signedIn").booleanValue()).isFalse();
  }

  private static int ended(String token) {
    return new Visitor()
        .send(
            HttpRequest.newBuilder(URI.create(service.base() + "/api/v1/session/provider/ended"))
                .header("Content-Type", "application/x-www-form-urlencoded")
                .POST(HttpRequest.BodyPublishers.ofString("logout_token=" + token)))
        .statusCode();
  }

  @Test
  void settings_that_make_no_sense_are_named_at_the_start() {
    assertThatThrownBy(() -> settings("", "x=reader"))
        .hasMessageContaining("LONGTHREAD_OIDC_CLIENT");
    assertThatThrownBy(() -> settings("c", "")).hasMessageContaining("LONGTHREAD_OIDC_ROLES");
    assertThatThrownBy(() -> settings("c", "x=emitter")).hasMessageContaining("'x=emitter'");
    assertThatThrownBy(() -> settings("c", "x")).hasMessageContaining("group=role");
    ProviderSettings everybody = settings("c", "a=b=admin;*=reader");
    assertThat(everybody.roleOf(java.util.List.of())).contains(Role.READER);
    assertThat(everybody.roleOf(java.util.List.of("a=b"))).contains(Role.ADMIN);
  }

  private static ProviderSettings settings(String client, String roles) {
    return new ProviderSettings("https://x", client, "", "openid", "t", "n", "g", roles);
  }
}
