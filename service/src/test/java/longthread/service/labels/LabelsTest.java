package longthread.service.labels;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** A tag at the source is a label on every copy, with the way it came. */
@ExtendWith(RunningService.Extension.class)
class LabelsTest {
  private final Api api;

  LabelsTest(RunningService service) {
    this.api = service.api();
    service.forgetEverything();
  }

  private static String tagged(String at, String tag) {
    return Events.dataset(
        at,
        "w",
        "farm",
        Events.schema("iban", "name")
            + ",'tags':{'_producer':'p','_schemaURL':'s','tags':["
            + (tag.isEmpty()
                ? ""
                : "{'key':'" + tag + "','value':'true','source':'steward','field':'iban'}")
            + "]}");
  }

  private static String flow(String from, String to, String column, String how, boolean masking) {
    return "'inputs':[{'namespace':'w','name':'"
        + from
        + "'}],'outputs':[{'namespace':'w','name':'"
        + to
        + "','facets':{'columnLineage':{'_producer':'p','_schemaURL':'s','fields':{'"
        + column
        + "':{'inputFields':[{'namespace':'w','name':'"
        + from
        + "','field':'iban','transformations':[{'type':'DIRECT','subtype':'"
        + how
        + "','masking':"
        + masking
        + "}]}]}}}}}]";
  }

  @BeforeEach
  void farms() {
    api.event(tagged("2026-11-01T00:00:00Z", "PII"));
    run("copy", flow("farm", "copy", "iban", "IDENTITY", false));
    run("list", flow("copy", "list", "account", "TRANSFORMATION", false));
    run("hash", flow("farm", "hashed", "code", "TRANSFORMATION", true));
    run("count", flow("farm", "counted", "farms", "AGGREGATION", false));
  }

  private void run(String job, String lists) {
    api.event(Events.run("COMPLETE", "2026-11-02T00:00:00Z", UUID.randomUUID(), "n", job, lists));
  }

  private List<String> places(String... parameters) {
    var places = new ArrayList<String>();
    JsonNode found = api.get("/api/v1/label", parameters).json();
    for (JsonNode item : found.path("items")) {
      places.add(item.path("ref").stringValue() + " " + item.path("how").stringValue());
    }
    assertThat(found.path("total").intValue()).isEqualTo(places.size());
    return places;
  }

  @Test
  void it_travels_with_the_values_and_is_shown_with_its_way() {
    assertThat(places("id", "personal"))
        .containsExactly("w/farm#iban set", "w/copy#iban inherited", "w/list#account inherited");
    JsonNode list = api.get("/api/v1/label", "id", "personal").json().path("items").get(2);
    assertThat(list.path("from").stringValue()).isEqualTo("w/farm#iban");
    assertThat(list.path("thread")).hasSize(2);
    assertThat(list.path("thread").get(1).path("job").stringValue()).isEqualTo("@n/list");
    assertThat(places("id", "personal", "how", "set")).containsExactly("w/farm#iban set");
    JsonNode set = api.get("/api/v1/label", "id", "Personal", "how", "set").json();
    assertThat(set.path("items").get(0).path("setBy").stringValue()).isEqualTo("PII by steward");
  }

  @Test
  void it_is_counted_by_system() {
    JsonNode personal = null;
    for (JsonNode label : api.get("/api/v1/labels").json().path("items")) {
      personal = label.path("id").stringValue().equals("personal") ? label : personal;
    }
    assertThat(personal).isNotNull();
    assertThat(personal.path("set").intValue()).isEqualTo(1);
    assertThat(personal.path("inherited").intValue()).isEqualTo(2);
    assertThat(personal.path("systems").get(0).path("columns").intValue()).isEqualTo(3);
  }

  @Test
  void when_it_goes_at_the_source_it_goes_everywhere() {
    api.event(tagged("2026-11-03T00:00:00Z", ""));
    assertThat(places("id", "personal")).isEmpty();
    api.event(tagged("2026-11-04T00:00:00Z", "finance"));
    assertThat(places("id", "financial"))
        .as("a sum of money is money")
        .contains("w/counted#farms inherited")
        .doesNotContain("w/hashed#code inherited");
  }

  @Test
  void a_wrong_word_is_told_with_the_right_ones() {
    Api.Answer unknown = api.get("/api/v1/label", "id", "private");
    assertThat(unknown.status()).isEqualTo(404);
    assertThat(unknown.detail()).contains("confidential, financial, health, personal");
    Api.Answer how = api.get("/api/v1/label", "id", "personal", "how", "given");
    assertThat(how.status()).isEqualTo(400);
    assertThat(how.detail()).contains("set, inherited, perhaps");
  }

  // ------------------------------------------------------------------ what stewards set

  private Api.Answer state(String changes) {
    Api.Answer answer =
        api.send(
            "POST", "/api/v1/statements", ("{'changes':[" + changes + "]}").replace('\'', '"'));
    if (answer.status() == 200 && answer.json().path("receipt").isString()) {
      api.see(answer.json().path("receipt").stringValue());
    }
    return answer;
  }

