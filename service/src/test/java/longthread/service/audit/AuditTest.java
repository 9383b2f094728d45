package longthread.service.audit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Who did what, and was refused what, is in a log that nobody changes. */
@ExtendWith(RunningService.Extension.class)
class AuditTest {
  private final RunningService service;
  private final Api api;
  private final String name = "key-" + UUID.randomUUID();

  AuditTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  private Api key(String role, String more) {
    Api.Answer made =
        api.send(
            "POST",
            "/api/v1/keys",
            "{\"name\":\"" + name + "\",\"role\":\"" + role + "\"" + more + "}");
    assertThat(made.status()).as(made.body()).isEqualTo(200);
    return new Api(service.base(), made.json().path("token").stringValue());
  }

  private JsonNode entries(String... filter) {
    service.bean(AuditLog.class).flush();
    return api.get("/api/v1/audit", filter).json().path("items");
  }

  @Test
  void a_change_is_there_with_who_made_it_and_of_what() {
    key("reader", ",\"expiresAt\":\"2099-01-01T00:00:00Z\"");
    JsonNode made = entries("action", "makeKey", "about", name).get(0);
    assertThat(made.path("who").stringValue()).isNotEmpty();
    assertThat(made.path("role").stringValue()).isEqualTo("admin");
    assertThat(made.path("byKey").booleanValue()).isTrue();
    assertThat(made.path("about").stringValue()).isEqualTo(name);
    assertThat(made.path("detail").stringValue()).contains("reader", "2099");
    assertThat(made.path("outcome").stringValue()).isEqualTo("done");

    api.event(Events.dataset("2026-11-01T00:00:00Z", "w", name, Events.schema("a")));
    String ref = "w/" + name;
    api.send(
        "POST",
        "/api/v1/statements",
        "{\"changes\":[{\"set\":\"tags\",\"of\":\"" + ref + "\",\"value\":[\"x\"]}]}");
    assertThat(entries("action", "state", "about", name)).hasSize(1);
    api.send(
        "POST",
        "/api/v1/statements?dryRun=true",
        "{\"changes\":[{\"set\":\"tags\",\"of\":\"" + ref + "\",\"value\":[\"y\"]}]}");
    assertThat(entries("action", "state", "about", name))
        .as("a dry run changes nothing")
        .hasSize(1);
    assertThat(entries("action", "sendEvent", "about", name))
        .as("events are listed elsewhere")
        .isEmpty();
  }

  @Test
  void a_refusal_is_there_and_equal_ones_are_counted() {
    Api reader = key("reader", "");
    for (int i = 0; i < 5; i++) {
      assertThat(reader.get("/api/v1/keys").status()).isEqualTo(403);
    }
    int times = 0;
    for (JsonNode entry : entries("who", name, "outcome", "refused")) {
      times += entry.path("times").intValue();
      assertThat(entry.path("action").stringValue()).isEqualTo("GET /api/v1/keys");
    }
    assertThat(times).isEqualTo(5);
    new Api(service.base(), "lt_wrong").get("/api/v1/audit");
    JsonNode unknown = entries("action", "GET /api/v1/audit").get(0);
    assertThat(unknown.path("who").stringValue()).isEmpty();
    assertThat(unknown.path("detail").stringValue()).isEqualTo("status 401");
  }

  @Test
  void a_failed_sign_in_is_there_without_its_password() {
    api.send("POST", "/api/v1/session", "{\"name\":\"" + name + "\",\"password\":\"open sesame\"}");
    JsonNode entry = entries("about", name).get(0);
    assertThat(entry.path("outcome").stringValue()).isEqualTo("refused");
    assertThat(entries("about", "sesame")).isEmpty();
    assertThat(entry.toString()).doesNotContain("sesame");
  }

