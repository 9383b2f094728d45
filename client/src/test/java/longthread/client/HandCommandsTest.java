package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The commands by which people set things, against a server that answers as set. */
class HandCommandsTest extends AgainstServer {
  private static final String STATED =
      "{\"id\":\"s1\",\"receipt\":\"9\",\"dryRun\":false,\"changes\":[{\"of\":\"n/t\","
          + "\"what\":\"owners\",\"after\":[\"team:a\"]}],\"conflicts\":[]}";

  @Test
  void set_makes_one_statement_of_all_its_options_and_says_how_to_undo_it() {
    answer = STATED;
    Said said =
        run(
            "set",
            "n/t",
            "--owner",
            "team:a",
            "--owner",
            "team:b",
            "--clear",
            "tags",
            "--link",
            "Book=https://b.example",
            "--reason",
            "moved");
    assertThat(said.code()).isZero();
    assertThat(said.out()).contains("edit undo s1");
    assertThat(asked.get(0).body())
        .contains("\"reason\":\"moved\"")
        .contains("{\"set\":\"owners\",\"of\":\"n/t\",\"value\":[\"team:a\",\"team:b\"]}")
        .contains("{\"set\":\"tags\",\"of\":\"n/t\",\"value\":null}")
        .contains("\"url\":\"https://b.example\"");
  }

  @Test
  void a_conflict_is_a_finding_and_names_what_stands() {
    answer =
        "{\"dryRun\":false,\"changes\":[],\"conflicts\":[{\"of\":\"n/t\",\"what\":\"owners\","
            + "\"found\":[\"team:b\"]}]}";
    Said said = run("edit", "undo", "s1");
    assertThat(said.code()).isEqualTo(ServiceException.FINDING);
    assertThat(said.err()).contains("owners of n/t is team:b now");
  }

  @Test
  void record_reads_columns_with_their_flow() {
    answer = STATED;
    run("record", "--column", "n/a#x -> n/b#y aggregation", "--until", "2031-03-31");
    assertThat(asked.get(0).body())
        .contains("{\"from\":\"n/a#x\",\"to\":\"n/b#y\",\"flow\":\"aggregation\"}")
        .contains("\"until\":\"2031-03-31\"");
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "set n/t",
        "set n/t --clear colour",
        "set n/t --link nothing",
        "record",
        "record --column n/a#x",
        "record --column 'n/a#x->n/b#y sideways'",
        "record --list --state soon",
        "merge n/a",
        "merge --remove-rule",
        "coverage missing --kind colour",
        "coverage missing --fail-on colour",
        "coverage ignore never-written:n/a",
        "connect pigeon",
        "connect http",
        "wrap -- true",
        "wrap --job j",
        "read postgres --url mysql://a@h/d"
      })
  void wrong_usage_is_found_before_the_service_is_asked(String line) {
    var words = new java.util.ArrayList<String>();
    var matcher = java.util.regex.Pattern.compile("'([^']*)'|(\\S+)").matcher(line);
    while (matcher.find()) {
      words.add(matcher.group(1) != null ? matcher.group(1) : matcher.group(2));
    }
    assertThat(run(words.toArray(String[]::new)).code()).isEqualTo(2);
    assertThat(asked).isEmpty();
  }

  @Test
  void coverage_fails_only_on_the_kind_asked_for() {
    answer = "{\"items\":[],\"total\":0,\"counts\":{\"unowned\":3}}";
    assertThat(run("coverage", "missing", "--fail-on", "unowned").code()).isEqualTo(1);
    assertThat(run("coverage", "missing", "--fail-on", "silent-emitter").code()).isZero();
  }

  @Test
  void a_sheet_is_sent_as_what_it_is(@TempDir Path folder) throws IOException {
    answer = STATED;
    Path csv = Files.writeString(folder.resolve("a.csv"), "ref,owners\nn/t,team:a\n");
    Path json = Files.writeString(folder.resolve("a.json"), "[{\"ref\":\"n/t\"}]");
    run("edit", "apply", csv.toString(), "--dry-run");
    run("edit", "apply", json.toString(), "--reason", "x");
    assertThat(asked.get(0).line()).contains("dryRun=true");
    assertThat(asked.get(0).body()).startsWith("ref,owners");
    assertThat(asked.get(1).line()).contains("reason=x");
  }

  @Test
  void a_rule_is_tried_before_it_is_set() {
    answer = "{\"rule\":\"a => b\",\"fits\":1,\"joined\":[{\"name\":\"n/a\",\"becomes\":\"n/b\"}]}";
    assertThat(run("merge", "--rule", "a => b", "--dry-run").out())
        .contains("n/b")
        .contains("1 names fit");
    assertThat(asked.get(0).line()).startsWith("GET /api/v1/rules/try");
  }

  // ------------------------------------------------------------------ wrap

  private record Ran(int code, String out, String err) {}

  private Ran wrap(Path home, String service, String... words)
      throws IOException, InterruptedException {
    var line = new java.util.ArrayList<String>();
    line.add(Path.of(System.getProperty("java.home"), "bin", "java").toString());
    line.addAll(
        java.util.List.of(
            "-XX:TieredStopAtLevel=1",
            "-cp",
            System.getProperty("java.class.path"),
            "longthread.client.Main",
            "wrap",
            "--url",
            service,
            "--token",
            "lt_key"));
    line.addAll(java.util.List.of(words));
    Path out = home.resolve("out");
    Path err = home.resolve("err");
    var builder = new ProcessBuilder(line).redirectOutput(out.toFile()).redirectError(err.toFile());
    builder.environment().put("HOME", home.toString());
    int code = builder.start().waitFor();
    return new Ran(code, Files.readString(out), Files.readString(err));
  }

  @Test
  void wrap_passes_output_and_exit_code_and_reports_the_run(@TempDir Path home)
      throws IOException, InterruptedException {
    answers = Map.of("/api/v1/lineage/batch", "{\"accepted\":1,\"refused\":[]}");
    answer = "{\"ref\":\"w/core.farm\"}";
    Ran ran =
        wrap(
            home,
            url(),
            "--job",
            "@cron/export",
            "--reads",
            "core.farm",
            "--",
            "sh",
            "-c",
            "echo out; echo 'no such table' >&2; exit 7");
    assertThat(ran.code()).isEqualTo(7);
    assertThat(ran.out()).isEqualTo("out\n");
    assertThat(ran.err()).contains("no such table");
    String sent =
        asked.stream()
            .filter(a -> a.line().contains("batch"))
            .map(Asked::body)
            .reduce("", String::concat);
    assertThat(sent)
        .contains("\"eventType\":\"START\"", "\"eventType\":\"FAIL\"")
        .contains("exit code 7: no such table")
        .contains("{\"namespace\":\"w\",\"name\":\"core.farm\"}");
  }

  @Test
  void wrap_never_fails_the_command_and_keeps_its_run_for_later(@TempDir Path home)
      throws IOException, InterruptedException {
    Ran away = wrap(home, "http://127.0.0.1:9", "--job", "@cron/export", "--", "true");
    assertThat(away.code()).isZero();
    assertThat(away.err()).contains("kept in the spool");
    assertThat(wrap(home, url(), "--job", "@cron/x", "--", "/no/such/command").code())
        .isEqualTo(127);
  }
}
