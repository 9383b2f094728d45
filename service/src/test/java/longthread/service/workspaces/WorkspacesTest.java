package longthread.service.workspaces;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.InputStream;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import java.util.TreeSet;
import longthread.service.live.Memory;
import longthread.service.testing.Api;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

@ExtendWith(RunningService.Extension.class)
class WorkspacesTest {
  private static final JsonMapper JSON = new JsonMapper();
  private static final String BARN = "postgres://barn.hollinvale.example:5432/barn.mart.";
  private static final String ITEM = "sightglass://hollinvale/farm-payments/";

  private final RunningService service;
  private final Api api;

  WorkspacesTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  @BeforeEach
  void empty() {
    service.forgetEverything();
  }

  private static ObjectNode sample() throws IOException {
    try (InputStream in =
        WorkspacesTest.class.getResourceAsStream("/workspaces/farm-payments.json")) {
      return (ObjectNode) JSON.readTree(in.readAllBytes());
    }
  }

  private JsonNode put(JsonNode description) {
    Api.Answer answer = api.send("PUT", "/api/v1/workspaces", description.toString());
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    api.see(answer.json().path("receipt").stringValue(""));
    return answer.json();
  }

  private static ArrayNode list(ObjectNode description, String member) {
    return (ArrayNode) description.path(member);
  }

  private JsonNode asset(String item) {
    return api.get("/api/v1/asset", "ref", ITEM + item).json();
  }

  private List<String> thread(String from, String to) {
    var names = new ArrayList<String>();
    JsonNode thread = api.get("/api/v1/thread", "from", from, "to", to).json();
    thread.path("hops").forEach(hop -> names.add(hop.path("to").stringValue("")));
    return names;
  }

  @Test
  void a_field_keeps_its_thread_from_the_warehouse_to_the_report() throws IOException {
    put(sample());
    assertThat(thread(BARN + "payout_statement#volume_l", ITEM + "report/payout#price.cents"))
        .containsExactly(
            ITEM + "step/paid#litres",
            ITEM + "model/payments#litres",
            ITEM + "model/payments#price",
            ITEM + "chart/price#cents",
            ITEM + "report/payout#price.cents");
    JsonNode model = asset("model/payments");
    assertThat(model.path("title").stringValue("")).isEqualTo("Payments model");
    assertThat(model.path("kind").stringValue("")).isEqualTo("model");
    assertThat(model.path("container").path(0).stringValue("")).isEqualTo("Farm Payments");
    assertThat(model.path("owners").path(0).path("name").stringValue(""))
        .isEqualTo("Payout office");
    assertThat(model.path("freshness").path("state").stringValue("")).isEqualTo("failed");
    assertThat(model.path("upstream").size()).isEqualTo(1);
    assertThat(model.path("columns").toString()).contains("case when litres > 0");
    assertThat(api.get("/api/v1/graph", "ref", ITEM + "model/payments").json().path("links"))
        .noneMatch(link -> link.path("from").equals(link.path("to")));
    JsonNode impact =
        api.get("/api/v1/impact", "ref", BARN + "payout_statement#volume_l", "change", "drop")
            .json();
    assertThat(impact.path("items").toString()).contains("chart/price", "breaks");
  }

  @Test
  void sql_of_a_step_is_read_with_its_inputs() throws IOException {
    ObjectNode description = sample();
    ObjectNode step = (ObjectNode) list(description, "steps").get(0);
    step.remove(List.of("fields", "filters", "writes"));
    step.put(
        "sql",
        "select s.farm_name as farm, s.amount * 2 as amount, s.volume_l as litres"
            + " from mart.payout_statement s where s.pickups > 0");
    put(description);
    assertThat(thread(BARN + "payout_statement#amount", ITEM + "model/payments#amount"))
        .containsExactly(ITEM + "step/paid#amount", ITEM + "model/payments#amount");
    JsonNode graph =
        api.get("/api/v1/graph", "ref", ITEM + "step/paid#amount", "direction", "upstream").json();
    assertThat(graph.path("links").path(0).path("evidence").stringValue("")).isEqualTo("derived");
  }

  @Test
  void what_a_newer_description_lacks_is_retired_and_comes_back() throws IOException {
    put(sample());
    ObjectNode without = sample().put("at", "2026-11-21T04:45:00Z");
    list(without, "steps").remove(1);
    ((ObjectNode) list(without, "reports").get(0)).set("charts", JSON.createArrayNode());
    without.remove("charts");
    JsonNode put = put(without);
    assertThat(put.path("differences").toString()).contains("step/paid-again", "chart/price");
    assertThat(asset("step/paid-again").path("retired").booleanValue()).isTrue();
    assertThat(asset("chart/price").path("retired").booleanValue()).isTrue();
    assertThat(asset("chart/price").path("upstream")).isEmpty();
    assertThat(asset("model/payments").path("retired").booleanValue()).isFalse();
    JsonNode then =
        api.get(
                "/api/v1/graph",
                "ref",
                ITEM + "chart/price",
                "direction",
                "upstream",
                "hops",
                "1",
                "asOf",
                "2026-11-20T12:00:00Z")
            .json();
    assertThat(then.path("links").toString()).contains(ITEM + "model/payments");

    put(sample().put("at", "2026-11-22T04:45:00Z"));
    assertThat(asset("chart/price").path("retired").booleanValue()).isFalse();
    assertThat(asset("chart/price").path("upstream").path(0).path("ref").stringValue(""))
        .isEqualTo(ITEM + "model/payments");
  }

