package longthread.service.statements;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import longthread.service.live.Memory;
import longthread.service.log.EventLog;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import tools.jackson.databind.JsonNode;

/** What people set merges in any order, like what programs report, and is there after a rebuild. */
@ExtendWith(RunningService.Extension.class)
class StatementOrderTest {
  private final RunningService service;
  private final Api api;

  StatementOrderTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  @TempDir private static Path folder;

  private record Entry(boolean byHand, String text) {}

  /** Events of a few tables and jobs, and statements of every sort about them. */
  private static List<Entry> entries(long seed) {
    var random = new Random(seed);
    var entries = new ArrayList<Entry>();
    for (int i = 0; i < 120; i++) {
      String at =
          "2026-11-%02dT%02d:00:%02dZ"
              .formatted(1 + random.nextInt(20), random.nextInt(24), i % 60);
      String a = "t" + random.nextInt(8);
      String b = "t" + random.nextInt(8);
      if (i % 3 == 0) {
        String link =
            random.nextInt(3) > 0
                ? ""
                : ",'symlinks':{'_producer':'p','_schemaURL':'s','identifiers':[{'namespace':'w',"
                    + "'name':'"
                    + b
                    + "','type':'TABLE'}]}";
        String event =
            random.nextBoolean()
                ? Events.dataset(at, "w", a, Events.schema("x", "y") + link)
                : Events.run(
                    "COMPLETE",
                    at,
                    new java.util.UUID(seed, i),
                    "j",
                    "job" + random.nextInt(3),
                    Events.copies("w", a, b, "x"));
        entries.add(new Entry(false, event.replace('\'', '"')));
      } else {
        entries.add(new Entry(true, statement(random, i, at, "w/" + a, "w/" + b)));
      }
    }
    return entries;
  }

  private static String statement(Random random, int i, String at, String a, String b) {
    String word = "v" + random.nextInt(3);
    String change =
        switch (random.nextInt(12)) {
          case 0 -> "'set':'description','of':'" + a + "','value':'" + word + "'";
          case 1 -> "'set':'owners','of':'" + a + "','value':['team:" + word + "']";
          case 2 ->
              "'set':'tags','of':'"
                  + a
                  + "#x','value':['"
                  + (random.nextBoolean() ? "personal" : word)
                  + "']";
          case 3 -> "'set':'owners','of':'@j/job1','value':null";
          case 4 -> "'set':'term','id':'" + word + "','value':{'name':'N" + i + "'}";
          case 5 -> {
            String with = a.equals(b) ? "w/other" : b;
            String as = random.nextInt(3) == 0 ? "apart" : "one";
            String value = random.nextInt(4) == 0 ? "null" : "'" + as + "'";
            yield "'set':'join','of':'" + a + "','with':'" + with + "','value':" + value;
          }
          case 6 ->
              "'set':'lead','of':'" + a + "','value':" + (random.nextBoolean() ? "true" : "null");
          case 7 ->
              "'set':'recorded','id':'"
                  + word
                  + "','of':'"
                  + a
                  + "','value':{'since':'2026-11-02T00:00:00Z','reads':['"
                  + b
                  + "']"
                  + (random.nextInt(3) == 0 ? ",'withdrawn':'" + at + "'" : "")
                  + "}";
          case 8 ->
              "'set':'label-stop','id':'"
                  + word
                  + "','value':"
                  + (random.nextInt(3) == 0
                      ? "null"
                      : "{'label':'personal','at':'"
                          + a
                          + "','reason':'r','review':'2031-01-01T00:00:00Z'}");
          case 9 ->
              "'set':'label-rule','id':'"
                  + word
                  + "','value':"
                  + (random.nextInt(3) == 0
                      ? "null"
                      : "{'label':'" + (i % 2 == 0 ? "health" : word) + "','names':['y']}");
          case 10 ->
              "'set':'label','id':'"
                  + word
                  + "','value':{'title':'L"
                  + i % 3
                  + "','overAggregation':true}";
          default ->
              "'set':'recorded','id':'k','of':'@j/job"
                  + random.nextInt(4)
                  + "','value':{'since':'"
                  + at
                  + "','reads':['"
                  + a
                  + "'],'writes':['"
                  + b
                  + "'],'columns':[{'from':'"
                  + a
                  + "#x','to':'"
                  + b
                  + "#y','flow':'identity'}]}";
        };
    return ("{'format':'longthread-statement/1','id':'s"
            + i
            + "','at':'"
            + at
            + "','by':'ada','changes':[{"
            + change
            + "}]}")
        .replace('\'', '"');
  }

  private void send(List<Entry> entries, Random random) {
    EventLog log = service.bean(EventLog.class);
    long block = 0;
    for (int from = 0; from < entries.size(); ) {
      int to = Math.min(entries.size(), from + 1 + random.nextInt(30));
      var items = new ArrayList<EventLog.Item>();
      for (Entry entry : entries.subList(from, to)) {
        byte[] bytes = entry.text().getBytes(StandardCharsets.UTF_8);
        items.add(entry.byHand() ? log.statement(bytes) : log.item(bytes, 1_000_000));
      }
      assertThat(items).allMatch(item -> item.refusal() == null);
      block = Math.max(block, log.append(items, null).block());
      if (random.nextInt(3) == 0) {
        api.see("" + block);
        List<String> loaded = Memory.loaded(service);
        assertThat(Memory.held(service)).isEqualTo(loaded);
        assertThat(Memory.caughtUp(service, folder.resolve("graph.image"))).isEqualTo(loaded);
      }
      from = to;
    }
    api.see("" + block);
    assertThat(api.get("/api/v1/intake").json().path("refusals").toString())
        .doesNotContain("bad-statement");
  }

  @ParameterizedTest
  @ValueSource(longs = {1, 2, 3, 4, 5, 7, 15})
  void any_order_of_events_and_statements_gives_an_equal_catalog(long seed) throws Exception {
    List<Entry> entries = entries(seed);
    var random = new Random(seed);
    service.forgetEverything();
    send(entries, random);
    String dump = service.dump();
    List<String> memory = Memory.held(service);
    assertThat(dump).contains("hand:join/", "hand:recorded/", "hand:term", "hand:label-stop");
    assertThat(memory).anyMatch(line -> line.startsWith("label "));
    for (int round = 0; round < 2; round++) {
      var mixed = new ArrayList<>(entries);
      entries.stream().filter(entry -> random.nextInt(3) == 0).forEach(mixed::add);
      Collections.shuffle(mixed, random);
      service.forgetEverything();
      send(mixed, random);
      assertThat(service.dump()).isEqualTo(dump);
      assertThat(Memory.held(service)).isEqualTo(memory);
    }
    JsonNode rebuilt = api.rebuild();
    assertThat(rebuilt.path("state").stringValue()).as("" + rebuilt).isEqualTo("switched");
    assertThat(service.dump()).isEqualTo(dump);
    assertThat(Memory.held(service)).isEqualTo(memory);
  }
}
