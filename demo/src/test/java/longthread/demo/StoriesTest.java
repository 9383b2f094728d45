package longthread.demo;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** The first half hour's stories on the demo world, on the command line. */
@ExtendWith(DemoWorld.Extension.class)
class StoriesTest {
  private static final String BARN = "postgres://barn.hollinvale.example:5432/barn.";
  private static final String LITRES =
      "postgres://collect-db.hollinvale.example:5432/collect.public.pickup#litres";
  private DemoWorld world;

  @BeforeEach
  void useWorld(DemoWorld played) {
    world = played;
  }

  private String out(String... words) {
    DemoWorld.Said said = world.run(words);
    assertThat(said.code()).as(said.err()).isZero();
    return said.out();
  }

  private JsonNode json(String... words) {
    return new JsonMapper().readTree(out(words));
  }

  @Test
  void the_fat_readings_are_found_where_they_are_written() {
    String found = out("find", "fat", "readings");
    assertThat(found).contains("file://lab-share.hollinvale.example//drop/readings");
    assertThat(found.lines().findFirst().orElse("")).startsWith("NAME");
    assertThat(out("find", "fta", "raedings", "--csv"))
        .startsWith("\"NAME\"")
        .contains("drop/readings");
    assertThat(
            out(
                "find",
                "https://sightglass.hollinvale.example/farm-payments/report/ten-day-payout"))
        .contains("Ten-day payout");
  }

  @Test
  void all_that_rests_on_them_is_listed_down_to_the_reports() {
    String below = out("downstream", "drop/readings", "--kind", "report");
    assertThat(below)
        .contains("Ten-day payout", "Farm sheet", "Milk quality daily")
        .doesNotContain("Route costs");
  }

  @Test
  void the_thread_to_the_payout_report_reads_from_source_to_target() {
    String thread = out("thread", "drop/readings#fat", "Ten-day payout");
    assertThat(thread)
        .containsSubsequence(
            "drop/readings_{date}.csv#fat",
            "└ copied, via @nightshift/lab_intake.land_readings",
            "landed/readings#fat",
            "raw.lab_reading#fat",
            "core.lab_reading#fat_pct",
            "└ aggregated, via @nightshift/payout_tenday.build_payout",
            "mart.payout_statement#amount",
            "Every step carries values.");
  }

  @Test
  void the_amount_leads_back_to_the_laboratorys_file_and_the_pickup_weight() {
    String back = out("upstream", "payout_statement#amount");
    assertThat(back)
        .contains("file://lab-share.hollinvale.example//drop/readings_{date}.csv#fat", LITRES)
        .contains("Columns that filter, join or group")
        .contains("core.pickup#sample_no");
  }

  @Test
  void renaming_litres_breaks_one_job_and_leaves_the_route_costs_untouched() {
    JsonNode impact = json("impact", LITRES, "--change", "rename", "--to", "volume_l", "--json");
    assertThat(impact.path("summary").path("verdicts").path("breaks").intValue()).isEqualTo(1);
    assertThat(impact.path("items").get(0).path("name").stringValue(""))
        .isEqualTo("collect_nightly.land_pickup");
    assertThat(impact.path("items").toString())
        .contains("Ten-day payout")
        .doesNotContain("route_cost");
    assertThat(impact.path("untouched").path("items").toString()).contains("Route costs");
    assertThat(impact.path("untouched").path("certain"))
        .isEqualTo(impact.path("untouched").path("count"));
    assertThat(world.run("impact", LITRES, "--fail-on", "breaks").code()).isEqualTo(1);
    assertThat(world.run("impact", LITRES, "--change", "delay", "--fail-on", "breaks").code())
        .isZero();
  }

  @Test
  void the_impact_is_a_sheet_to_hand_on() {
    String sheet = out("impact", LITRES, "--csv");
    assertThat(sheet).startsWith("\uFEFF\"name\",\"kind\",\"verdict\"");
    assertThat(sheet)
        .contains("\"Ten-day payout\",\"report\",\"goes-stale\"")
        .contains("payout@hollinvale.example");
  }

  @Test
  void the_unit_slip_shifts_the_payout_and_not_the_route_costs() {
    String impact = out("impact", "drop/readings#fat", "--change", "values");
    assertThat(impact)
        .contains("values shift")
        .contains("Ten-day payout")
        .doesNotContain("Route costs");
  }

