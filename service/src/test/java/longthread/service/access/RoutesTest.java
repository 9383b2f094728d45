package longthread.service.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.UUID;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/**
 * Who may call what, walked over every route of the published description in every spelling. The
 * requests are written byte by byte: no client library sends such paths as they are.
 */
@ExtendWith(RunningService.Extension.class)
class RoutesTest {
  private static final Set<String> OPEN =
      Set.of(
          "/api/v1/session",
          "/api/v1/session/password",
          "/api/v1/session/provider",
          "/api/v1/session/provider/back",
          "/api/v1/session/provider/ended",
          "/api/v1/openapi.json",
          "/health");
  private static final Set<String> QUESTIONS_WITH_BODY =
      Set.of("/api/v1/impact", "/api/v1/sql/lineage", "/api/v1/proof/check");

  private RunningService service;

  @BeforeEach
  void useService(RunningService running) {
    service = running;
  }

  private record Route(String method, String path) {
    boolean asks() {
      return method.equals("GET") || QUESTIONS_WITH_BODY.contains(path);
    }
  }

  private static boolean isOnesOwn(String path) {
    return Set.of(
                "/api/v1/views",
                "/api/v1/trail",
                "/api/v1/watches",
                "/api/v1/planned-changes/answer")
            .contains(path)
        || path.startsWith("/api/v1/trail/")
        || path.startsWith("/api/v1/watches/");
  }

  private record Raw(int status, String head, String body) {}

  private List<Route> routes() {
    var routes = new ArrayList<Route>();
    for (var path : service.api().get("/api/v1/openapi.json").json().path("paths").properties()) {
      for (String method : path.getValue().propertyNames()) {
        routes.add(
            new Route(method.toUpperCase(), path.getKey().replaceAll("\\{[a-zA-Z]+}", "1234")));
      }
    }
    routes.add(new Route("POST", "/"));
    routes.add(new Route("GET", "/metrics"));
    return routes;
  }

  private static List<String> spellings(String path) {
    String last = path.substring(path.lastIndexOf('/') + 1);
    String letter = last.isEmpty() ? "" : String.format("%%%02x", (int) last.charAt(0));
    String head = path.substring(0, path.length() - last.length());
    return List.of(
        path,
        path.equals("/") ? path : path + "/",
        path.toUpperCase(),
        last.isEmpty() ? path : head + letter + last.substring(1),
        path + ";x=1",
        "/" + path,
        path + "//",
        path + "/.",
        path + "%2f",
        path + "/..;/" + last);
  }

