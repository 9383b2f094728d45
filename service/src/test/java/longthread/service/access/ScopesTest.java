package longthread.service.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/**
 * What somebody sees whose grants cover a part of the catalog. In the world of this test all that
 * is hidden has {@code hush} in its names and texts, so that any answer can be searched for it.
 */
class ScopesTest {
  private static final UUID BUILD = UUID.randomUUID();
  private static final UUID LOAD = UUID.randomUUID();

  private static RunningService service;
  private static Api admin;
  private static Api limited; // sees the system open
  private static Api editor; // steward of the system open
  private static Api nobody; // an account without grants

  @BeforeAll
  static void makeWorld() {
    service = RunningService.another();
    admin = service.api();
    String iban = "{'name':'iban','type':'text'}";
    admin.event(
        Events.dataset(
            "2026-11-01T00:00:00Z",
            "hush",
            "hushsource",
            "'schema':{'_producer':'p','_schemaURL':'s','fields':[{'name':'hushiban','type':'text',"
                + "'description':'hushcolumn'},{'name':'hushfat','type':'text'}]},"
                + "'documentation':{'_producer':'p','_schemaURL':'s','description':'hushtext'},"
                + "'ownership':{'_producer':'p','_schemaURL':'s','owners':[{'name':'team:hushowner'}]},"
                + "'tags':{'_producer':'p','_schemaURL':'s','tags':[{'key':'personal','value':'true',"
                + "'field':'hushiban','source':'hushsteward'}]}"));
    admin.event(
        Events.dataset(
            "2026-11-01T00:00:00Z",
            "open",
            "table",
            "'schema':{'_producer':'p','_schemaURL':'s','fields':[" + iban + "]}"));
    for (int day = 1; day <= 6; day++) {
      run("0" + day, "COMPLETE", UUID.randomUUID(), "hush", "hushload", source());
      run("0" + day, "COMPLETE", day == 6 ? BUILD : UUID.randomUUID(), "open", "build", build());
      run("0" + day, "COMPLETE", UUID.randomUUID(), "hush", "hushtake", take());
      run("0" + day, "COMPLETE", UUID.randomUUID(), "hush", "hushgive", give());
    }
    admin.event(
        Events.run(
            "FAIL",
            "2026-11-07T02:10:00Z",
            LOAD,
            "hush",
            "hushload",
            source()
                + ",'run':{'runId':'"
                + LOAD
                + "','facets':{'errorMessage':{'_producer':'p','_schemaURL':'s','message':"
                + "'hushfault in hush/hushsource','programmingLanguage':'java'}}}"));
    state(
        "{'set':'notice','id':'n1','value':{'on':'hush/hushsource','level':'warning',"
            + "'text':'hushnotice','from':'2026-11-01T00:00:00Z'}}");
    state(
        "{'set':'label-policy','value':{'label':'personal','kinds':['dataset'],"
            + "'systems':['open','hush'],'allowed':false}}");
    workspace("hush", "hushroom", "Hush Room", "hushpage", "open", "report");
    workspace("open", "room", "Open Room", "page", "hush", "hushcopy");
    admin.event(
        Events.run(
            "FAIL",
            "2026-11-07T03:00:00Z",
            UUID.randomUUID(),
            "open",
            "odd",
            "'outputs':[{'namespace':'open','name':'odd'}],'run':{'runId':'"
                + UUID.randomUUID()
                + "','facets':{'errorMessage':{'_producer':'p','_schemaURL':'s','message':"
                + "'cannot read hushsource: see \"hushcopy\".','programmingLanguage':'java'}}}"));
    limited = grantee("limited", "reader", "system", "open");
    editor = grantee("editor", "steward", "system", "open");
    nobody = new Api(service.base(), key("nobody", "limited"));
  }

  @AfterAll
  static void end() {
    service.close();
  }

