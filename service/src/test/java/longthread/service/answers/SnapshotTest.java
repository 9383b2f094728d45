package longthread.service.answers;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayInputStream;
import java.net.http.HttpResponse;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.UUID;
import java.util.stream.StreamSupport;
import longthread.core.snapshot.Snapshot;
import longthread.core.snapshot.SnapshotAsset;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ObjectNode;

/** What is judged by a snapshot against what the service itself judges. */
@ExtendWith(RunningService.Extension.class)
class SnapshotTest {
  private static final String AT = "2026-05-01T02:00:00Z";
  private static final String JSON = "application/json";
  private static final List<String> CHANGES =
      List.of("drop", "rename", "retype", "values", "rows", "delay");
  private static final int TABLES = 18;
  private static final int PLANS = 120;

  private final String space = "snap-" + UUID.randomUUID();
  private final String jobs = "snapjobs-" + UUID.randomUUID();
  private final Random random = new Random(17);

  /** Layers of tables, some with schemas, some dashboards, some copied by jobs with two inputs. */
  private void send(Api api) {
    for (int table = 1; table < TABLES; table++) {
      for (int way = 0; way <= random.nextInt(3); way++) {
        String from = "t" + random.nextInt(table);
        String copies = Events.copies(space, from, "t" + table, "a", "b");
        api.event(
            Events.run("COMPLETE", AT, UUID.randomUUID(), jobs, "j" + table + "_" + way, copies));
      }
      if (table % 3 == 0) {
        String facets =
            Events.schema("a", "b")
                + ",'ownership':{'owners':[{'name':'team:"
                + table % 2
                + "'}]},'datasetType':{'datasetType':'"
                + (table % 2 == 0 ? "VIEW" : "DASHBOARD")
                + "'}";
        api.event(Events.dataset(AT, space, "t" + table, facets));
      }
    }
    api.event(Events.dataset(AT, space, "alone", Events.schema("a")));
  }

  private Snapshot.Step step() {
    String change = CHANGES.get(random.nextInt(CHANGES.size()));
    String table = space + "/t" + random.nextInt(TABLES);
    return switch (random.nextInt(6)) {
      case 0 -> new Snapshot.Step(change, table, null);
      case 1 -> new Snapshot.Step(change, "@" + jobs + "/j" + random.nextInt(TABLES) + "_0", null);
      case 2 -> new Snapshot.Step(change, table + "#wool", null);
      case 3 -> new Snapshot.Step(change, "system:" + space, null);
      default -> new Snapshot.Step(change, table + (random.nextBoolean() ? "#a" : "#B"), "bigint");
    };
  }

  private static String posted(Api api, List<Snapshot.Step> steps) {
    var body = new JsonMapper().writeValueAsString(Map.of("steps", steps));
    Api.Answer answer = api.post("/api/v1/impact?limit=1000", body, "Content-Type", JSON);
    if (answer.status() != 200) {
      return "refused";
    }
    return StreamSupport.stream(answer.json().path("items").spliterator(), false)
        .map(
            item ->
                item.path("ref").stringValue("")
                    + " "
                    + item.path("verdict").stringValue("")
                    + " "
                    + item.path("certainty").stringValue("")
                    + " "
                    + item.path("kind").stringValue("")
                    + " "
                    + item.path("system").stringValue("")
                    + " "
                    + item.path("owners")
                    + item.path("hops"))
        .toList()
        .toString();
  }

  /** The items without the numbers of what rests on each, which are counted twice a second. */
  private static List<JsonNode> judgements(JsonNode answer) {
    return StreamSupport.stream(answer.path("items").spliterator(), false)
        .map(item -> (JsonNode) ((ObjectNode) item).without("dependents"))
        .toList();
  }

  private static String judged(Snapshot snapshot, List<Snapshot.Step> steps) {
    Snapshot.Judged judged;
    try {
      judged = snapshot.judge(steps);
    } catch (Exception e) {
      return "refused";
    }
    var mapper = new JsonMapper();
    var items = new ArrayList<String>();
    judged
        .items()
        .forEach(
            item -> {
              SnapshotAsset asset = snapshot.asset(item.ref());
              items.add(
                  item.ref()
                      + " "
                      + item.headline().word()
                      + " "
                      + item.certainty().word()
                      + " "
                      + asset.kind()
                      + " "
                      + snapshot.systemOf(item.ref())
                      + " "
                      + mapper.writeValueAsString(asset.owners())
                      + item.hops());
            });
    return items.toString();
  }

  @Test
  void a_snapshot_judges_as_the_service_does(RunningService running) throws Exception {
    Api api = running.api();
    send(api);
    HttpResponse<byte[]> answer = api.bytes("application/zip", "/api/v1/snapshot");
    assertThat(answer.statusCode()).isEqualTo(200);
    Snapshot snapshot = Snapshot.read(new ByteArrayInputStream(answer.body()));
    int refused = 0;
    int touched = 0;
    for (int plan = 0; plan < PLANS; plan++) {
      List<Snapshot.Step> steps =
          random.nextInt(3) == 0 ? List.of(step(), step()) : List.of(step());
      String served = posted(api, steps);
      assertThat(judged(snapshot, steps)).as(steps.toString()).isEqualTo(served);
      refused += served.equals("refused") ? 1 : 0;
      touched += served.contains(space) ? 1 : 0;
    }
    assertThat(refused).as("some cannot be judged").isBetween(10, PLANS / 2);
    assertThat(touched).isGreaterThan(PLANS / 3);
  }

  @Test
  void a_planned_change_is_judged_without_being_kept(RunningService running) {
    Api api = running.api();
    send(api);
    int kept = api.get("/api/v1/planned-changes").json().path("total").intValue();
    String document =
        "format: longthread-change/1\ntitle: t\nsteps:\n  - {change: drop, of: '"
            + space
            + "/t0#a'}\n";
    JsonNode yaml = api.post("/api/v1/impact", document, "Content-Type", "application/yaml").json();
    assertThat(yaml.path("items").size()).isPositive();
    String whole =
        "{\"format\":\"longthread-change/1\",\"title\":\"t\",\"steps\":[{\"change\":\"drop\",\"of\":\""
            + space
            + "/t0#a\"}]}";
    JsonNode json = api.post("/api/v1/impact", whole, "Content-Type", JSON).json();
    assertThat(judgements(json)).isEqualTo(judgements(yaml));
    assertThat(api.get("/api/v1/planned-changes").json().path("total").intValue()).isEqualTo(kept);
    assertThat(
            api.post(
                    "/api/v1/impact",
                    document.replace("drop", "lose"),
                    "Content-Type",
                    "application/yaml")
                .type())
        .isEqualTo("/problems/bad-document");
    assertThat(
            api.post("/api/v1/impact", "{\"steps\":[{\"change\":\"drop\"}]}", "Content-Type", JSON)
                .type())
        .isEqualTo("/problems/bad-change");
  }
}
