package longthread.service.proof;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ObjectNode;

@ExtendWith(RunningService.Extension.class)
class ProofTest {
  private static final String THEN = "2026-05-01T12:00:00Z";
  private final String ns = "proof" + UUID.randomUUID().toString().substring(0, 8);
  private final UUID load = UUID.randomUUID();
  private final UUID build = UUID.randomUUID();
  private Api api;

  @BeforeEach
  void aFigureWithTwoRunsBehindIt(RunningService running) {
    api = running.api();
    String facets =
        "'inputs':[],'outputs':[{'namespace':'"
            + ns
            + "','name':'raw','facets':{'lifecycleStateChange':{'_producer':'p:p',"
            + "'_schemaURL':'s:s','lifecycleStateChange':'OVERWRITE'},'ownership':{'_producer':"
            + "'p:p','_schemaURL':'s:s','owners':[{'name':'team:Warehouse'}]}}}]";
    for (String[] moment : new String[][] {{"START", "01"}, {"COMPLETE", "02"}}) {
      String at = "2026-05-01T" + moment[1] + ":00:00Z";
      api.event(Events.run(moment[0], at, load, ns, "load", facets));
    }
    String sql =
        Events.run(
                "COMPLETE",
                "2026-05-01T03:00:00Z",
                build,
                ns,
                "build",
                Events.copies(ns, "raw", "mart", "x"))
            .replace(
                "'name':'build'",
                "'name':'build','facets':{'sql':{'_producer':'p:p','_schemaURL':'s:s',"
                    + "'query':'create table mart as select x from raw','dialect':'postgres'}}");
    api.event(sql);
    api.event(
        Events.run("COMPLETE", "2026-05-02T03:00:00Z", UUID.randomUUID(), ns, "load", facets));
  }

  private ObjectNode proof() {
    Api.Answer answer = api.get("/api/v1/proof", "ref", ns + "/mart", "asOf", THEN);
    assertThat(answer.status()).as(answer.toString()).isEqualTo(200);
    return (ObjectNode) answer.json();
  }

  private JsonNode checked(JsonNode proof) {
    Api.Answer answer = api.send("POST", "/api/v1/proof/check", proof.toString());
    assertThat(answer.status()).as(answer.toString()).isEqualTo(200);
    return answer.json();
  }

  @Test
  void it_has_the_runs_their_code_and_the_events_that_say_so() {
    JsonNode proof = proof();
    assertThat(proof.path("runs").findValuesAsString("ref"))
        .contains("run:" + build, "run:" + load)
        .doesNotHaveDuplicates();
    assertThat(proof.path("runs")).hasSize(2);
    assertThat(proof.path("code").toString()).contains("create table mart as select x from raw");
    assertThat(proof.path("events").findValuesAsString("run"))
        .containsExactlyInAnyOrder("run:" + load, "run:" + load, "run:" + build);
    assertThat(proof.path("people").toString()).contains("Warehouse", ns + "/raw");
    assertThat(proof.path("digest").stringValue("")).startsWith("sha256:");
  }

  @Test
  void it_is_checked_against_the_log() {
    JsonNode found = checked(proof());
    assertThat(found.path("valid").booleanValue()).as(found.toString()).isTrue();
    assertThat(found.path("signature").stringValue("")).isEqualTo("valid");
    assertThat(found.path("found").intValue()).isEqualTo(3);
    assertThat(found.path("differences")).isEmpty();
  }

  @Test
  void a_changed_word_a_foreign_signature_and_a_lost_event_are_found() {
    ObjectNode altered = proof();
    altered.put("summary", "no run at all");
    JsonNode found = checked(altered);
    assertThat(found.path("valid").booleanValue()).isFalse();
    assertThat(found.path("digestMatches").booleanValue()).isFalse();
    assertThat(found.path("problems").toString()).contains("altered after it was made");

    ObjectNode swapped = proof();
    ((ObjectNode) swapped.path("signature")).put("value", "AAAA");
    assertThat(checked(swapped).path("signature").stringValue("")).isEqualTo("invalid");

    ObjectNode lost = proof();
    ((ObjectNode) lost.path("events").get(0)).put("sha256", "0".repeat(64));
    JsonNode missing = checked(lost);
    assertThat(missing.path("missing")).hasSize(1);
    assertThat(missing.path("problems").toString()).contains("not in the log");
  }