  private static void workspace(
      String namespace, String id, String title, String page, String from, String table) {
    String description =
        ("{'format':'longthread-workspace/1','at':'2026-11-02T00:00:00Z','tool':'%s','instance':'one','producer':'https://t.example/p','workspace':"
                + "{'id':'%s','title':'%s'},'connections':[{'id':'c','title':'Source','kind':'database',"
                + "'names':{'namespace':'%s','name':'{object}'}}],'models':[{'id':'%s','title':'%s',"
                + "'inputs':[{'connection':'c','object':'%s'}]}]}")
            .formatted(namespace, id, title, from, page, page, table)
            .replace('\'', '"');
    Api.Answer put = admin.send("PUT", "/api/v1/workspaces", description);
    assertThat(put.status()).as(put.body()).isEqualTo(200);
    admin.get("/api/v1/search", "after", put.json().path("receipt").stringValue());
  }

  private static String column(String name, String namespace, String of, String field) {
    return "'"
        + name
        + "':{'inputFields':[{'namespace':'"
        + namespace
        + "','name':'"
        + of
        + "','field':'"
        + field
        + "','transformations':[{'type':'DIRECT','subtype':'IDENTITY'}]}]}";
  }

  private static String lists(
      String from, String fromName, String to, String toName, String column, String schema) {
    return "'inputs':[{'namespace':'"
        + from
        + "','name':'"
        + fromName
        + "'}],'outputs':[{'namespace':'"
        + to
        + "','name':'"
        + toName
        + "','facets':{"
        + schema
        + ",'columnLineage':{'_producer':'p','_schemaURL':'s','fields':{"
        + column
        + "}}},'outputFacets':{'outputStatistics':{'_producer':'p','_schemaURL':'s','rowCount':7}}}]";
  }

  private static String source() {
    return lists(
        "hush",
        "hushsource",
        "open",
        "table",
        column("iban", "hush", "hushsource", "hushiban"),
        Events.schema("iban"));
  }

  private static String build() {
    return lists(
        "open",
        "table",
        "open",
        "report",
        column("account", "open", "table", "iban"),
        Events.schema("account"));
  }

  private static String take() {
    return lists(
        "open",
        "table",
        "hush",
        "hushcopy",
        column("hushout", "open", "table", "iban"),
        Events.schema("hushout"));
  }

  private static String give() {
    return lists(
            "hush",
            "hushcopy",
            "open",
            "back",
            column("again", "hush", "hushcopy", "hushout"),
            Events.schema("again"))
        + ",'job':{'namespace':'hush','name':'hushgive','facets':{'sql':{'_producer':'p',"
        + "'_schemaURL':'s','query':'insert into back select hushout as again from hushcopy'}}}";
  }

  private static void run(String day, String type, UUID run, String ns, String job, String lists) {
    admin.event(Events.run(type, "2026-11-" + day + "T02:00:00Z", run, ns, job, lists));
  }

  private static void state(String change) {
    Api.Answer answer =
        admin.send(
            "POST", "/api/v1/statements", ("{'changes':[" + change + "]}").replace('\'', '"'));
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    admin.get("/api/v1/search", "after", answer.json().path("receipt").stringValue());
  }

  private static String key(String name, String role) {
    return admin
        .send("POST", "/api/v1/keys", "{\"name\":\"" + name + "\",\"role\":\"" + role + "\"}")
        .json()
        .path("token")
        .stringValue("");
  }

  private static Api grantee(String name, String role, String scope, String value) {
    String token = key(name, "limited");
    grant(name, role, scope, value);
    return new Api(service.base(), token);
  }

  private static long grant(String name, String role, String scope, String value) {
    Api.Answer made =
        admin.send(
            "POST",
            "/api/v1/grants",
            "{\"holderKind\":\"key\",\"holder\":\"%s\",\"role\":\"%s\",\"scope\":\"%s\",\"value\":\"%s\"}"
                .formatted(name, role, scope, value));
    assertThat(made.status()).as(made.body()).isEqualTo(200);
    return made.json().path("id").longValue(0);
  }

  // ------------------------------------------------------------------ every call has a rule

  private record Call(String method, String path) {}

  private static List<Call> calls() {
    var calls = new ArrayList<Call>();
    for (var path : admin.get("/api/v1/openapi.json").json().path("paths").properties()) {
      for (String method : path.getValue().propertyNames()) {
        calls.add(new Call(method.toUpperCase(Locale.ROOT), path.getKey()));
      }
    }
    assertThat(calls).hasSizeGreaterThan(80);
    return calls;
  }