  @Test
  void a_stale_report_leads_past_the_failed_task_to_the_load_that_never_came() {
    JsonNode causes = json("causes", "Milk quality daily", "--json");
    assertThat(causes.path("suspects")).hasSize(1);
    JsonNode suspect = causes.path("suspects").get(0);
    assertThat(suspect.path("ref").stringValue(""))
        .isEqualTo("@nightshift/lab_intake.land_readings");
    assertThat(suspect.path("what").stringValue("")).isEqualTo("missing");
    assertThat(suspect.path("owners").get(0).path("name").stringValue("")).isEqualTo("Ida Thwaite");
    assertThat(causes.path("explained").toString()).contains("quality_daily.build_milk_quality");
    assertThat(causes.path("expectedRecovery").isString()).isTrue();
    String found = out("causes", "Milk quality daily");
    assertThat(found).contains("land_readings missing since").contains("holds no rows of that day");
    assertThat(out("causes", "Route costs")).contains("Nothing upstream failed");
    assertThat(world.run("causes", "Milk quality daily", "--fail-on", "suspect").code())
        .isEqualTo(1);
  }

  @Test
  void an_asset_and_a_job_show_what_they_are() {
    assertThat(out("show", "mart.payout_statement"))
        .contains("What each farm is paid for ten days of milk.")
        .contains("Payout office <payout@hollinvale.example>")
        .contains("aggregated core.pickup#volume_l");
    assertThat(out("show", "@build_payout"))
        .contains("writes postgres://barn.hollinvale.example:5432/barn.mart.payout_statement")
        .contains("UNUSED INPUT COLUMNS")
        .containsPattern("period_start +constant date '20")
        .contains("insert into mart.payout_statement");
    assertThat(out("show", "core.lab_reading")).contains("readings_present");
  }

  @Test
  void a_column_with_three_writers_shows_all_three_and_which_carries_no_data() {
    String km = out("upstream", "mart.route_cost#km", "--hops", "1");
    assertThat(km)
        .contains("public.odometer#counter_km")
        .contains("public.contract#agreed_km")
        .contains("carries no data from upstream")
        .containsPattern("mart.route_cost#km +0 +@nightshift/collect_nightly.cost_routes");
    assertThat(out("show", "mart.route_cost")).contains("constant 0");
    JsonNode graph = json("upstream", "mart.route_cost#km", "--hops", "1", "--json");
    assertThat(graph.path("links")).hasSize(2);
    assertThat(graph.path("links").toString())
        .contains("cost_routes", "cost_hired", "\"evidence\":\"derived\"");
  }

  @Test
  void sql_files_are_read_and_the_text_behind_a_column_is_pointed_at(@TempDir Path folder)
      throws IOException {
    Path file = folder.resolve("cost.sql");
    Files.writeString(
        file,
        Task.all().stream()
            .filter(t -> t.name().endsWith("cost_routes"))
            .findFirst()
            .orElseThrow()
            .text());
    String km = out("sql", file.toString(), "--dialect", "postgres", "--column", "km");
    assertThat(km)
        .contains("aggregated; constant 0")
        .contains("collect.odometer#counter_km")
        .contains("columns that filter, join or group: join collect.farm#farm_id")
        .containsPattern("sum\\(o\\.counter_km\\) as km\\n +\\^{17}\\n");
    JsonNode whole = json("sql", file.toString(), "--json");
    assertThat(whole.get(0).path("outputs")).hasSize(6);
    assertThat(world.run("sql", file.toString(), "--column", "nothing").code()).isEqualTo(3);
    assertThat(world.run("sql", folder.resolve("none.sql").toString()).code()).isEqualTo(2);
    Files.writeString(file, "selec nonsense");
    assertThat(world.run("sql", file.toString(), "--fail-on", "incomplete").code()).isEqualTo(1);
    assertThat(out("sql", folder.toString())).contains("could not be parsed");
  }

  @Test
  void runs_show_the_failed_task_and_its_pipeline() {
    String failed = out("runs", "--state", "failed");
    assertThat(failed)
        .contains("quality_daily.build_milk_quality")
        .contains("holds no rows of that day");
    assertThat(out("runs", "--pipeline", "quality_daily", "--csv")).contains("check_readings");
    assertThat(out("intake")).contains(" received, ").contains("EVENT TIME");
  }

