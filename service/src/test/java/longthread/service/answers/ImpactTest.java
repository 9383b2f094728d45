package longthread.service.answers;

import static java.nio.charset.StandardCharsets.UTF_8;
import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import java.util.stream.StreamSupport;
import java.util.zip.ZipEntry;
import java.util.zip.ZipFile;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/** Changes of jobs and systems, groups of what is touched, and the files to hand on. */
@ExtendWith(RunningService.Extension.class)
class ImpactTest {
  private static final String AT = "2026-05-01T02:00:00Z";
  private static final String WORKBOOK =
      "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";

  private final String source = "imp-s-" + UUID.randomUUID();
  private final String store = "imp-t-" + UUID.randomUUID();
  private final String jobs = "imp-j-" + UUID.randomUUID();
  @TempDir private Path folder;
  private Api api;

  /** A source system, whose table two jobs copy on within a store; one table has two writers. */
  @BeforeEach
  void send(RunningService running) {
    api = running.api();
    run("load", source, "raw", store, "a", "x", "y");
    run("next", store, "a", store, "b", "x");
    run("other", store, "z", store, "b", "x");
    run("last", store, "b", store, "=c|d", "x");
    String owner = "'ownership':{'owners':[{'name':'%s'}]}";
    api.event(Events.dataset(AT, store, "a", owner.formatted("team:Herd <herd@farm.example>")));
    api.event(Events.dataset(AT, store, "b", owner.formatted("Ada <ada@farm.example>")));
  }

  private void run(
      String job, String fromSystem, String from, String toSystem, String to, String... columns) {
    String copies =
        Events.copies("FROM", from, to, columns)
            .replace("'outputs':[{'namespace':'FROM'", "'outputs':[{'namespace':'" + toSystem + "'")
            .replace("FROM", fromSystem);
    api.event(Events.run("COMPLETE", AT, UUID.randomUUID(), jobs, job, copies));
  }

  private static List<String> judged(JsonNode answer) {
    return StreamSupport.stream(answer.path("items").spliterator(), false)
        .map(
            item ->
                item.path("name").stringValue("")
                    + " "
                    + item.path("verdict").stringValue("")
                    + (item.path("certainty").stringValue("").equals("possible") ? "?" : ""))
        .toList();
  }

  private JsonNode impact(String ref, String change, String... more) {
    String[] parameters = new String[4 + more.length];
    System.arraycopy(new String[] {"ref", ref, "change", change}, 0, parameters, 0, 4);
    System.arraycopy(more, 0, parameters, 4, more.length);
    return api.get("/api/v1/impact", parameters).json();
  }

  @Test
  void a_job_is_judged_by_what_it_writes() {
    String next = "@" + jobs + "/next";
    assertThat(judged(impact(next, "drop"))).containsExactly("b goes-stale?", "=c|d goes-stale?");
    assertThat(judged(impact("@" + jobs + "/load", "delay")))
        .containsExactly("a goes-stale", "b goes-stale?", "=c|d goes-stale?");
    assertThat(judged(impact("@" + jobs + "/load", "values")))
        .containsExactly("a values-shift", "b values-shift?", "=c|d values-shift?");
    JsonNode renamed = impact(next, "rename");
    assertThat(judged(renamed)).isEmpty();
    assertThat(renamed.path("untouched").path("certain").intValue()).isEqualTo(2);
    assertThat(api.get("/api/v1/impact", "ref", next, "change", "retype", "to", "x").type())
        .isEqualTo("/problems/bad-change");
  }

  @Test
  void a_whole_system_is_judged_as_all_that_is_in_it() {
    JsonNode lost = impact("system:" + source, "drop");
    assertThat(lost.path("of").stringValue("")).isEqualTo("system:" + source);
    assertThat(lost.path("changes").get(0).path("assets").intValue()).isEqualTo(1);
    assertThat(judged(lost))
        .containsExactly("load breaks", "a goes-stale", "b goes-stale?", "=c|d goes-stale?");
    assertThat(lost.path("items").get(2).path("failsFirst").path("name").stringValue(""))
        .isEqualTo("load");
    // An orchestrator that is gone breaks nothing, but nothing is made any more.
    assertThat(judged(impact("SYSTEM:".toLowerCase() + jobs.toUpperCase(), "drop")))
        .containsExactlyInAnyOrder("a goes-stale", "b goes-stale", "=c|d goes-stale");
    // Within the store everything changes itself; nothing outside reads it.
    assertThat(judged(impact("system:" + store, "delay"))).isEmpty();
    Api.Answer unknown = api.get("/api/v1/impact", "ref", "system:" + source + "x");
    assertThat(unknown.status()).isEqualTo(404);
    assertThat(unknown.json().path("nearest").toString()).contains("system:");
  }