  private static Api.Answer send(Api caller, Call call) {
    String path = call.path().replaceAll("\\{[a-zA-Z]+}", "1234");
    return call.method().equals("GET") ? caller.get(path) : caller.send(call.method(), path, "{}");
  }

  @Test
  void every_call_has_a_rule_and_keeps_to_it() {
    var without = new ArrayList<Call>();
    var wrong = new ArrayList<String>();
    for (Call call : calls()) {
      LimitedCalls.Rule rule = LimitedCalls.of(call.method(), call.path()).orElse(null);
      if (rule == null) {
        without.add(call);
        continue;
      }
      boolean isOpen = call.path().startsWith("/api/v1/session");
      var admitted = new LinkedHashMap<Api, Boolean>();
      admitted.put(nobody, isOpen || rule == LimitedCalls.Rule.NEUTRAL);
      admitted.put(
          limited, isOpen || rule == LimitedCalls.Rule.NEUTRAL || rule == LimitedCalls.Rule.SEEN);
      admitted.put(editor, isOpen || rule != LimitedCalls.Rule.WHOLE);
      admitted.forEach(
          (caller, may) -> {
            int status = isOpen && !call.method().equals("GET") ? 200 : send(caller, call).status();
            if (status >= 500 || may == (status == 403 || status == 401)) {
              wrong.add(call + " " + rule + " " + (caller == limited) + " " + status);
            }
          });
    }
    assertThat(without).as("add these calls to LimitedCalls").isEmpty();
    assertThat(wrong).isEmpty();
  }

  @Test
  void there_is_no_rule_for_a_call_that_is_gone() {
    var known = new HashMap<String, Call>();
    calls().forEach(call -> known.put(call.method() + " " + call.path(), call));
    assertThat(LimitedCalls.all().keySet()).isSubsetOf(known.keySet());
  }

  // ------------------------------------------------------------------ nothing hidden is shown

  /** Of each call whose answer is limited, parameters with which it says much. */
  private static final Map<String, List<String>> ASKED =
      Map.ofEntries(
          Map.entry(
              "/api/v1/asset",
              List.of("ref=open/table", "ref=open/report", "ref=@open/build", "ref=open/back")),
          Map.entry("/api/v1/browse", List.of("", "path=open")),
          Map.entry(
              "/api/v1/causes",
              List.of("ref=open/table", "ref=open/report", "ref=open/back", "ref=@open/build")),
          Map.entry(
              "/api/v1/export",
              List.of(
                  "ref=open/table&as=csv",
                  "ref=open/table&as=dot",
                  "ref=open/table&as=graphml&detail=assets",
                  "ref=open/table%23iban&as=prov-json",
                  "ref=@open/build&as=openlineage")),
          Map.entry("/api/v1/checks", List.of("ref=open/table")),
          Map.entry(
              "/api/v1/graph",
              List.of(
                  "ref=open/table&direction=both&detail=assets",
                  "ref=open/table&direction=both&detail=columns&hops=9",
                  "ref=open/table&direction=both&detail=steps",
                  "ref=open/table&direction=both&detail=systems",
                  "ref=open/back%23again&direction=both&hops=9",
                  "ref=@open/build&direction=both&detail=columns&hops=9",
                  "ref=open/table&direction=both&hops=5&asOf=2026-11-05T00:00:00Z",
                  "ref=open/table&exact=run",
                  "ref=open/report&exact=run",
                  "ref=run:" + BUILD + "&exact=run")),
          Map.entry(
              "/api/v1/impact",
              List.of(
                  "ref=open/table%23iban&change=drop",
                  "ref=open/table&change=rows",
                  "ref=open/table%23iban&change=values&groupBy=owner",
                  "ref=open/table%23iban&change=values&groupBy=system",
                  "ref=system:open&change=delay",
                  "ref=@open/build&change=delay")),
          Map.entry("/api/v1/job", List.of("ref=@open/build")),
          Map.entry("/api/v1/job/steps", List.of("ref=@open/build")),
          Map.entry("/api/v1/label", List.of("id=personal")),
          Map.entry("/api/v1/labels", List.of("")),
          Map.entry("/api/v1/leaks", List.of("", "state=all", "ref=open/table")),
          Map.entry("/api/v1/notices", List.of("", "ref=open/table", "state=all")),
          Map.entry("/api/v1/parts", List.of("ref=open/table")),
          Map.entry("/api/v1/preview", List.of("ref=open/table")),
          Map.entry(
              "/api/v1/reader",
              List.of("ref=open/report%23account", "ref=open/report", "ref=open/back")),
          Map.entry("/api/v1/recall", List.of("ref=run:" + BUILD, "ref=@open/build")),
          Map.entry("/api/v1/run", List.of("ref=run:" + BUILD)),
          Map.entry(
              "/api/v1/runs",
              List.of("", "job=@open/build", "job=@open/odd", "state=failed", "system=hush")),
          Map.entry(
              "/api/v1/search",
              List.of(
                  "",
                  "q=iban",
                  "q=h",
                  "q=team",
                  "kind=dataset",
                  "system=hush",
                  "owner=team:hushowner",
                  "label=personal")),
          Map.entry("/api/v1/statistics", List.of("ref=open/table")),
          Map.entry("/api/v1/term", List.of("id=nothing")),
          Map.entry("/api/v1/terms", List.of("")),
          Map.entry(
              "/api/v1/thread",
              List.of(
                  "from=open/table&to=open/back", "from=open/table%23iban&to=open/back%23again")),
          Map.entry("/api/v1/trail", List.of("")),
          Map.entry("/api/v1/workspace", List.of("ref=room")),
          Map.entry("/api/v1/workspaces", List.of("")));