  @Test
  void a_steward_edits_the_scheme_and_takes_it_back() {
    Api.Answer made =
        state(
            "{'set':'label','value':{'title':'Trade secret','level':3,'words':['PII'],"
                + "'overAggregation':true}}");
    assertThat(made.status()).isEqualTo(400);
    assertThat(made.detail()).contains("'pii' sets the label 'personal' already");
    made =
        state(
            "{'set':'label','value':{'title':'Trade secret','level':3,'words':['recipe'],"
                + "'overAggregation':true}}");
    assertThat(made.status()).as(made.detail()).isEqualTo(200);
    api.event(tagged("2026-11-03T00:00:00Z", "Recipe"));
    assertThat(places("id", "trade-secret"))
        .containsExactly(
            "w/farm#iban set",
            "w/copy#iban inherited",
            "w/counted#farms inherited",
            "w/list#account inherited");
    assertThat(places("id", "personal")).isEmpty();
    String id = made.json().path("id").stringValue();
    api.see(
        api.send("POST", "/api/v1/statements/undo?id=" + id, "")
            .json()
            .path("receipt")
            .stringValue());
    assertThat(api.get("/api/v1/label", "id", "trade-secret").status()).isEqualTo(404);
    state("{'set':'label','id':'health','value':{'title':'Health','retired':true}}");
    assertThat(api.get("/api/v1/label", "id", "health").status()).isEqualTo(404);
  }

  @Test
  void a_rule_on_names_is_tried_and_set() {
    JsonNode tried =
        api.get("/api/v1/labels/try", "label", "confidential", "names", "*am*,iban").json();
    assertThat(tried.path("fits").intValue()).isEqualTo(2);
    assertThat(tried.path("added").intValue()).isEqualTo(2);
    state(
        "{'set':'label-rule','id':'names','value':{'label':'confidential','names':['NAM*'],"
            + "'note':'of farms'}}");
    assertThat(places("id", "confidential")).containsExactly("w/farm#name set");
    JsonNode place = api.get("/api/v1/label", "id", "confidential").json().path("items").get(0);
    assertThat(place.path("managed").stringValue()).isEqualTo("rule");
    assertThat(place.path("setBy").stringValue()).isEqualTo("rule names");
    JsonNode rule = api.get("/api/v1/labels/rules").json().path("items").get(0);
    assertThat(rule.path("names").get(0).stringValue()).isEqualTo("NAM*");
    assertThat(rule.path("note").stringValue()).isEqualTo("of farms");
    Api.Answer all = state("{'set':'label-rule','value':{'label':'personal','systems':['w']}}");
    assertThat(all.status()).isEqualTo(400);
    assertThat(all.detail()).contains("neither names, types nor terms");
    assertThat(api.get("/api/v1/labels/try", "label", "personal").detail()).contains("names");
  }

  @Test
  void a_steward_stops_it_with_a_reason_and_a_review() {
    Api.Answer bare = state("{'set':'label-stop','value':{'label':'personal','at':'copy#iban'}}");
    assertThat(bare.status()).isEqualTo(400);
    assertThat(bare.json().path("faults").toString()).contains("/value/reason", "/value/review");
    state(
        "{'set':'label-stop','value':{'label':'personal','at':'copy#iban',"
            + "'reason':'test accounts','review':'2031-01-31'}}");
    assertThat(places("id", "personal")).containsExactly("w/farm#iban set");
    JsonNode stop = api.get("/api/v1/labels/stops").json().path("items").get(0);
    assertThat(stop.path("ref").stringValue()).isEqualTo("w/copy#iban");
    JsonNode review = api.get("/api/v1/labels/reviews").json().path("items").get(0);
    assertThat(review.path("due").stringValue()).startsWith("2031-02-01");
    assertThat(review.path("isDue").booleanValue()).isFalse();
    state("{'set':'label-stop','id':'" + stop.path("id").stringValue() + "','value':null}");
    assertThat(places("id", "personal")).hasSize(3);
  }

  @Test
  void what_is_sensitive_by_its_name_and_has_no_label_is_proposed() {
    api.event(
        Events.dataset("2026-11-01T00:00:00Z", "w", "vet", Events.schema("phone", "iban_hash")));
    JsonNode found = api.get("/api/v1/labels/suggestions").json().path("items");
    assertThat(found).hasSize(1);
    assertThat(found.get(0).path("ref").stringValue()).isEqualTo("w/vet#phone");
    JsonNode coverage = api.get("/api/v1/labels/coverage").json().path("items").get(0);
    assertThat(coverage.path("columns").intValue())
        .as("four by schemas, four by links")
        .isEqualTo(8);
    assertThat(coverage.path("labelled").intValue()).isEqualTo(3);
    assertThat(coverage.path("suggested").intValue()).isEqualTo(1);
    state(
        "{'set':'dismissed','id':'"
            + found.get(0).path("id").stringValue()
            + "','value':{'what':'a test line'}}");
    assertThat(api.get("/api/v1/labels/suggestions").json().path("items")).isEmpty();
  }