  @Test
  void what_is_taken_out_as_a_file_is_there() {
    Api reader = key("reader", "");
    reader.csv("/api/v1/terms");
    reader.get("/api/v1/terms");
    JsonNode found = entries("who", name);
    assertThat(found).hasSize(1);
    assertThat(found.get(0).path("action").stringValue()).isEqualTo("listTerms");
    assertThat(found.get(0).path("detail").stringValue()).isEqualTo("as text/csv");
  }

  @Test
  void an_auditor_reads_it_and_others_do_not() {
    Api auditor = key("auditor", "");
    assertThat(auditor.get("/api/v1/audit").status()).isEqualTo(200);
    assertThat(auditor.get("/api/v1/search", "q", "x").status()).isEqualTo(200);
    assertThat(auditor.send("POST", "/api/v1/statements", "{}").status()).isEqualTo(403);
    assertThat(auditor.post("/api/v1/lineage", "{}").status()).isEqualTo(403);
    assertThat(api.get("/api/v1/audit", "outcome", "lost").status()).isEqualTo(400);
  }

  @Test
  void it_is_paged_and_written_out_line_by_line() {
    Api reader = key("reader", "");
    for (int i = 0; i < 5; i++) {
      reader.csv("/api/v1/terms");
    }
    var ids = new ArrayList<Long>();
    String cursor = null;
    do {
      JsonNode page =
          cursor == null
              ? api.get("/api/v1/audit", "who", name, "limit", "2").json()
              : api.get("/api/v1/audit", "who", name, "limit", "2", "cursor", cursor).json();
      page.path("items").forEach(entry -> ids.add(entry.path("id").longValue()));
      cursor = page.path("cursor").stringValue(null);
    } while (cursor != null);
    assertThat(ids).hasSize(5).isSortedAccordingTo((a, b) -> Long.compare(b, a));
    assertThat(api.get("/api/v1/audit", "cursor", "x7").status()).isEqualTo(400);

    HttpResponse<byte[]> lines = api.bytes("application/x-ndjson", "/api/v1/audit", "who", name);
    List<String> text = new String(lines.body(), StandardCharsets.UTF_8).lines().toList();
    assertThat(text).hasSize(5);
    JsonNode first = new JsonMapper().readTree(text.get(0));
    assertThat(Instant.parse(first.path("at").stringValue())).isBefore(Instant.now());
    assertThat(first.path("id").longValue()).isEqualTo(ids.get(0));
  }

  @Test
  void nobody_changes_it_not_even_with_the_database_in_hand() {
    key("reader", "");
    for (String change :
        List.of(
            "update public.audit_entry set who = 'x'",
            "delete from public.audit_entry",
            "truncate public.audit_entry")) {
      assertThatThrownBy(() -> service.jdbc().execute(change)).hasMessageContaining("append-only");
    }
  }

  @Test
  void a_key_ends_by_itself_and_says_when_it_was_used() throws InterruptedException {
    Instant end = Instant.now().plusSeconds(2);
    Api brief = key("reader", ",\"expiresAt\":\"" + end + "\"");
    assertThat(brief.get("/api/v1/search", "q", "x").status()).isEqualTo(200);
    JsonNode listed = null;
    for (JsonNode one : api.get("/api/v1/keys", "limit", "1000").json()) {
      listed = one.path("name").stringValue().equals(name) ? one : listed;
    }
    assertThat(listed).isNotNull();
    assertThat(Instant.parse(listed.path("lastUsedAt").stringValue())).isBefore(end);
    while (Instant.now().isBefore(end.plusMillis(50))) {
      Thread.sleep(100);
    }
    assertThat(brief.get("/api/v1/search", "q", "x").status()).as("at once").isEqualTo(401);
    Api.Answer past =
        api.send(
            "POST",
            "/api/v1/keys",
            "{\"name\":\"late\",\"role\":\"reader\",\"expiresAt\":\"2020-01-01T00:00:00Z\"}");
    assertThat(past.status()).isEqualTo(400);
    assertThat(past.detail()).contains("give a future time");
  }
}