  private Raw send(String method, String target, String token, String body) {
    URI base = URI.create(service.base());
    try (var socket = new Socket(base.getHost(), base.getPort())) {
      socket.setSoTimeout(60_000);
      String request =
          method
              + " "
              + target
              + " HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n"
              + "Content-Type: application/json\r\n"
              + (token.isEmpty() ? "" : "Authorization: Bearer " + token + "\r\n")
              + "Content-Length: "
              + body.getBytes(StandardCharsets.UTF_8).length
              + "\r\n\r\n"
              + body;
      socket.getOutputStream().write(request.getBytes(StandardCharsets.UTF_8));
      String answer = new String(socket.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
      int gap = Math.max(0, answer.indexOf("\r\n\r\n"));
      return new Raw(
          Integer.parseInt(answer.substring(9, 12)),
          answer.substring(0, gap),
          answer.substring(gap));
    } catch (IOException e) {
      throw new IllegalStateException(method + " " + target, e);
    }
  }

  private String token(String role) {
    String body = "{\"name\":\"" + role + "-" + UUID.randomUUID() + "\",\"role\":\"" + role + "\"}";
    return service
        .api()
        .post("/api/v1/keys", body, "Content-Type", "application/json")
        .json()
        .path("token")
        .stringValue("");
  }

  private static String body(Route route) {
    return route.path().startsWith("/api/v1/lineage") || route.path().equals("/")
        ? Events.run(
                "COMPLETE", "2026-05-01T02:00:00Z", UUID.randomUUID(), "routes", "intruder", "")
            .replace('\'', '"')
        : "{}";
  }

  @Test
  void no_spelling_of_a_path_lets_a_caller_do_more() {
    var tokens = new LinkedHashMap<String, String>();
    tokens.put("nobody", "");
    tokens.put("wrong", "lt_wrong");
    for (String role : List.of("reader", "auditor", "emitter", "steward", "limited")) {
      tokens.put(role, token(role));
    }
    var let = new ArrayList<String>();
    for (Route route : routes()) {
      if (OPEN.contains(route.path())) {
        continue;
      }
      boolean sends =
          route.path().startsWith("/api/v1/lineage")
              || route.path().equals("/")
              || (route.method().equals("PUT") && route.path().equals("/api/v1/workspaces"))
              || route.path().equals("/api/v1/tickets/closed");
      boolean admins = route.path().matches("/api/v1/(keys|accounts|groups|grants|rebuild).*");
      boolean audits = route.path().startsWith("/api/v1/audit");
      Map<String, Boolean> may =
          Map.of(
              "nobody",
              false,
              "wrong",
              false,
              "reader",
              (route.asks() && !admins && !audits) || isOnesOwn(route.path()),
              "auditor",
              (route.asks() && !admins) || isOnesOwn(route.path()),
              "emitter",
              sends,
              "steward",
              !admins && !audits,
              "limited", // without a grant
              LimitedCalls.of(route.method(), route.path())
                  .filter(rule -> rule == LimitedCalls.Rule.NEUTRAL)
                  .isPresent());
      for (String spelling : spellings(route.path())) {
        for (var caller : tokens.entrySet()) {
          Raw raw = send(route.method(), spelling, caller.getValue(), body(route));
          boolean page = raw.head().contains("text/html");
          String what = caller.getKey() + " " + route.method() + " " + spelling + " ";
          if (raw.status() >= 500
              || (raw.status() < 400 && !page && !may.get(caller.getKey()))
              || (page && !route.method().equals("GET"))) {
            let.add(what + raw.status());
          }
          boolean plain = spelling.equals(route.path());
          int refusal = caller.getValue().length() < 10 ? 401 : 403;
          if (plain && !may.get(caller.getKey()) && raw.status() != refusal) {
            let.add(what + raw.status() + ", not " + refusal);
          }
        }
      }
    }
    assertThat(let).isEmpty();
    assertThat(routes()).hasSizeGreaterThan(25);
  }

  @Test
  void a_query_string_without_meaning_is_a_bad_request_everywhere() {
    String token = token("admin");
    var faults = new ArrayList<String>();
    for (Route route : routes()) {
      if (!route.method().equals("GET")) {
        continue;
      }
      for (String query :
          List.of(
              "ref=%zz",
              "ref=%",
              "x=%00",
              "ref=a%c3",
              "ref=a&limit=%f",
              "%",
              "x=%+23",
              "a=\\",
              "a=[]",
              "a=\u00e9",
              "\"",
              "{",
              "%-1")) {
        Raw raw = send("GET", route.path() + "?" + query, token, "");
        if (raw.status() != 400 || !raw.head().contains("application/problem+json")) {
          faults.add(route.path() + "?" + query + " " + raw.status());
        }
      }
    }
    for (String path : List.of("/health", "/find", "/")) {
      assertThat(send("GET", path + "?%", "", "").status()).as(path).isEqualTo(400);
    }
    assertThat(faults).isEmpty();
  }

  /** Seeds give the same odd values again; each is named with its fault. */
  @Test
  void odd_parameters_are_never_a_fault_of_the_service() {
    String token = token("admin");
    var random = new Random(11);
    List<String> values =
        List.of(
            "",
            "-1",
            "99999999999999999999",
            "1e9",
            "%F0%9F%A7%80",
            "%22",
            "'",
            "a.b.c",
            "a.-1",
            "x.99999999999",
            "null",
            "%0a",
            "%EF%BB%BF",
            "*",
            "%2f%2f",
            "@",
            "@/",
            "a/b%23",
            "run:",
            "run:1",
            "true",
            "2026-13-40",
            "0000-00-00T00:00:00Z",
            "+999999999-12-31T23:59:59Z");
    List<String> names =
        List.of(
            "ref",
            "from",
            "to",
            "q",
            "kind",
            "limit",
            "cursor",
            "at",
            "asOf",
            "hops",
            "change",
            "direction",
            "detail",
            "exact",
            "after",
            "state",
            "system",
            "owner",
            "since",
            "until");
    var faults = new ArrayList<String>();
    for (Route route : routes()) {
      for (int i = 0; route.method().equals("GET") && i < 25; i++) {
        var query = new StringBuilder();
        for (int n = random.nextInt(3); n >= 0; n--) {
          query
              .append(query.isEmpty() ? "" : "&")
              .append(names.get(random.nextInt(names.size())))
              .append('=')
              .append(values.get(random.nextInt(values.size())));
        }
        Raw raw = send("GET", route.path() + "?" + query, token, "");
        if (raw.status() >= 500) {
          faults.add(route.path() + "?" + query + " " + raw.status());
        }
      }
    }
    assertThat(faults).isEmpty();
  }

  @Test
  void a_call_that_does_not_exist_is_not_answered_with_the_page() {
    String token = token("admin");
    for (String path :
        List.of(
            "/api",
            "/api/",
            "/api/v2/search",
            "/api/v1/serch",
            "/API/V1/SEARCH",
            "/health/nothing",
            "/metrics/nothing",
            "/actuator",
            "/actuator/env")) {
      Raw raw = send("GET", path, token, "");
      assertThat(raw.status()).as(path).isEqualTo(404);
      assertThat(raw.head()).as(path).doesNotContain("text/html");
    }
    assertThat(send("PATCH", "/api/v1/search", token, "").status()).isEqualTo(405);
    assertThat(send("PATCH", "/api/v1/search", token, "").head())
        .contains("application/problem+json");
  }

  @Test
  void a_key_has_a_name_that_can_be_typed_and_is_revoked_by_its_number() {
    for (String name : List.of("a/b", "a;b", ".", "..", "", " ", "a\\nb", "a\\u0000b", "a ")) {
      Raw made =
          send(
              "POST",
              "/api/v1/keys",
              token("admin"),
              "{\"name\":\"" + name + "\",\"role\":\"reader\"}");
      assertThat(made.status()).as(name).isEqualTo(400);
      assertThat(made.body()).contains("bad-name");
    }
    assertThat(send("POST", "/api/v1/keys", token("admin"), "{}").status()).isEqualTo(400);
    String name = "num-" + UUID.randomUUID();
    String token =
        service
            .api()
            .post(
                "/api/v1/keys",
                "{\"name\":\"" + name + "\",\"role\":\"reader\"}",
                "Content-Type",
                "application/json")
            .json()
            .path("token")
            .stringValue("");
    assertThat(send("GET", "/api/v1/search", token, "").status()).isEqualTo(200);
    for (var key : service.api().get("/api/v1/keys").json()) {
      if (key.path("name").stringValue("").equals(name)) {
        assertThat(service.api().delete("/api/v1/keys?id=" + key.path("id").longValue()).status())
            .isEqualTo(200);
      }
    }
    assertThat(send("GET", "/api/v1/search", token, "").status()).isEqualTo(401);
    assertThat(service.api().delete("/api/v1/keys?id=999999999").status()).isEqualTo(404);
  }

  @Test
  void a_password_that_would_be_cut_is_refused() {
    String body =
        "{\"name\":\"long-one\",\"password\":\"" + "é".repeat(40) + "\",\"role\":\"reader\"}";
    Raw made = send("POST", "/api/v1/accounts", token("admin"), body);
    assertThat(made.status()).isEqualTo(400);
    assertThat(made.body()).contains("long-password", "72 bytes");
  }
}