  @Test
  void two_sources_of_one_asset_that_disagree_are_listed() {
    api.event(
        Events.dataset(
            "2026-11-01T00:00:00Z",
            "odbc",
            "farm",
            Events.schema("iban", "name")
                + ",'symlinks':{'_producer':'p','_schemaURL':'s','identifiers':["
                + "{'namespace':'w','name':'farm','type':'TABLE'}]},"
                + "'tags':{'_producer':'p','_schemaURL':'s','tags':["
                + "{'key':'finance','value':'true','source':'dba','field':'name'},"
                + "{'key':'finance','value':'true','source':'dba','field':'iban'}]}"));
    JsonNode found = api.get("/api/v1/labels/disagreements").json().path("items");
    assertThat(found).hasSize(2);
    assertThat(found.get(0).path("sources").toString()).contains("personal", "financial");
  }

  @Test
  void search_graph_and_impact_know_what_is_inherited() {
    JsonNode found = api.get("/api/v1/search", "label", "personal").json();
    assertThat(found.path("hits").toString())
        .contains("\"w/farm\"", "\"w/copy\"", "\"w/list\"")
        .doesNotContain("\"w/hashed\"", "\"w/counted\"");
    assertThat(found.path("facets").path("label").path("personal").intValue()).isEqualTo(3);
    assertThat(found.path("facets").path("label").path("PII").intValue()).isEqualTo(1);
    JsonNode graph = api.get("/api/v1/graph", "ref", "w/copy", "detail", "assets").json();
    for (JsonNode node : graph.path("nodes")) {
      boolean isData = node.path("ref").stringValue().startsWith("w/");
      boolean isHashed = node.path("ref").stringValue().equals("w/hashed");
      assertThat(node.path("labels").toString().contains("personal"))
          .as(node.toString())
          .isEqualTo(isData && !isHashed);
    }
    JsonNode impact =
        api.get("/api/v1/impact", "ref", "w/farm#iban", "change", "values", "label", "personal")
            .json();
    assertThat(impact.path("items")).hasSize(2);
    assertThat(impact.path("items").get(0).path("labels").toString()).contains("personal");
  }

  // ------------------------------------------------------------------ leaks

  @Test
  void a_leak_is_found_accepted_and_found_again_when_that_ends() {
    assertThat(api.get("/api/v1/leaks").json().path("total").intValue()).isZero();
    Api.Answer none = state("{'set':'label-policy','value':{'label':'personal','allowed':false}}");
    assertThat(none.detail()).contains("no condition");
    state(
        "{'set':'label-policy','id':'no-lists','value':{'label':'personal','allowed':false,"
            + "'locations':['w'],'note':'by the privacy office'}},"
            + "{'set':'label-policy','id':'farms','value':{'label':'personal','allowed':true,"
            + "'locations':['nowhere']}}");
    JsonNode leaks = api.get("/api/v1/leaks", "label", "personal").json();
    assertThat(leaks.path("open").intValue()).isEqualTo(3);
    JsonNode list = api.get("/api/v1/leaks", "ref", "w/list").json().path("items").get(0);
    assertThat(list.path("policy").path("words").stringValue())
        .isEqualTo("personal may not be in anything located at w");
    assertThat(list.path("from").stringValue()).isEqualTo("w/farm#iban");
    assertThat(list.path("thread")).hasSize(2);
    assertThat(list.path("unmasked").path("job").stringValue()).isEqualTo("@n/copy");
    assertThat(api.csv("/api/v1/leaks").body())
        .contains("\"farm\"", "\"list\"")
        .doesNotContain("hashed");

    state(
        "{'set':'leak-accepted','value':{'label':'personal','at':'w/list','reason':'asked',"
            + "'until':'2031-01-31'}}");
    assertThat(api.get("/api/v1/leaks", "ref", "w/list").json().path("items")).isEmpty();
    JsonNode accepted = api.get("/api/v1/leaks", "state", "accepted").json().path("items").get(0);
    assertThat(accepted.path("accepted").path("reason").stringValue()).isEqualTo("asked");
    state(
        "{'set':'leak-accepted','value':{'label':'personal','at':'w/list','reason':'asked',"
            + "'until':'2026-01-31'}}");
    assertThat(api.get("/api/v1/leaks", "ref", "w/list").json().path("items"))
        .as("an end in the past")
        .hasSize(1);
    api.event(tagged("2026-11-03T00:00:00Z", ""));
    assertThat(api.get("/api/v1/leaks", "state", "all").json().path("items")).isEmpty();
    assertThat(api.get("/api/v1/leaks", "state", "closed").detail()).contains("open, accepted");
  }
}