  @Test
  void wrong_usage_unknown_ambiguous_refused_and_unreachable_have_their_own_exit_codes() {
    assertThat(world.run("impact").code()).isEqualTo(2);
    assertThat(world.run("paint").code()).isEqualTo(2);
    DemoWorld.Said unknown = world.run("show", "mart.payuot_statement");
    assertThat(unknown.code()).isEqualTo(3);
    assertThat(unknown.err()).contains("mart.payout_statement");
    assertThat(unknown.out()).isEmpty();
    DemoWorld.Said ambiguous = world.run("show", "lab_reading");
    assertThat(ambiguous.code()).isEqualTo(3);
    assertThat(ambiguous.err()).contains("barn.core.lab_reading").contains("barn.raw.lab_reading");
    assertThat(world.run("impact", LITRES, "--change", "paint").code()).isEqualTo(2);
    DemoWorld.Said gone =
        DemoWorld.run(Map.of("LONGTHREAD_URL", "http://127.0.0.1:1"), "find", "x");
    assertThat(gone.code()).isEqualTo(5);
    assertThat(gone.err()).contains("./longthread demo");
    assertThat(DemoWorld.run(Map.of(), "find", "x").code()).isEqualTo(5);
    String wrongKey = world.service().base();
    assertThat(
            DemoWorld.run(Map.of("LONGTHREAD_URL", wrongKey, "LONGTHREAD_TOKEN", "x"), "find")
                .code())
        .isEqualTo(4);
  }

  @Test
  void help_is_grouped_by_the_order_of_the_work_and_every_command_has_an_example() {
    String help = out("--help");
    assertThat(help)
        .containsSubsequence(
            "Take in", "send", "Find and understand", "Follow the thread", "impact", "causes");
    for (String command :
        new String[] {
          "connect",
          "send",
          "wrap",
          "read",
          "set",
          "record",
          "term",
          "edit",
          "merge",
          "coverage",
          "find",
          "show",
          "upstream",
          "downstream",
          "thread",
          "impact",
          "causes",
          "intake",
          "runs"
        }) {
      assertThat(out(command, "--help")).contains("longthread " + command);
    }
  }

  @Test
  void events_are_sent_from_a_file_and_what_is_refused_is_named_by_its_line(@TempDir Path folder)
      throws IOException {
    Path file = folder.resolve("events.ndjson");
    String head = "{\"eventTime\":\"2026-05-01T00:00:00Z\",\"producer\":\"p\",\"schemaURL\":\"s\",";
    Files.writeString(
        file,
        head
            + "\"dataset\":{\"namespace\":\"sent\",\"name\":\"by.hand\"}}\n\nnonsense\n"
            + head
            + "\"job\":{}}\n");
    DemoWorld.Said said = world.run("send", file.toString());
    assertThat(said.code()).isZero();
    assertThat(said.out()).contains("3 received, 1 accepted");
    assertThat(said.err()).contains("events.ndjson:3:").contains("events.ndjson:4:");
    assertThat(world.run("send", "--fail-on", "refused", file.toString()).code()).isEqualTo(1);
    assertThat(out("find", "by.hand")).contains("sent/by.hand");
    assertThat(world.run("send", folder.resolve("none").toString()).code()).isEqualTo(2);
  }

  @Test
  void an_owner_sees_which_refresh_failed_and_what_rests_on_it() {
    assertThat(out("workspace", "list")).containsPattern("Cellar .*Batch days");
    assertThat(out("workspace", "map", "cellar"))
        .contains("failed ", "the relay vale-relay did not answer", "rests on a failed refresh")
        .contains("through Relay in the Hollin data room", "not matched");
    assertThat(out("workspace", "show", "Board Room", "--csv"))
        .contains("\"reused step\",\"Quality lines\"")
        .contains("\"Daily quality\",\"Milk Quality\"");
  }

  @Test
  void a_chart_of_the_board_is_followed_through_step_and_extract_to_where_it_is_captured() {
    String explained = out("explain", "chart/milk-and-money#paid");
    assertThat(explained)
        .contains("All money paid to the farms for the running ten days")
        .contains("paid is summarised from paid_amount of “extracts/payout_lines.csv”")
        .contains("paid_amount is taken from amount of “Payout lines”, unchanged")
        .containsPattern("is captured in “.*” of collect-db");
    assertThat(out("explain", "chart/milk-and-money")).contains("paid", "milk_l");
  }

  @Test
  void a_tables_impact_names_charts_and_the_fields_in_them() {
    assertThat(out("impact", "mart.payout_statement#volume_l", "--change", "values", "--csv"))
        .contains("Price per litre", "price_per_litre", "Milk and money", "milk_l");
  }