  @Test
  void items_are_counted_by_whom_to_tell_and_where() {
    JsonNode byOwner = impact(source + "/raw#x", "drop", "groupBy", "owner").path("groups");
    assertThat(byOwner)
        .extracting(
            group ->
                group.path("name").stringValue("nobody")
                    + " "
                    + group.path("addresses").path(0).stringValue("-")
                    + " "
                    + group.path("items").intValue()
                    + " "
                    + group.path("verdicts").path("goes-stale").intValue())
        .containsExactly("nobody - 2 1", "Ada ada@farm.example 1 1", "Herd herd@farm.example 1 1");
    JsonNode bySystem = impact(source + "/raw#x", "drop", "groupBy", "system").path("groups");
    assertThat(bySystem).hasSize(2);
    assertThat(bySystem.get(0).path("name").stringValue("")).isEqualTo(jobs);
    assertThat(bySystem.get(1).path("foremost").get(0).path("name").stringValue("")).isEqualTo("a");
    assertThat(judged(impact(source + "/raw#x", "drop", "owner", "Ada")))
        .containsExactly("b goes-stale?");
    assertThat(judged(impact(source + "/raw#x", "drop", "workspace", "Nowhere"))).isEmpty();
  }

  @Test
  void words_that_nothing_has_are_refused() {
    String ref = source + "/raw#x";
    assertThat(api.get("/api/v1/impact", "ref", ref, "verdict", "explodes").type())
        .isEqualTo("/problems/bad-verdict");
    assertThat(api.get("/api/v1/impact", "ref", ref, "kind", "tabel").type())
        .isEqualTo("/problems/bad-kind");
    assertThat(api.get("/api/v1/impact", "ref", ref, "groupBy", "moon").type())
        .isEqualTo("/problems/bad-group");
  }

  @Test
  void groups_are_a_sheet_and_names_like_formulas_do_nothing() {
    Api.Answer sheet = api.csv("/api/v1/impact", "ref", source + "/raw#x", "groupBy", "owner");
    assertThat(sheet.body())
        .startsWith("\uFEFF\"name\",\"addresses\",\"items\",\"breaks\"")
        .contains("\"Ada\",\"ada@farm.example\",\"1\",\"0\",\"1\",\"0\",\"0\",\"0\",\"b\"");
    assertThat(api.csv("/api/v1/impact", "ref", source + "/raw#x").body())
        .contains("\"'=c|d\"")
        .contains("\"load\"");
  }

  @Test
  void the_report_shows_names_as_they_are() {
    HttpResponse<byte[]> report =
        api.bytes("text/markdown", "/api/v1/impact", "ref", source + "/raw#x");
    assertThat(report.headers().firstValue("Content-Type").orElse("")).startsWith("text/markdown");
    assertThat(new String(report.body(), UTF_8))
        .contains("**1 break, 3 go stale, 0 shift in values, 0 in rows.**")
        .contains("| Ada (ada@farm.example) | 1 | 0 | 1 | 0 | 0 | b |")
        .contains("| nobody owns these | 2 |")
        .contains("[=c\\|d](http")
        .contains("| goes stale (possible) |");
  }

  @Test
  void the_workbook_has_all_in_sheets() throws IOException {
    HttpResponse<byte[]> book = api.bytes(WORKBOOK, "/api/v1/impact", "ref", source + "/raw#x");
    assertThat(book.headers().firstValue("Content-Disposition").orElse(""))
        .contains("impact-")
        .contains(".xlsx");
    Map<String, String> parts = unzipped(book.body());
    assertThat(parts.get("xl/workbook.xml"))
        .contains("Touched", "Contacts", "By system", "By workspace", "By label", "Untouched");
    String texts = String.join("\n", parts.values());
    assertThat(texts).contains("=c|d", "ada@farm.example", "goes-stale", "fails first");
    assertThat(parts.get("xl/worksheets/sheet1.xml")).doesNotContain("<f>");
  }

  /** By its central directory, as spreadsheets read it. */
  private Map<String, String> unzipped(byte[] book) throws IOException {
    Path file = Files.write(folder.resolve("impact.xlsx"), book);
    var parts = new TreeMap<String, String>();
    try (var zip = new ZipFile(file.toFile())) {
      for (ZipEntry entry : Collections.list(zip.entries())) {
        parts.put(entry.getName(), new String(zip.getInputStream(entry).readAllBytes(), UTF_8));
      }
    }
    return parts;
  }
}