  private static String asked(String path, String query, String... headers) {
    var parameters = new ArrayList<String>();
    for (String pair : query.split("&")) {
      if (!pair.isEmpty()) {
        parameters.add(pair.substring(0, pair.indexOf('=')));
        parameters.add(pair.substring(pair.indexOf('=') + 1).replace("%23", "#"));
      }
    }
    return limited.get(path, parameters.toArray(String[]::new), headers).body();
  }

  @Test
  void no_answer_has_a_name_or_detail_of_what_is_hidden() {
    var shown = new ArrayList<String>();
    for (Call call : calls()) {
      boolean isSeen =
          LimitedCalls.of(call.method(), call.path()).orElse(null) == LimitedCalls.Rule.SEEN;
      if (!isSeen || !call.method().equals("GET")) {
        continue;
      }
      assertThat(ASKED).as("say what to ask of").containsKey(call.path());
      for (String query : ASKED.get(call.path())) {
        for (String as : List.of("application/json", "text/csv", "text/markdown")) {
          String body = asked(call.path(), query, "Accept", as);
          int at = body.toLowerCase(Locale.ROOT).indexOf("hush");
          if (at >= 0) {
            shown.add(
                call.path()
                    + "?"
                    + query
                    + " "
                    + as
                    + ": …"
                    + body.substring(Math.max(0, at - 90), Math.min(body.length(), at + 60)));
          }
        }
      }
    }
    assertThat(shown).isEmpty();
  }

  @Test
  void what_is_hidden_cannot_be_asked_for() {
    for (String path :
        List.of(
            "/api/v1/asset",
            "/api/v1/graph",
            "/api/v1/impact",
            "/api/v1/causes",
            "/api/v1/preview",
            "/api/v1/reader",
            "/api/v1/statistics",
            "/api/v1/checks")) {
      for (String ref : List.of("hush/hushsource", "hushsource", "hush/hushsource#hushiban")) {
        Api.Answer hidden = limited.get(path, "ref", ref);
        Api.Answer unknown = limited.get(path, "ref", ref.replace("hushsource", "huchsource"));
        assertThat(hidden.status()).as(path + " " + ref).isEqualTo(404);
        assertThat(hidden.body().replace("hushsource", "huchsource"))
            .as("the same as of a name that nobody uses")
            .isEqualTo(unknown.body());
      }
    }
    assertThat(limited.get("/api/v1/run", "ref", "run:" + LOAD).type()).contains("unknown-run");
    assertThat(limited.get("/api/v1/job", "ref", "@hush/hushload").status()).isEqualTo(404);
  }