  @Test
  void a_late_event_shows_as_a_difference_and_leaves_the_proof_valid() {
    ObjectNode before = proof();
    UUID late = UUID.randomUUID();
    api.event(
        Events.run(
            "COMPLETE",
            "2026-05-01T04:00:00Z",
            late,
            ns,
            "build",
            Events.copies(ns, "raw", "mart", "x")));
    JsonNode found = checked(before);
    assertThat(found.path("valid").booleanValue()).isTrue();
    assertThat(found.path("differences").toString())
        .contains("behind it too, by what is known now");
  }

  @Test
  void it_is_a_page_and_a_prov_document_too() {
    String page = api.get("/api/v1/proof", "ref", ns + "/mart", "asOf", THEN, "as", "html").body();
    assertThat(page)
        .startsWith("<!doctype html>")
        .contains("What was behind", "create table mart as select x from raw", "@media print")
        .doesNotContain("<script");
    JsonNode prov =
        new JsonMapper()
            .readTree(
                api.get("/api/v1/proof", "ref", ns + "/mart", "asOf", THEN, "as", "prov-json")
                    .body());
    assertThat(prov.path("activity")).hasSize(2);
    assertThat(prov.path("used")).hasSize(1);
    assertThat(prov.path("wasGeneratedBy")).hasSize(2);
    assertThat(prov.path("wasDerivedFrom")).hasSize(1);
  }

  @Test
  void wrong_questions_are_refused_with_what_to_do() {
    assertThat(api.get("/api/v1/proof", "ref", ns + "/mart", "as", "pdf").type())
        .isEqualTo("/problems/bad-format");
    assertThat(api.get("/api/v1/proof", "ref", "@" + ns + "/load").type())
        .isEqualTo("/problems/bad-reference");
    assertThat(api.send("POST", "/api/v1/proof/check", "{}").type())
        .isEqualTo("/problems/bad-proof");
  }

  @Test
  void an_end_that_says_nothing_else_is_among_the_events() {
    UUID bare = UUID.randomUUID();
    String wrote =
        "'inputs':[],'outputs':[{'namespace':'"
            + ns
            + "','name':'bare','facets':{'lifecycleStateChange':{'_producer':'p:p',"
            + "'_schemaURL':'s:s','lifecycleStateChange':'OVERWRITE'}}}]";
    api.event(Events.run("START", "2026-05-01T04:00:00Z", bare, ns, "minimal", wrote));
    api.event(
        Events.run("COMPLETE", "2026-05-01T05:00:00Z", bare, ns, "minimal", "'inputs':[]")
            .replace(",'inputs':[]", ""));
    JsonNode proof = api.get("/api/v1/proof", "ref", ns + "/bare", "asOf", THEN).json();
    assertThat(proof.path("events").findValuesAsString("type"))
        .containsExactlyInAnyOrder("START", "COMPLETE");
    assertThat(checked(proof).path("valid").booleanValue()).isTrue();
  }

  @Test
  void a_document_that_can_be_read_in_two_ways_or_says_more_than_is_signed_is_not_valid() {
    JsonNode proof = proof();
    String text = proof.toString();
    String twice = text.replaceFirst("\\{", "{\"madeBy\":\"somebody else\",");
    assertThat(api.send("POST", "/api/v1/proof/check", twice).type())
        .isEqualTo("/problems/bad-proof");
    assertThat(api.send("POST", "/api/v1/proof/check", text + "{}").type())
        .isEqualTo("/problems/bad-proof");
    assertThat(api.send("POST", "/api/v1/proof/check", "[]").type())
        .isEqualTo("/problems/bad-proof");
    var other = proof.deepCopy();
    ((tools.jackson.databind.node.ObjectNode) other.path("signature")).put("algorithm", "none");
    assertThat(checked(other).path("valid").booleanValue()).isFalse();
    var more = proof.deepCopy();
    ((tools.jackson.databind.node.ObjectNode) more.path("signature")).put("verifiedBy", "notary");
    assertThat(checked(more).path("signature").stringValue("")).isEqualTo("invalid");
  }
}