  @Test
  void an_older_description_changes_nothing_that_stands() throws IOException {
    put(sample());
    ObjectNode older = sample().put("at", "2026-11-19T04:45:00Z");
    ((ObjectNode) list(older, "models").get(0)).put("title", "Old title");
    JsonNode put = put(older);
    assertThat(put.path("newerAt").stringValue("")).startsWith("2026-11-20T04:45");
    assertThat(asset("model/payments").path("title").stringValue("")).isEqualTo("Payments model");
  }

  @Test
  void the_history_of_an_item_says_what_became_of_it() throws IOException {
    put(sample());
    ObjectNode renamed = sample().put("at", "2026-11-21T04:45:00Z");
    ((ObjectNode) list(renamed, "models").get(0)).put("title", "Paid model");
    put(renamed);
    put(sample().put("at", "2026-11-22T04:45:00Z"));
    JsonNode changes =
        api.get("/api/v1/history", "ref", ITEM + "model/payments").json().path("changes");
    assertThat(changes.path(0).toString())
        .contains("title is “Payments model” now, was “Paid model”");
    assertThat(changes.toString()).contains("first described").doesNotContain("longthread_usage");
  }

  @Test
  void a_dry_run_names_the_differences_and_keeps_nothing() throws IOException {
    put(sample());
    ObjectNode changed = sample().put("at", "2026-11-21T04:45:00Z");
    ((ObjectNode) list(changed, "models").get(0).path("fields").get(1)).put("name", "paid");
    list(changed, "models").get(0).path("fields");
    Api.Answer answer = api.send("PUT", "/api/v1/workspaces?dryRun=true", changed.toString());
    assertThat(answer.status()).isEqualTo(400); // others use the field by its old name
    assertThat(answer.json().path("faults").toString()).contains("/models/0/fields/4/uses/0");

    ObjectNode harmless = sample().put("at", "2026-11-21T04:45:00Z");
    ((ObjectNode) list(harmless, "models").get(0).path("fields").get(1)).put("description", "x");
    Api.Answer dry = api.send("PUT", "/api/v1/workspaces?dryRun=true", harmless.toString());
    assertThat(dry.json().path("differences").path(0).path("members").path(0).path("name"))
        .isEqualTo(JSON.valueToTree("fields/amount"));
    assertThat(dry.json().has("receipt")).isFalse();
    assertThat(asset("model/payments").toString()).contains("What the farm is paid");
  }

  @Test
  void a_faulty_part_refuses_the_whole_and_is_kept_as_refused() throws IOException {
    put(sample());
    ObjectNode faulty = sample().put("at", "2026-11-21T04:45:00Z");
    ((ObjectNode) list(faulty, "charts").get(0)).put("of", "model/none");
    ((ObjectNode) list(faulty, "models").get(0)).put("title", "Another title");
    Api.Answer answer = api.send("PUT", "/api/v1/workspaces", faulty.toString());
    assertThat(answer.status()).isEqualTo(400);
    assertThat(answer.type()).endsWith("bad-workspace");
    assertThat(answer.json().path("faults").path(0).path("pointer").stringValue(""))
        .isEqualTo("/charts/0/of");
    assertThat(asset("model/payments").path("title").stringValue("")).isEqualTo("Payments model");
    assertThat(api.get("/api/v1/intake/refused", "problem", "bad-workspace").json().toString())
        .contains("/charts/0/of");
    assertThat(api.send("PUT", "/api/v1/workspaces", "{").status()).isEqualTo(400);
  }

  @Test
  void the_map_shows_all_layers_and_what_a_failed_refresh_reaches() throws IOException {
    put(sample());
    api.event(
        "{'eventTime':'2026-11-20T03:00:00Z','producer':'p','schemaURL':'s','dataset':"
            + "{'namespace':'postgres://barn.hollinvale.example:5432','name':"
            + "'barn.mart.payout_statement','facets':{'schema':{'fields':[{'name':'amount'}]}}}}");
    Api.Answer shown = api.get("/api/v1/workspace", "ref", "Farm Payments");
    assertThat(shown.status()).as(shown.body()).isEqualTo(200);
    JsonNode map = shown.json();
    var layers = new TreeSet<String>();
    for (JsonNode box : map.path("boxes")) {
      layers.add(
          box.path("layer").stringValue("")
              + " "
              + box.path("name").stringValue("")
              + (box.path("affectedBy").isEmpty() ? "" : " !")
              + (box.path("matched").booleanValue() ? "" : " ?"));
    }
    assertThat(layers)
        .containsExactly(
            "beyond extracts/paid.csv",
            "charts Price per litre !",
            "models Payments model",
            "pages Ten-day payout !",
            "sources mart.payout_statement",
            "steps Paid amounts",
            "steps Paid amounts, again");
    JsonNode listed = api.get("/api/v1/workspaces").json().path("items").path(0);
    assertThat(listed.path("failed").path(0).stringValue("")).isEqualTo("Payments model");
    assertThat(api.get("/api/v1/workspace", "ref", "nowhere").status()).isEqualTo(404);
    assertThat(api.get("/api/v1/search", "q", "farm-payments").json().path("hits").toString())
        .doesNotContain("\"ref\":\"sightglass://hollinvale/farm-payments\"");
  }