  // ------------------------------------------------------------------ the counts are the same

  private static JsonNode json(Api caller, String path, String... parameters) {
    Api.Answer answer = caller.get(path, parameters);
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    return answer.json();
  }

  @Test
  void what_is_hidden_stands_in_the_graph_as_restricted() {
    String[] wanted = {"ref", "open/table", "direction", "both", "hops", "9"};
    JsonNode mine = json(limited, "/api/v1/graph", wanted);
    JsonNode whole = json(admin, "/api/v1/graph", wanted);
    assertThat(mine.path("nodes")).hasSameSizeAs(whole.path("nodes"));
    assertThat(mine.path("links")).hasSameSizeAs(whole.path("links"));
    var refs = new ArrayList<String>();
    int restricted = 0;
    for (JsonNode node : mine.path("nodes")) {
      refs.add(node.path("ref").stringValue());
      if (node.path("kind").stringValue().equals("restricted")) {
        restricted++;
        assertThat(node.path("name").stringValue()).isEqualTo("restricted");
        assertThat(node.path("ref").stringValue()).startsWith("restricted/");
        assertThat(node.path("labels")).isEmpty();
      }
    }
    assertThat(restricted).isEqualTo(3);
    for (JsonNode link : mine.path("links")) {
      assertThat(refs).contains(link.path("from").stringValue(), link.path("to").stringValue());
    }
  }

  @Test
  void list_graph_impact_and_sheet_count_alike() {
    JsonNode impact = json(limited, "/api/v1/impact", "ref", "open/table", "change", "rows");
    JsonNode whole = json(admin, "/api/v1/impact", "ref", "open/table", "change", "rows");
    int total = impact.path("total").intValue(0);
    assertThat(total).isPositive().isEqualTo(whole.path("total").intValue(0));
    assertThat(impact.path("summary").path("verdicts"))
        .isEqualTo(whole.path("summary").path("verdicts"));
    String sheet = asked("/api/v1/impact", "ref=open/table&change=rows", "Accept", "text/csv");
    assertThat(sheet.lines().count()).isEqualTo(total + 1);
    long restricted = 0;
    for (JsonNode item : impact.path("items")) {
      restricted += item.path("kind").stringValue().equals("restricted") ? 1 : 0;
    }
    assertThat(sheet.lines().filter(line -> line.contains("\"restricted\"")).count())
        .isEqualTo(restricted)
        .isPositive();
    assertThat(impact.path("summary").path("kinds").path("restricted").longValue(0))
        .isEqualTo(restricted);
    for (String by : List.of("owner", "workspace", "label", "kind", "system")) {
      JsonNode groups =
          json(limited, "/api/v1/impact", "ref", "open/table", "change", "rows", "groupBy", by)
              .path("groups");
      long inGroup = 0;
      for (JsonNode group : groups) {
        boolean isIt = group.path("name").stringValue("").equals("restricted");
        inGroup += isIt ? group.path("items").longValue(0) : 0;
      }
      assertThat(inGroup).as(by).isEqualTo(restricted);
    }
    JsonNode list = json(limited, "/api/v1/search");
    JsonNode all = json(admin, "/api/v1/search");
    assertThat(list.path("total").intValue(0) + list.path("restricted").intValue(0))
        .isEqualTo(all.path("total").intValue(0));
    assertThat(json(limited, "/api/v1/browse").path("restricted"))
        .isEqualTo(list.path("restricted"));
    JsonNode label = json(limited, "/api/v1/label", "id", "personal");
    assertThat(label.path("total"))
        .isEqualTo(json(admin, "/api/v1/label", "id", "personal").path("total"));
    assertThat(json(limited, "/api/v1/leaks").path("total"))
        .isEqualTo(json(admin, "/api/v1/leaks").path("total"));
  }

  @Test
  void a_workspace_is_seen_as_a_whole_or_not_at_all() {
    JsonNode seen = json(limited, "/api/v1/workspaces").path("items");
    assertThat(seen).hasSize(1);
    assertThat(json(admin, "/api/v1/workspaces").path("items")).hasSize(2);
    var kinds = new ArrayList<String>();
    for (JsonNode box : json(limited, "/api/v1/workspace", "ref", "room").path("boxes")) {
      kinds.add(box.path("layer").stringValue() + " " + box.path("kind").stringValue());
    }
    assertThat(kinds).contains("sources restricted", "models model");
    assertThat(limited.get("/api/v1/workspace", "ref", "hushroom").status()).isEqualTo(404);
  }