  @Test
  void a_change_by_hand_in_the_bi_tool_shows_at_once() throws java.io.IOException {
    Sightglass sightglass = world.sightglass();
    sightglass.edit("cellar", "/charts/1/title", "Dampness");
    assertThat(out("find", "dampness")).contains("cellar/chart/humidity");
    assertThatThrownBy(() -> sightglass.edit("cellar", "/charts/1/of", "model/none"))
        .hasMessageContaining("/charts/1/of");
    assertThat(out("find", "dampness")).contains("cellar/chart/humidity");
    sightglass.edit("cellar", "/charts/1/title", "Humidity");
  }

  @Test
  void a_description_is_tried_before_it_is_sent(@TempDir Path folder) throws java.io.IOException {
    Path file = folder.resolve("cellar.json");
    String text =
        new String(
            world.sightglass().description("cellar", java.time.Instant.now()),
            java.nio.charset.StandardCharsets.UTF_8);
    Files.writeString(file, text.replace("\"Turning log\"", "\"Log of turnings\""));
    assertThat(out("workspace", "diff", file.toString()))
        .contains("model/turning", "Turning log", "Log of turnings");
    assertThat(world.run("workspace", "diff", file.toString(), "--fail-on", "changed").code())
        .isEqualTo(1);
    Files.writeString(file, text.replace("\"model/turning\"", "\"model/turned\""));
    DemoWorld.Said said = world.run("workspace", "put", file.toString());
    assertThat(said.code()).isEqualTo(4);
    assertThat(said.err()).contains("/charts/2/of", "model/turning");
  }

  @Test
  void what_real_engines_send_is_understood() {
    // A member twice, and a clock that is wrong: taken, and named.
    assertThat(out("intake", "--limit", "100"))
        .contains("'processing_engine' more than once", "2099-12-31");
    // A mail only reads, and its query says what; a struct covers its fields.
    assertThat(out("impact", "cheese_batch#kg", "--change", "drop"))
        .contains("mail_overripe")
        .containsPattern("untouched +1 +job +fold_climate");
    assertThat(out("impact", "cheese_batch#climate.humidity_pct", "--change", "values"))
        .containsPattern("values shift \\(possible\\) .*climate_daily");
    // The writer's schema stays, whatever a reader asks for; the columns have odd names.
    assertThat(out("show", "cheese_batch"))
        .contains("batch_id", "kg", "climate.temperature_c", "../shelf")
        .doesNotContain("_metadata_file");
    // Dropped under its path and its alias; renamed, with the new name in front.
    assertThat(json("show", "cellar.scratch", "--json").path("retired").booleanValue()).isTrue();
    assertThat(json("show", "hollinvale-cellar/turning", "--json").path("ref").stringValue())
        .endsWith("/turning_log");
    // Three statements of one night, each with its own sources.
    assertThat(out("upstream", "cellar.shelf_plan"))
        .contains("shelf_change", "turning_day", "closed_shelf");
    assertThat(out("runs", "@curdworks/profile_batches")).contains("unknown");
  }

  // ------------------------------------------------------------------ ways in, and by hand

  @Test
  void the_account_numbers_leak_into_a_report_and_the_hashed_copy_does_not_count() {
    DemoWorld.Said leaks = world.run("leaks", "--label", "personal", "--fail-on", "certain");
    assertThat(leaks.code()).isEqualTo(1);
    assertThat(leaks.out())
        .containsPattern(
            "Ten-day payout +report +personal +certain +core.farm#iban +Payout lines#pay_to")
        .doesNotContain("iban_hash");
    assertThat(out("leaks", "Ten-day payout"))
        .contains("personal may not be in report or dashboard")
        .containsPattern("Payout lines#pay_to .*a mask is missing here");
    assertThat(out("label", "show", "personal")).doesNotContain("iban_hash", "farm_name");
    assertThat(out("find", "payout", "--label", "personal")).contains("Ten-day payout");
    assertThat(out("preview", "core.farm", "--limit", "3"))
        .contains("[personal: partial]")
        .containsPattern("•••••\\d{4}")
        .doesNotContain("XX00");
    assertThat(out("preview", "drop/readings", "--limit", "2")).contains("fat", "protein");
    assertThat(out("audit", "--action", "preview")).contains("core.farm");
  }

