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
}