  @Test
  void a_cause_that_is_hidden_is_still_said_to_be_there() {
    String[] wanted = {"ref", "open/report", "at", "2026-11-07T04:00:00Z"};
    JsonNode mine = json(limited, "/api/v1/causes", wanted).path("suspects");
    JsonNode whole = json(admin, "/api/v1/causes", wanted).path("suspects");
    assertThat(whole).isNotEmpty();
    assertThat(mine).hasSameSizeAs(whole);
    assertThat(mine.get(0).path("kind").stringValue()).isEqualTo("restricted");
    assertThat(mine.get(0).path("what")).isEqualTo(whole.get(0).path("what"));
    assertThat(mine.get(0).path("at")).isEqualTo(whole.get(0).path("at"));
  }

  @Test
  void nothing_can_be_found_out_by_searching_or_filtering() {
    for (String q : List.of("hush", "hushiban", "hushtext", "hushowner", "hushsource")) {
      assertThat(json(limited, "/api/v1/search", "q", q).path("total").intValue(-1)).isZero();
      assertThat(json(limited, "/api/v1/search", "q", q).path("restricted"))
          .as("the same whatever is searched for")
          .isEqualTo(json(limited, "/api/v1/search", "q", "nothing").path("restricted"));
    }
    for (String[] filter :
        List.of(
            new String[] {"owner", "team:hushowner"},
            new String[] {"system", "hush"},
            new String[] {"label", "personal"})) {
      JsonNode found =
          json(
              limited,
              "/api/v1/impact",
              "ref",
              "open/table#iban",
              "change",
              "drop",
              filter[0],
              filter[1]);
      for (JsonNode item : found.path("items")) {
        assertThat(item.path("kind").stringValue()).isNotEqualTo("restricted");
      }
    }
  }

  // ------------------------------------------------------------------ what a part's steward may do

  @Test
  void a_steward_of_a_part_changes_that_part_alone() {
    Set<String> fine =
        Set.of(
            "{'set':'description','of':'open/report','value':'Accounts'}",
            "{'set':'notice','id':'n2','value':{'on':'open/report','level':'info','text':'x','from':'2026-11-01T00:00:00Z'}}");
    Set<String> beyond =
        Set.of(
            "{'set':'term','id':'t','value':{'name':'Term'}}",
            "{'set':'join','of':'open/report','with':'open/back'}",
            "{'set':'label-policy','value':{'label':'personal','allowed':true,'systems':['open']}}",
            "{'set':'description','of':'hush/hushsource','value':'mine now'}");
    for (String change : fine) {
      assertThat(stated(editor, change)).as(change).isEqualTo(200);
      assertThat(stated(limited, change)).as("a reader: " + change).isEqualTo(403);
    }
    for (String change : beyond) {
      assertThat(stated(editor, change)).as(change).isIn(403, 404);
    }
  }

  private static int stated(Api caller, String change) {
    return caller
        .send("POST", "/api/v1/statements", ("{'changes':[" + change + "]}").replace('\'', '"'))
        .status();
  }

  // ------------------------------------------------------------------ grants and groups

  @Test
  void a_grant_by_label_covers_what_has_the_label() {
    Api labelled = grantee("labelled", "reader", "label", "personal");
    JsonNode found = json(labelled, "/api/v1/search");
    var refs = new ArrayList<String>();
    found.path("hits").forEach(hit -> refs.add(hit.path("ref").stringValue()));
    assertThat(refs).contains("hush/hushsource", "open/table").doesNotContain("@open/build");
  }