  @Test
  void the_payout_office_sees_its_part_and_that_there_is_more() {
    String desk = "desk-" + java.util.UUID.randomUUID();
    String token = world.run("key", "make", desk, "--role", "limited").out().strip();
    for (String[] scope : new String[][] {{"--system", "barn"}, {"--workspace", "Farm Payments"}}) {
      assertThat(
              world
                  .run("grant", "give", "--key", desk, "--role", "reader", scope[0], scope[1])
                  .out())
          .contains(scope[1]);
    }
    var desks = Map.of("LONGTHREAD_URL", world.service().base(), "LONGTHREAD_TOKEN", token);
    DemoWorld.Said found = DemoWorld.run(desks, "find", "payout");
    assertThat(found.out()).contains("Ten-day payout", "payout_statement").doesNotContain("tally");
    assertThat(found.err()).containsPattern("without \\d+ assets that your grants do not cover");
    String[] impact = {"impact", "raw.pickup#litres", "--change", "drop", "--csv"};
    String mine = DemoWorld.run(desks, impact).out();
    assertThat(mine)
        .contains("\"restricted\"", "mart.payout_statement")
        .doesNotContain("curdworks");
    assertThat(mine.lines().count()).isEqualTo(out(impact).lines().count());
    assertThat(DemoWorld.run(desks, "thread", "core.farm#iban", "Ten-day payout").out())
        .contains("via @restricted/", "step/payout-lines#pay_to");
    assertThat(DemoWorld.run(desks, "show", "collect.public.farm").code()).isEqualTo(3);
    assertThat(DemoWorld.run(desks, "today").code()).isEqualTo(4);
    assertThat(out("grant", "list", "--key", desk)).contains("system barn");
    assertThat(world.run("key", "revoke", desk).code()).isZero();
    assertThat(world.run("grant", "list", "--key", desk).err()).contains("nobody holds a grant");
  }

  @Test
  void what_is_taken_out_as_events_gives_an_empty_service_the_same_graph() {
    String report = "sightglass://hollinvale/farm-payments/report/ten-day-payout";
    String[] asEvents = {"export", report, "--as", "openlineage", "--direction", "upstream"};
    String[] asSheet = {"export", report, "--as", "csv", "--direction", "upstream"};
    String events = out(asEvents);
    assertThat(events).contains("readings_", "payout_tenday");
    assertThat(out(asSheet).lines().count()).isGreaterThan(100);
    try (RunningService empty = RunningService.another()) {
      var sent =
          empty
              .api()
              .post("/api/v1/lineage/batch", events, "Content-Type", "application/x-ndjson")
              .json();
      assertThat(sent.path("refused")).as(sent.toString()).isEmpty();
      empty.api().see(sent.path("receipt").stringValue(""));
      var there = Map.of("LONGTHREAD_URL", empty.base(), "LONGTHREAD_TOKEN", RunningService.TOKEN);
      assertThat(DemoWorld.run(there, asSheet).out()).isEqualTo(out(asSheet));
    }
  }

  @Test
  void two_names_of_the_payout_table_are_one_asset_with_both_views() {
    String shown = world.run("show", "odbc://barn-dsn/mart.payout_statement").out();
    assertThat(shown)
        .contains("postgres://barn.hollinvale.example:5432/barn.mart.payout_statement");
    assertThat(world.run("downstream", "mart.payout_statement").out())
        .contains("tally/payout_close.csv", "Ten-day payout");
    assertThat(world.run("find", "payout_statement", "--json").out())
        .containsOnlyOnce("\"name\" : \"payout_statement\"");
  }

  @Test
  void a_table_that_two_programs_name_differently_is_proposed_joined_and_separated_again() {
    String[] pair = {"odbc://barn-dsn/core.price", BARN + "core.price"};
    assertThat(world.run("merge", "--suggest").out()).contains(pair[0], "written and never read");
    assertThat(world.run("coverage", "missing", "--kind", "never-written").out())
        .contains("core.price in barn");
    DemoWorld.Said joined = world.run("merge", pair[0], pair[1]);
    assertThat(joined.out()).contains("edit undo");
    assertThat(world.run("upstream", "mart.payout_statement#amount").out())
        .contains("tally/prices.xlsx");
    assertThat(world.run("coverage", "missing", "--kind", "never-written").out())
        .doesNotContain("core.price in barn");
    String id = joined.out().strip().replaceAll("(?s).* ", "");
    assertThat(world.run("edit", "undo", id).code()).isZero();
    assertThat(world.run("upstream", "mart.payout_statement#amount").out())
        .doesNotContain("tally/prices.xlsx");
  }

