package longthread.service.answers;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.UUID;
import java.util.stream.Collectors;
import java.util.stream.StreamSupport;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

@ExtendWith(RunningService.Extension.class)
class CompareTest {
  private static final String BEFORE = "2026-05-01T12:00:00Z";
  private static final String AFTER = "2026-05-03T12:00:00Z";
  private final String ns = "compare" + UUID.randomUUID().toString().substring(0, 8);
  private Api api;

  @BeforeEach
  void aJobThatChanged(RunningService running) {
    api = running.api();
    run("2026-05-01T02:00:00Z", "select x\\nfrom a", "a", "x", "y");
    api.event(Events.dataset("2026-05-01T01:00:00Z", ns, "a", Events.schema("x", "litres", "z")));
    api.event(Events.dataset("2026-05-02T01:00:00Z", ns, "a", Events.schema("x", "volume_l", "z")));
    run("2026-05-02T02:00:00Z", "select x\\nfrom a\\nwhere x > 0", "b", "x");
  }

  private void run(String at, String sql, String from, String... columns) {
    String event =
        Events.run(
            "COMPLETE",
            at,
            UUID.randomUUID(),
            ns,
            "build",
            Events.copies(ns, from, "out", columns));
    api.event(
        event.replace(
            "'name':'build'",
            "'name':'build','facets':{'sourceCode':{'_producer':'p:p','_schemaURL':'s:s',"
                + "'language':'text','sourceCode':'"
                + sql
                + "'}}"));
  }

  private String changed(JsonNode list) {
    return StreamSupport.stream(list.spliterator(), false)
        .filter(link -> link.path("to").stringValue("").contains("#"))
        .map(
            link ->
                (link.path("change").stringValue("").equals("added") ? "+" : "-")
                    + link.path("from").stringValue("").replace(ns + "/", "")
                    + ">"
                    + link.path("to").stringValue("").replace(ns + "/", ""))
        .sorted()
        .collect(Collectors.joining(" "));
  }

  @Test
  void two_moments_show_links_columns_and_code_and_who_reported_them() {
    JsonNode found =
        api.get("/api/v1/compare", "ref", ns + "/out", "from", BEFORE, "to", AFTER).json();
    assertThat(changed(found.path("links"))).isEqualTo("+b#x>out#x -a#x>out#x -a#y>out#y");
    JsonNode added = found.path("links").get(0);
    assertThat(added.path("by").stringValue("")).isEqualTo("@" + ns + "/build");
    assertThat(added.path("at").stringValue("")).isEqualTo("2026-05-02T02:00:00Z");
    assertThat(added.path("version").intValue()).isEqualTo(2);
    assertThat(found.path("assets").toString())
        .contains(ns + "/b\"", "\"change\":\"added\"", ns + "/a\"", "\"change\":\"removed\"");
    JsonNode code = found.path("code").get(0);
    assertThat(code.path("versionBefore").intValue()).isEqualTo(1);
    assertThat(code.path("versionAfter").intValue()).isEqualTo(2);
    assertThat(code.path("lines").findValuesAsString("change"))
        .containsExactly("same", "same", "added");
    assertThat(code.path("lines").get(2).path("textAfter").stringValue(""))
        .isEqualTo("where x > 0");
    assertThat(found.path("summary").stringValue(""))
        .contains("1 asset added", "1 asset removed", "1 job with other code");
  }

  @Test
  void a_renamed_column_is_one_column() {
    JsonNode found =
        api.get("/api/v1/compare", "ref", ns + "/a", "from", BEFORE, "to", AFTER, "hops", "0")
            .json();
    JsonNode column = found.path("assets").get(0).path("columns").get(0);
    assertThat(column.path("change").stringValue("")).isEqualTo("renamed");
    assertThat(column.path("name").stringValue("")).isEqualTo("volume_l");
    assertThat(column.path("before").stringValue("")).isEqualTo("litres");
  }

  @Test
  void two_versions_of_a_job_are_compared() {
    String job = "@" + ns + "/build";
    JsonNode found =
        api.get("/api/v1/compare", "ref", job, "from", "version:1", "to", "version:2").json();
    assertThat(changed(found.path("links"))).isEqualTo("+b#x>out#x -a#x>out#x -a#y>out#y");
    assertThat(found.path("code")).hasSize(1);
    assertThat(api.get("/api/v1/compare", "ref", job, "from", "version:7").type())
        .isEqualTo("/problems/unknown-version");
    assertThat(api.get("/api/v1/compare", "ref", ns + "/a", "from", "version:1").type())
        .isEqualTo("/problems/bad-moment");
    assertThat(api.get("/api/v1/compare", "ref", ns + "/a", "from", "yesterday").status())
        .isEqualTo(400);
  }

  @Test
  void the_same_moment_twice_is_not_different() {
    JsonNode found =
        api.get("/api/v1/compare", "ref", ns + "/out", "from", AFTER, "to", AFTER).json();
    assertThat(found.path("summary").stringValue("")).isEqualTo("Nothing is different.");
  }

  @Test
  void the_moments_are_those_at_which_links_began_or_ended() {
    JsonNode list = api.get("/api/v1/moments", "ref", ns + "/out").json();
    assertThat(list.path("items").findValuesAsString("at"))
        .containsExactly("2026-05-01T02:00:00Z", "2026-05-02T02:00:00Z");
    assertThat(list.path("items").get(1).path("ended").intValue()).isPositive();
  }

  @Test
  void what_else_a_shared_source_feeds_is_no_moment_of_its_readers() {
    String reads = Events.copies(ns, "b", "elsewhere", "x");
    api.event(
        Events.run("COMPLETE", "2026-05-04T02:00:00Z", UUID.randomUUID(), ns, "other", reads));
    for (String hops : List.of("1", "2", "9")) {
      assertThat(moments(ns + "/out", "both", hops))
          .containsExactly("2026-05-01T02:00:00Z", "2026-05-02T02:00:00Z");
    }
    assertThat(moments(ns + "/b", "downstream", "1"))
        .containsExactly("2026-05-02T02:00:00Z", "2026-05-04T02:00:00Z");
    assertThat(moments(ns + "/b", "upstream", "9")).isEmpty();
    assertThat(moments(ns + "/out", "both", "0")).isEmpty();
    assertThat(moments("@" + ns + "/build", "both", "1"))
        .containsExactly("2026-05-01T02:00:00Z", "2026-05-02T02:00:00Z");
  }

  private List<String> moments(String ref, String direction, String hops) {
    return api.get("/api/v1/moments", "ref", ref, "direction", direction, "hops", hops)
        .json()
        .path("items")
        .findValuesAsString("at");
  }
}