  @Test
  void a_grant_ends_when_it_is_taken_back() {
    String token = key("passing", "limited");
    long id = grant("passing", "reader", "system", "open");
    Api passing = new Api(service.base(), token);
    assertThat(passing.get("/api/v1/asset", "ref", "open/table").status()).isEqualTo(200);
    assertThat(admin.delete("/api/v1/grants?id=" + id).status()).isEqualTo(200);
    assertThat(passing.get("/api/v1/asset", "ref", "open/table").status()).isEqualTo(403);
    assertThat(admin.delete("/api/v1/grants?id=" + id).status()).isEqualTo(404);
    JsonNode noted =
        json(admin, "/api/v1/audit", "action", "endGrant", "outcome", "done").path("items").get(0);
    assertThat(noted.path("about").stringValue()).isEqualTo("key passing");
    assertThat(noted.path("detail").stringValue()).isEqualTo("reader on system open");
  }

  @Test
  void a_group_gives_its_members_what_it_holds() {
    admin.send(
        "POST",
        "/api/v1/accounts",
        "{\"name\":\"ida\",\"password\":\"a-long-password\",\"role\":\"limited\"}");
    admin.send("PUT", "/api/v1/groups", "{\"name\":\"payments\",\"title\":\"Payments\"}");
    Api.Answer granted =
        admin.send(
            "POST",
            "/api/v1/grants",
            "{\"holderKind\":\"group\",\"holder\":\"payments\",\"role\":\"reader\",\"scope\":\"system\",\"value\":\"open\"}");
    assertThat(granted.status()).isEqualTo(200);
    assertThat(
            admin
                .send(
                    "PUT", "/api/v1/groups/members", "{\"group\":\"payments\",\"account\":\"ida\"}")
                .json()
                .path("members")
                .get(0)
                .stringValue())
        .isEqualTo("ida");
    var browser = new longthread.service.testing.Browser(service.base());
    browser.signIn("ida", "a-long-password");
    assertThat(browser.get("/api/v1/session").json().path("grants")).hasSize(1);
    assertThat(browser.get("/api/v1/asset?ref=open/table").status()).isEqualTo(200);
    assertThat(browser.get("/api/v1/asset?ref=hush/hushsource").status()).isEqualTo(404);
    assertThat(admin.delete("/api/v1/groups/members?group=payments&account=ida").status())
        .isEqualTo(200);
    assertThat(browser.get("/api/v1/asset?ref=open/table").status()).isEqualTo(403);
    assertThat(admin.delete("/api/v1/groups?name=payments").status()).isEqualTo(200);
  }

  @Test
  void a_grant_that_means_nothing_is_refused_with_what_does() {
    String grant =
        "{\"holderKind\":\"key\",\"holder\":\"limited\",\"role\":\"%s\",\"scope\":\"%s\",\"value\":\"%s\"}";
    Api.Answer slip =
        admin.send("POST", "/api/v1/grants", grant.formatted("reader", "system", "opne"));
    assertThat(slip.status()).isEqualTo(404);
    assertThat(slip.detail()).contains("'opne'", "hush, open");
    Api.Answer sends =
        admin.send("POST", "/api/v1/grants", grant.formatted("emitter", "system", "open"));
    assertThat(sends.detail()).contains("use reader or steward");
    Api.Answer odd =
        admin.send("POST", "/api/v1/grants", grant.formatted("reader", "team", "open"));
    assertThat(odd.detail()).contains("everything, system, workspace or label");
    Api.Answer none =
        admin.send(
            "POST",
            "/api/v1/grants",
            grant.replace("limited", "noone").formatted("reader", "system", "open"));
    assertThat(none.detail()).contains("no key is named 'noone'");
  }

  @Test
  void only_who_sees_the_whole_is_told_of_it_unasked() {
    WholeReaders readers = service.bean(WholeReaders.class);
    assertThat(readers.includes("limited")).isFalse();
    assertThat(readers.includes("editor")).isFalse();
    assertThat(readers.includes("first-key")).isTrue();
    assertThat(readers.includes("somebody who left")).isTrue();
  }

  @Test
  void a_role_on_everything_by_grant_is_that_role() {
    Api whole = grantee("promoted", "reader", "everything", "");
    assertThat(whole.get("/api/v1/asset", "ref", "hush/hushsource").status()).isEqualTo(200);
    assertThat(whole.get("/api/v1/today").status()).isEqualTo(200);
    assertThat(whole.send("POST", "/api/v1/statements", "{}").status()).isEqualTo(403);
  }
}