  @Test
  void a_foreign_database_is_read_in_with_one_command_and_shows_column_lineage(@TempDir Path home) {
    String address =
        world
            .service()
            .postgres()
            .url("ripening")
            .replace("jdbc:postgresql://", "postgres://ripening_reader@");
    assertThat(world.run("coverage", "missing", "--kind", "unmatched-source").out())
        .contains("public.batch");
    DemoWorld.Said said =
        DemoWorld.run(
            java.util.Map.of(
                "LONGTHREAD_URL", world.service().base(),
                "LONGTHREAD_TOKEN", longthread.service.testing.RunningService.TOKEN,
                "LONGTHREAD_READ_PASSWORD", world.service().postgres().password(),
                "HOME", home.toString()),
            "read",
            "postgres",
            "--url",
            address,
            "--namespace",
            "postgres://ripening-db.hollinvale.example:5432");
    assertThat(said.out()).as(said.err()).startsWith("5 tables, 2 views");
    assertThat(world.run("upstream", "ripe_batch#age_days").out()).contains("batch#salted_on");
    assertThat(world.run("upstream", "cellar_loss#kilograms").out()).contains("batch#weight_kg");
    assertThat(world.run("show", "ripening.public.person").out()).contains("personal", "contact");
    assertThat(world.run("coverage", "missing", "--kind", "unmatched-source").out())
        .doesNotContain("public.batch");
  }

  @Test
  void a_link_recorded_by_hand_is_confirmed_by_an_event_and_coverage_moves_with_it() {
    String[] ends = {"file://office-share.hollinvale.example//desk/plan.xlsx", "share/board.csv"};
    DemoWorld.Said said =
        world.run(
            "record", "--id", "desk", "--reads", ends[0], "--writes", ends[1], "--reason", "seen");
    assertThat(said.code()).as(said.err()).isZero();
    assertThat(world.run("record", "--list", "--of", ends[1]).out()).contains("unconfirmed");
    assertThat(world.run("coverage", "--system", "share").out()).contains("100 %");
    world
        .service()
        .api()
        .event(
            longthread.service.testing.Events.run(
                "COMPLETE",
                "2026-11-20T06:00:00Z",
                java.util.UUID.randomUUID(),
                "desk",
                "copy",
                "'inputs':[{'namespace':'file://office-share.hollinvale.example','name':'/desk/plan.xlsx'}],"
                    + "'outputs':[{'namespace':'share','name':'board.csv'}]"));
    assertThat(world.run("record", "--list", "--of", ends[1]).out()).contains("confirmed");
    world.run("record", "--withdraw", "desk");
    assertThat(world.run("record", "--list", "--of", ends[1]).out()).contains("withdrawn");
  }

  @Test
  void each_review_says_which_version_of_the_laboratorys_task_it_rests_on() {
    JsonNode review = json("upstream", "Class review", "--exact", "--json").path("exact");
    assertThat(review.path("ambiguous").intValue()).isZero();
    assertThat(review.path("outdated").toString())
        .contains("lab_intake.build_lab_reading as version 1; version 2 has run since");
    assertThat(review.path("runs").findValuesAsString("name"))
        .contains("Refresh of Class review model", "lab_intake.land_readings");
    assertThat(review.path("sources").toString()).contains("drop/readings_{date}.csv");
    assertThat(out("upstream", "Class audit", "--exact"))
        .contains("Ambiguous:", "it wrote while this was read", "1, now 2", "possible");
    assertThat(
            out(
                "compare",
                "@lab_intake.build_lab_reading",
                "--from",
                "version:1",
                "--to",
                "version:2"))
        .contains("raw.lab_reading#residue", "+   case when r.residue or r.cell_count > 400000");
    assertThat(
            world
                .run("compare", "core.lab_reading", "--from", "version:1", "--to", "version:2")
                .code())
        .isEqualTo(4);
  }

  @Test
  void the_runs_code_and_loads_behind_the_payout_are_proved_and_checked(@TempDir Path folder)
      throws IOException {
    Path file = folder.resolve("payout.json");
    out("prove", "mart.payout_statement#amount", "--to", file.toString());
    JsonNode proof = new JsonMapper().readTree(Files.readString(file));
    assertThat(proof.path("runs").findValuesAsString("name"))
        .contains("payout_tenday.build_payout", "lab_intake.load_readings");
    assertThat(proof.path("code").toString()).contains("insert into mart.payout_statement");
    assertThat(proof.path("checks").toString()).contains("fat_plausible");
    assertThat(proof.path("people").toString()).contains("Payout office");
    assertThat(out("prove", "--check", file.toString())).startsWith("valid");
    Files.writeString(file, Files.readString(file).replace("build_payout", "build_payouts"));
    DemoWorld.Said altered = world.run("prove", "--check", file.toString());
    assertThat(altered.code()).isEqualTo(1);
    assertThat(altered.out()).startsWith("NOT VALID");
    assertThat(out("prove", "Ten-day payout", "--as", "html"))
        .contains("What was behind Ten-day payout");
    assertThat(out("prove", "Ten-day payout", "--as", "prov-json")).contains("wasGeneratedBy");
    assertThat(world.run("prove").code()).isEqualTo(2);
  }