  @Test
  void a_source_is_matched_when_its_table_appears_and_not_when_the_rule_goes() throws IOException {
    put(sample());
    assertThat(source("payout_statement").path("matched").booleanValue()).isFalse();
    api.event(
        "{'eventTime':'2026-11-20T03:00:00Z','producer':'p','schemaURL':'s','dataset':"
            + "{'namespace':'postgres://barn.hollinvale.example:5432','name':"
            + "'barn.mart.payout_statement','facets':{'schema':{'fields':[{'name':'amount'}]}}}}");
    assertThat(source("payout_statement").path("matched").booleanValue()).isTrue();
    ObjectNode without = sample().put("at", "2026-11-21T04:45:00Z");
    ((ObjectNode) list(without, "connections").get(0)).remove("names");
    put(without);
    JsonNode source = source("payout_statement");
    assertThat(source.path("matched").booleanValue()).isFalse();
    assertThat(source.path("ref").stringValue("")).startsWith(ITEM + "source/barn/");
  }

  private JsonNode source(String ending) {
    for (JsonNode box : api.get("/api/v1/workspace", "ref", "farm-payments").json().path("boxes")) {
      if (box.path("layer").stringValue("").equals("sources")
          && box.path("ref").stringValue("").endsWith(ending)) {
        return box;
      }
    }
    throw new AssertionError("no source " + ending);
  }

  /** Descriptions of two workspaces over some days, each with other parts. */
  private static List<String> descriptions(long seed) throws IOException {
    var random = new Random(seed);
    var all = new ArrayList<String>();
    for (int day = 10; day < 22; day++) {
      ObjectNode one = sample().put("at", "2026-11-" + day + "T0" + random.nextInt(3) + ":45:00Z");
      if (random.nextInt(3) == 0) {
        one.put("instance", "eastvale");
      }
      if (random.nextInt(3) == 0) {
        list(one, "steps").remove(1);
      }
      if (random.nextInt(3) == 0) {
        one.remove(List.of("charts", "reports", "usage"));
      }
      if (random.nextInt(3) == 0) {
        ((ObjectNode) list(one, "models").get(0)).put("keeps", "nothing");
        one.remove("refreshes");
      }
      if (random.nextInt(3) == 0) {
        ((ObjectNode) list(one, "models").get(0)).put("title", "Model of day " + day);
      }
      if (random.nextInt(3) == 0) {
        ((ObjectNode) list(one, "connections").get(0)).remove("names");
      }
      if (random.nextInt(4) == 0) {
        ObjectNode step = (ObjectNode) list(one, "steps").get(0);
        step.remove(List.of("fields", "filters", "writes"));
        step.put(
            "sql", "select farm_name as farm, amount, volume_l as litres from payout_statement");
      }
      all.add(one.toString());
    }
    return all;
  }

  private record Ending(String dump, List<String> memory) {}

  private Ending ending(List<String> descriptions) {
    service.forgetEverything();
    String receipt = "0";
    for (String description : descriptions) {
      Api.Answer answer = api.send("PUT", "/api/v1/workspaces", description);
      assertThat(answer.status()).as(answer.body()).isEqualTo(200);
      receipt = answer.json().path("receipt").stringValue("0");
      api.see(receipt);
    }
    return new Ending(service.dump(), Memory.held(service));
  }

  @ParameterizedTest
  @ValueSource(longs = {1, 2, 3})
  void descriptions_in_any_order_and_repeated_give_one_catalog(long seed) throws Exception {
    List<String> descriptions = descriptions(seed);
    Ending inOrder = ending(descriptions);
    var random = new Random(seed);
    for (int round = 0; round < 3; round++) {
      var mixed = new ArrayList<>(descriptions);
      descriptions.stream().filter(d -> random.nextInt(3) == 0).forEach(mixed::add);
      Collections.shuffle(mixed, random);
      Ending ending = ending(mixed);
      assertThat(ending.dump().lines().toList())
          .containsExactlyElementsOf(inOrder.dump().lines().toList());
      assertThat(ending.memory()).isEqualTo(inOrder.memory());
    }
    assertThat(api.post("/api/v1/rebuild", "").status()).isEqualTo(202);
    JsonNode status = api.get("/api/v1/rebuild").json();
    for (int tries = 0;
        tries < 300 && status.path("state").stringValue("").equals("running");
        tries++) {
      Thread.sleep(100);
      status = api.get("/api/v1/rebuild").json();
    }
    assertThat(status.path("state").stringValue("")).as(status.toString()).isEqualTo("switched");
    assertThat(service.dump()).isEqualTo(inOrder.dump());
  }
}
