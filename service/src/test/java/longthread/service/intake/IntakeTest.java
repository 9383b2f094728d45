package longthread.service.intake;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.UUID;
import java.util.zip.GZIPOutputStream;
import longthread.service.log.BlockCodec;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

@ExtendWith(RunningService.Extension.class)
class IntakeTest {
  private static final String AT = "2031-05-01T02:00:00Z";
  private final String namespace = "intake-" + UUID.randomUUID();
  private RunningService service;
  private Api api;

  @BeforeEach
  void useService(RunningService running) {
    service = running;
    api = running.api();
  }

  private String event(String job) {
    return Events.run("COMPLETE", "2026-05-01T02:00:00Z", UUID.randomUUID(), namespace, job, "")
        .replace('\'', '"');
  }

  @Test
  void an_event_is_accepted_with_a_body_and_shows_at_once_when_asked_to_wait() {
    Api.Answer answer = api.post("/api/v1/lineage", event("a"), "Prefer", "wait=5");
    assertThat(answer.status()).isEqualTo(201);
    assertThat(answer.json().path("receipt").stringValue("")).isNotBlank();
    assertThat(answer.headers().firstValue("Preference-Applied")).contains("wait");
    assertThat(api.get("/api/v1/asset", "ref", "@" + namespace + "/a").status()).isEqualTo(200);
  }

  @Test
  void a_receipt_makes_any_query_see_its_events() {
    String receipt = api.post("/api/v1/lineage", event("r")).json().path("receipt").stringValue("");
    Api.Answer asset = api.get("/api/v1/asset", "ref", "@" + namespace + "/r", "after", receipt);
    assertThat(asset.status()).isEqualTo(200);
    assertThat(api.get("/api/v1/search", "after", "soon").type())
        .isEqualTo("/problems/bad-receipt");
  }

  @ParameterizedTest
  @CsvSource({"/", "/api/v1/lineage", "/api/v1/lineage/"})
  void the_standards_own_addresses_are_all_taken(String path) {
    Api.Answer answer =
        api.post(
            path,
            event("b"),
            "Content-Type",
            "application/json; charset=UTF-8",
            "Accept",
            "application/json; charset=UTF-8");
    assertThat(answer.status()).isEqualTo(201);
    assertThat(answer.body()).isNotEmpty();
  }

  @Test
  void gzip_is_unpacked_and_what_only_claims_to_be_is_refused() throws IOException {
    var packed = new ByteArrayOutputStream();
    try (var gzip = new GZIPOutputStream(packed)) {
      gzip.write(event("z").getBytes(StandardCharsets.UTF_8));
    }
    assertThat(
            api.post("/api/v1/lineage", packed.toByteArray(), "Content-Encoding", "gzip").status())
        .isEqualTo(201);
    assertThat(api.post("/api/v1/lineage", event("z"), "Content-Encoding", "gzip").type())
        .isEqualTo("/problems/bad-gzip");
    assertThat(api.post("/api/v1/lineage", event("z"), "Content-Encoding", "br").type())
        .isEqualTo("/problems/unknown-encoding");
  }

  @Test
  void the_same_bytes_count_once() {
    String event = event("twice");
    api.event(event);
    assertThat(api.post("/api/v1/lineage", event).json().path("duplicate").booleanValue()).isTrue();
    long seen =
        service
            .jdbc()
            .queryForObject(
                "select count(*) from recent_event where about = ?",
                Long.class,
                "@" + namespace + "/twice");
    assertThat(seen).isEqualTo(1);
  }