  @Test
  void a_load_is_recalled_down_to_the_reports_that_hold_it() {
    JsonNode list = json("recall", "@lab_intake.load_readings", "--json");
    assertThat(list.path("items").toString()).contains("Ten-day payout", "Quality wall");
    assertThat(list.path("holds").intValue()).isPositive();
    assertThat(world.run("recall", "@lab_intake.load_readings", "--fail-on", "holds").code())
        .isEqualTo(1);
    assertThat(out("recall", "@lab_intake.load_readings", "--csv")).startsWith("\"STATE\"");
  }

  @Test
  void the_rename_is_planned_answered_and_held_back_by_the_gate(@TempDir Path folder)
      throws IOException {
    Path examples = RunningService.checkout().resolve("docs").resolve("examples");
    String change = examples.resolve("rename-litres.yaml").toString();
    DemoWorld.Said gate = world.run("gate", change);
    assertThat(gate.code()).isEqualTo(1);
    assertThat(gate.out())
        .startsWith("FAILS: 1 change, ")
        .contains("NOT ALLOWED", "collect_nightly.land_pickup", "Collection");
    Path sarif = folder.resolve("gate.sarif");
    Path junit = folder.resolve("gate.xml");
    Path markdown = folder.resolve("gate.md");
    DemoWorld.Said waived =
        world.run(
            "gate",
            change,
            "--policy",
            examples.resolve("gate.yaml").toString(),
            "--sarif",
            sarif.toString(),
            "--junit",
            junit.toString(),
            "--markdown",
            markdown.toString());
    assertThat(waived.code()).as(waived.err()).isZero();
    assertThat(
            new JsonMapper().readTree(Files.readString(sarif)).path("runs").get(0).path("results"))
        .isNotEmpty();
    assertThat(Files.readString(junit)).contains("<testsuite failures=\"0\"");
    assertThat(Files.readString(markdown)).contains("waived until", "Ten-day payout");
    Path wrong = folder.resolve("wrong.yaml");
    Files.writeString(wrong, "format: longthread-gate/1\nrules: [{then: fail, verdict: [brakes]}]");
    assertThat(world.run("gate", change, "--policy", wrong.toString()).code()).isEqualTo(2);
    String proposed = out("change", "propose", change);
    String id = proposed.lines().skip(1).findFirst().orElseThrow().substring("id ".length());
    assertThat(out("change", "list", "--touching", "Ten-day payout"))
        .contains("Litres become volume_l");
    assertThat(out("change", "answer", id, "Payout office", "objects", "--note", "not in May"))
        .contains("objects", "not in May");
    assertThat(out("change", "move", id, "withdrawn")).contains("(withdrawn)");
    assertThat(world.run("change", "move", id, "agreed").code()).isEqualTo(4);
    assertThat(world.run("change", "list", "--state", "open").code()).isEqualTo(2);
  }

  @Test
  void what_a_policy_allows_for_one_step_excuses_no_other(@TempDir Path folder) throws IOException {
    Path change = folder.resolve("both.yaml");
    String rename = "  - {change: rename, of: 'collect.public.pickup#litres', to: volume_l}\n";
    String drop = "  - {change: drop, of: 'core.farm#farm_name'}\n";
    String head = "format: longthread-change/1\ntitle: both\nsteps:\n";
    Path policy = folder.resolve("policy.yaml");
    String rest = "  - {then: fail, verdict: [breaks]}\notherwise: allow\n";
    for (String allowed :
        new String[] {
          "format: longthread-gate/1\nrules:\n  - {then: allow, change: [rename]}\n" + rest,
          "format: longthread-gate/1\nrules:\n"
              + rest
              + "waivers:\n  - {of: '"
              + LITRES
              + "', reason: agreed, until: 2099-01-01}\n"
        }) {
      Files.writeString(policy, allowed);
      Files.writeString(change, head + rename);
      assertThat(world.run("gate", change.toString(), "--policy", policy.toString()).code())
          .as("the rename alone: " + allowed)
          .isZero();
      Files.writeString(change, head + rename + drop);
      DemoWorld.Said both = world.run("gate", change.toString(), "--policy", policy.toString());
      assertThat(both.code()).as("with a drop that breaks: " + allowed).isEqualTo(1);
      assertThat(both.out()).contains("1 not allowed", "payout_tenday.build_payout");
    }
  }

