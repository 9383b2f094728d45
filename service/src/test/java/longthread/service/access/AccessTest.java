package longthread.service.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.CookieManager;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(RunningService.Extension.class)
class AccessTest {
  private RunningService service;

  @BeforeEach
  void useService(RunningService running) {
    service = running;
  }

  private Api key(String role) {
    String name = role + "-" + UUID.randomUUID();
    Api.Answer made =
        service
            .api()
            .post(
                "/api/v1/keys",
                "{\"name\":\"" + name + "\",\"role\":\"" + role + "\"}",
                "Content-Type",
                "application/json");
    assertThat(made.status()).isEqualTo(200);
    return new Api(service.base(), made.json().path("token").stringValue(""));
  }

  @Test
  void without_a_key_nothing_is_told_or_taken() {
    var nobody = new Api(service.base(), "");
    assertThat(nobody.get("/api/v1/search").status()).isEqualTo(401);
    assertThat(nobody.post("/api/v1/lineage", "{}").status()).isEqualTo(401);
    assertThat(nobody.post("/", "{}").status()).isEqualTo(401);
    assertThat(nobody.get("/metrics").status()).isEqualTo(401);
    assertThat(new Api(service.base(), "wrong").get("/api/v1/search").type())
        .isEqualTo("/problems/not-signed-in");
    assertThat(nobody.get("/health").status()).isEqualTo(200);
    assertThat(nobody.get("/api/v1/openapi.json").status()).isEqualTo(200);
  }

  @Test
  void an_emitter_only_sends_and_a_reader_only_asks() {
    Api emitter = key("emitter");
    assertThat(emitter.get("/api/v1/search").status()).isEqualTo(403);
    assertThat(emitter.post("/api/v1/lineage", "{}").status()).isEqualTo(400);
    Api reader = key("reader");
    assertThat(reader.get("/api/v1/search").status()).isEqualTo(200);
    assertThat(reader.post("/api/v1/lineage", "{}").status()).isEqualTo(403);
    assertThat(reader.get("/api/v1/keys").status()).isEqualTo(403);
    assertThat(key("steward").post("/api/v1/lineage", "{}").status()).isEqualTo(400);
  }

  @Test
  void a_revoked_key_is_worth_nothing_and_no_token_is_kept() {
    String name = "gone-" + UUID.randomUUID();
    String body = "{\"name\":\"" + name + "\",\"role\":\"reader\"}";
    Api.Answer made = service.api().post("/api/v1/keys", body, "Content-Type", "application/json");
    String token = made.json().path("token").stringValue("");
    var api = new Api(service.base(), token);
    assertThat(api.get("/api/v1/search").status()).isEqualTo(200);
    service.api().delete("/api/v1/keys/" + name);
    assertThat(api.get("/api/v1/search").status()).isEqualTo(401);
    assertThat(service.api().get("/api/v1/keys").body()).contains(name).doesNotContain(token);
    assertThat(
            service.api().post("/api/v1/keys", body, "Content-Type", "application/json").status())
        .isEqualTo(409);
  }

  @Test
  void a_person_signs_in_to_a_guarded_session() throws IOException, InterruptedException {
    var cookies = new CookieManager();
    var browser = HttpClient.newBuilder().cookieHandler(cookies).build();
    HttpResponse<String> before = get(browser, "/api/v1/session");
    assertThat(before.body()).contains("\"signedIn\":false");
    assertThat(before.headers().allValues("Set-Cookie"))
        .anyMatch(c -> c.startsWith("XSRF-TOKEN") && c.contains("SameSite=Strict"));
    String body = "{\"name\":\"admin\",\"password\":\"" + RunningService.PASSWORD + "\"}";
    assertThat(post(browser, body, "").statusCode()).as("without the token").isEqualTo(403);
    String token = cookie(cookies, "XSRF-TOKEN");
    HttpResponse<String> wrong = post(browser, body.replace("test-", "guess-"), token);
    assertThat(wrong.statusCode()).isEqualTo(401);
    assertThat(wrong.body()).contains("wrong-sign-in");
    HttpResponse<String> in = post(browser, body, token);
    assertThat(in.statusCode()).isEqualTo(200);
    assertThat(in.headers().allValues("Set-Cookie"))
        .anyMatch(
            c ->
                c.startsWith("longthread_session")
                    && c.contains("HttpOnly")
                    && c.contains("SameSite=Strict"));
    assertThat(get(browser, "/api/v1/search").statusCode()).isEqualTo(200);
    assertThat(get(HttpClient.newHttpClient(), "/api/v1/search").statusCode()).isEqualTo(401);
  }

  private HttpResponse<String> get(HttpClient browser, String path)
      throws IOException, InterruptedException {
    return browser.send(
        HttpRequest.newBuilder(URI.create(service.base() + path)).build(),
        HttpResponse.BodyHandlers.ofString());
  }

  private HttpResponse<String> post(HttpClient browser, String body, String token)
      throws IOException, InterruptedException {
    return browser.send(
        HttpRequest.newBuilder(URI.create(service.base() + "/api/v1/session"))
            .header("Content-Type", "application/json")
            .header("X-XSRF-TOKEN", token)
            .POST(HttpRequest.BodyPublishers.ofString(body))
            .build(),
        HttpResponse.BodyHandlers.ofString());
  }

  private static String cookie(CookieManager cookies, String name) {
    return cookies.getCookieStore().getCookies().stream()
        .filter(cookie -> cookie.getName().equals(name))
        .map(java.net.HttpCookie::getValue)
        .findFirst()
        .orElse("");
  }
}