  @Test
  void the_received_bytes_are_kept_exactly() {
    String event = "  " + event("bytes").replace(",", " ,\t");
    String receipt =
        api.post("/api/v1/lineage", event, "Prefer", "wait=5")
            .json()
            .path("receipt")
            .stringValue("");
    byte[] block =
        service
            .jdbc()
            .queryForObject(
                "select body from event_block where id = ?", byte[].class, Long.parseLong(receipt));
    assertThat(BlockCodec.entries(block))
        .extracting(entry -> new String(entry.bytes(), StandardCharsets.UTF_8))
        .contains(event);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '^',
      value = {
        "{not json|not-json",
        "[]|not-an-object",
        "{}|missing-member",
        "{\"eventTime\":\"2031-05-01T02:00:00Z\",\"producer\":\"p\",\"schemaURL\":\"s\",\"job\":7}|wrong-type",
        "{\"eventTime\":\"2031-05-01T02:00:00Z\",\"producer\":\"p\",\"schemaURL\":\"s\",\"job\":{\"namespace\":\"n\",\"name\":\"\\ud800\"}}|bad-name",
      })
  void what_cannot_be_read_is_refused_with_a_next_step_and_kept(String body, String problem) {
    Api.Answer answer = api.post("/api/v1/lineage", body);
    assertThat(answer.status()).isEqualTo(400);
    assertThat(answer.type()).isEqualTo("/problems/" + problem);
    assertThat(answer.headers().firstValue("Content-Type").orElse(""))
        .startsWith("application/problem+json");
    long block = Long.parseLong(answer.json().path("receipt").stringValue(""));
    assertThat(
            service
                .jdbc()
                .queryForList(
                    "select problem from refused_event where block_id = ?", String.class, block))
        .containsExactly(problem);
    assertThat(api.get("/api/v1/intake").json().path("refusals").toString()).contains(problem);
  }

  @Test
  void too_much_too_deep_and_not_text_are_refused_each_for_its_reason() {
    Api.Answer large = api.post("/api/v1/lineage", "{\"x\":\"" + "y".repeat(2_100_000) + "\"}");
    assertThat(large.status()).isEqualTo(413);
    assertThat(large.type()).isEqualTo("/problems/too-large");
    assertThat(api.post("/api/v1/lineage", "[".repeat(10_000)).type())
        .isEqualTo("/problems/too-deep");
    assertThat(api.post("/api/v1/lineage", new byte[] {'{', (byte) 0xc3, '}'}).type())
        .isEqualTo("/problems/not-utf-8");
    assertThat(api.post("/api/v1/lineage", "").type()).isEqualTo("/problems/empty-body");
  }

  @Test
  void a_nul_character_anywhere_never_harms() {
    String nul =
        Events.dataset(
            AT.replace("2031", "2026"),
            namespace,
            "a\\u0000b",
            "'documentation':{'description':'x\\u0000y'},"
                + Events.schema("c\\u0000d")
                + ",'odd\\u0000key':{'a':1}");
    Api.Answer answer = api.event(nul);
    assertThat(answer.status()).isEqualTo(201);
    Api.Answer asset = api.get("/api/v1/asset", "ref", namespace + "/a%00b");
    assertThat(asset.status()).isEqualTo(200);
    assertThat(asset.json().path("columns").get(0).path("name").stringValue("")).isEqualTo("c%00d");
  }

  @Test
  void good_lines_of_a_batch_are_kept_when_others_are_bad() {
    String body =
        event("l0") + "\n\nnonsense\n" + event("l2") + "\n" + event("l2x").replace("job", "jab");
    Api.Answer answer =
        api.post(
            "/api/v1/lineage/batch",
            body,
            "Content-Type",
            "application/x-ndjson",
            "Prefer",
            "wait=5");
    assertThat(answer.status()).isEqualTo(200);
    assertThat(answer.json().path("received").intValue()).isEqualTo(4);
    assertThat(answer.json().path("accepted").intValue()).isEqualTo(2);
    assertThat(answer.json().path("refused").get(0).path("index").intValue()).isEqualTo(1);
    assertThat(answer.json().path("refused").get(1).path("problem").stringValue(""))
        .isEqualTo("missing-member");
    api.see(answer.json().path("receipt").stringValue(""));
    assertThat(api.get("/api/v1/asset", "ref", "@" + namespace + "/l2").status()).isEqualTo(200);
  }

  @Test
  void a_batch_may_be_an_array_and_tells_its_duplicates() {
    String same = event("s");
    String body = "[" + same + ", {\"a\":[1,\"]\"]}, " + same + "]";
    Api.Answer answer = api.post("/api/v1/lineage/batch", body, "Content-Type", "application/json");
    assertThat(answer.json().path("received").intValue()).isEqualTo(3);
    assertThat(answer.json().path("accepted").intValue()).isEqualTo(2);
    assertThat(answer.json().path("duplicates").intValue()).isEqualTo(1);
    assertThat(answer.json().path("refused").size()).isEqualTo(1);
  }
}