  @Test
  void a_snapshot_judges_where_no_service_answers(@TempDir Path folder) throws IOException {
    Path snapshot = folder.resolve("catalog.zip");
    assertThat(world.run("snapshot", snapshot.toString()).code()).isZero();
    Path examples = RunningService.checkout().resolve("docs").resolve("examples");
    String change = examples.resolve("rename-litres.yaml").toString();
    for (List<String> policy :
        List.of(List.<String>of(), List.of("--policy", examples.resolve("gate.yaml").toString()))) {
      var asked = new ArrayList<>(List.of("gate", change, "--json"));
      asked.addAll(policy);
      DemoWorld.Said served = world.run(asked.toArray(String[]::new));
      asked.addAll(List.of("--snapshot", snapshot.toString(), "--url", "http://127.0.0.1:1"));
      DemoWorld.Said alone = world.run(asked.toArray(String[]::new));
      assertThat(alone.code()).as(alone.err()).isEqualTo(served.code());
      JsonNode report = new JsonMapper().readTree(alone.out());
      assertThat(report.path("items"))
          .isEqualTo(new JsonMapper().readTree(served.out()).path("items"));
      assertThat(report.path("notes").toString()).contains("judged by the snapshot catalog.zip");
    }
    Path damaged = folder.resolve("damaged.zip");
    Files.writeString(damaged, "cut off");
    DemoWorld.Said refused = world.run("gate", change, "--snapshot", damaged.toString());
    assertThat(refused.code()).isEqualTo(2);
    assertThat(refused.err()).contains("it is no snapshot");
  }

  @Test
  void two_versions_of_a_tasks_sql_are_judged(@TempDir Path folder) throws IOException {
    Path old = folder.resolve("old.sql");
    Path now = folder.resolve("new.sql");
    Files.writeString(
        old, "create table core.farm (farm_id int, farm_name text, iban text, herd_size int);");
    Files.writeString(
        now, "create table core.farm (farm_id int, name text, iban text, herd_size bigint);");
    DemoWorld.Said gate =
        world.run("gate", "--before", old.toString(), "--after", now.toString(), "--json");
    assertThat(gate.code()).isEqualTo(1);
    JsonNode report = new JsonMapper().readTree(gate.out());
    assertThat(report.path("changes").findValuesAsString("of"))
        .containsExactlyInAnyOrder(BARN + "core.farm#farm_name", BARN + "core.farm#herd_size");
    assertThat(report.path("items").toString()).contains("build_payout");
    Files.writeString(
        now, "create table core.farm (farm_id int, farm_name text, iban text, herd_size int)");
    assertThat(out("gate", "--before", old.toString(), "--after", now.toString()))
        .contains("No change of data was found.");
    Files.writeString(old, "create table somewhere.else (a int, b int)");
    Files.writeString(now, "create table somewhere.else (a int)");
    DemoWorld.Said unknown =
        world.run("gate", "--before", old.toString(), "--after", now.toString());
    assertThat(unknown.code()).as("what is not in the catalog is no pass").isEqualTo(1);
    assertThat(unknown.out()).contains("Not in the catalog, so not judged");
    Files.writeString(old, "");
    Files.writeString(now, "create table somewhere.fresh as select 1 as a;");
    assertThat(out("gate", "--before", old.toString(), "--after", now.toString()))
        .as("a new table is read by nobody yet")
        .contains("No change of data was found.");
    Files.writeString(now, "insert into core.farm select * from raw.farm;");
    assertThat(out("gate", "--before", old.toString(), "--after", now.toString()))
        .as("what was there gets a writer more")
        .contains("rows " + BARN + "core.farm", "by none of these files before");
    Files.writeString(old, "create table mart.route_cost (km int, trips int)");
    Files.writeString(now, "create table mart.route_cost (km bigint, trips int)");
    assertThat(world.run("gate", "--before", old.toString(), "--after", now.toString()).out())
        .as("of what is read, no such note")
        .doesNotContain("nothing is known that reads");
    assertThat(world.run("gate").code()).isEqualTo(2);
    assertThat(world.run("gate", "--git", "no..such").code()).isEqualTo(2);
    assertThat(world.run("gate", "--before", old.toString(), "--after", folder.toString()).code())
        .isEqualTo(2);
  }
}
