package longthread.demo;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Download;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.FilePayload;
import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Pattern;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** The console in a real browser, on the demo world. */
@ExtendWith(DemoWorld.Extension.class)
class ConsoleTest {
  private static final int MOMENTS = 40;
  private static final String BARN = "postgres://barn.hollinvale.example:5432/barn.";
  private static Browser browser;
  private final List<String> failures = new ArrayList<>();
  private DemoWorld world;
  private Page page;

  @BeforeAll
  static void startBrowser() {
    browser = new Browser();
  }

  @AfterAll
  static void stopBrowser() {
    browser.close();
  }

  @BeforeEach
  void signIn(DemoWorld played) {
    world = played;
    page = browser.page("light");
    page.onPageError(failures::add);
    Browser.signIn(page, world.service().base(), "admin", RunningService.PASSWORD);
  }

  @AfterEach
  void nothingFailedInThePage() {
    page.context().close();
    org.assertj.core.api.Assertions.assertThat(failures).isEmpty();
  }

  private void open(String path, String... reference) {
    String query =
        reference.length == 0
            ? ""
            : (path.contains("?") ? "&" : "?")
                + "ref="
                + URLEncoder.encode(reference[0], StandardCharsets.UTF_8);
    page.navigate(world.service().base() + path + query);
  }

  private Locator option(String words) {
    return page.locator(".ant-select-item-option", new Page.LocatorOptions().setHasText(words));
  }

  private Locator link(String name) {
    return page.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName(name).setExact(true));
  }

  private Locator button(String name) {
    return page.getByRole(
        AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name).setExact(true));
  }

  private Locator box(String name) {
    return page.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName(name).setExact(true));
  }

  @Test
  void a_wrong_password_is_explained_and_signing_out_ends_the_session() {
    button("Administrator (admin)").click();
    page.getByText("Sign out").click();
    page.getByLabel("Name").fill("admin");
    page.getByLabel("Password").fill("guess");
    button("Sign in").click();
    assertThat(page.getByText("check both")).isVisible();
  }

  @Test
  void words_find_assets_and_filters_narrow_them() {
    page.getByLabel("Find", new Page.GetByLabelOptions().setExact(true)).fill("fat readings");
    page.keyboard().press("Enter");
    assertThat(page).hasURL(Pattern.compile("q=fat"));
    assertThat(page.getByText("The file that the laboratory's instrument PC writes")).isVisible();
    button("file 2").click();
    assertThat(page.getByText("2 assets for")).isVisible();
    link("readings").first().click();
    assertThat(page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("readings")))
        .isVisible();
  }

  @Test
  void places_are_opened_one_by_one() {
    open("/find");
    page.getByText("barn  (", new Page.GetByTextOptions().setExact(false)).first().click();
    page.getByText("barn  (").nth(1).click();
    page.getByText("mart  (").click();
    page.getByText("payout_statement").first().click();
    assertThat(page).hasURL(Pattern.compile("/asset"));
  }

  @Test
  void an_asset_shows_what_it_is_first_and_where_each_column_comes_from() {
    open("/asset", BARN + "mart.payout_statement");
    assertThat(page.getByText("What each farm is paid for ten days of milk.")).isVisible();
    assertThat(link("core.lab_reading#fat_pct").first()).isVisible();
    page.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName("Runs").setExact(true))
        .click();
    assertThat(page).hasURL(Pattern.compile("tab=runs"));
    assertThat(page.getByText("payout_tenday.build_payout").first()).isVisible();
    assertThat(page.getByLabel(Pattern.compile("Duration of the last"))).isVisible();
    page.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName("Row counts")).click();
    assertThat(page.getByLabel(Pattern.compile("Rows written by runs, newest"))).isVisible();
    page.getByText("Table", new Page.GetByTextOptions().setExact(true)).click();
    assertThat(page.getByText("Columns measured")).isVisible();
  }

  @Test
  void the_graph_opens_step_by_step_and_all_at_once() {
    open("/graph?hops=1", BARN + "core.lab_reading");
    assertThat(box("table mart.payout_statement")).isVisible();
    assertThat(box("report Ten-day payout")).hasCount(0);
    box("table mart.payout_statement").getByLabel("open 2 more downstream").click();
    assertThat(box("dataset Payout lines")).isVisible();
    page.getByLabel("How far").click();
    page.getByText("all the way").click();
    assertThat(box("report Ten-day payout")).isVisible();
  }

  @Test
  void a_large_picture_starts_where_its_names_can_be_read() {
    open("/graph?hops=100", BARN + "core.lab_reading");
    Locator focus = box("table core.lab_reading");
    assertThat(focus).isVisible();
    page.waitForTimeout(600);
    double height =
        ((Number)
                focus
                    .getByTitle(BARN + "core.lab_reading")
                    .evaluate(
                        "name => parseFloat(getComputedStyle(name).fontSize)"
                            + " * name.getBoundingClientRect().width / name.offsetWidth"))
            .doubleValue();
    org.assertj.core.api.Assertions.assertThat(height).isGreaterThanOrEqualTo(11);
    assertThat(page.getByLabel("Overview")).isVisible();
  }

  @Test
  void a_box_is_searched_picked_and_made_the_focus() {
    open("/graph?hops=100", BARN + "core.lab_reading");
    page.getByLabel("Search inside the picture").fill("ten-day");
    page.keyboard().press("Enter");
    page.waitForTimeout(600);
    box("report Ten-day payout").click();
    Locator side = page.getByLabel("Beside the picture");
    assertThat(side.getByText("What every farm is paid for the running ten days")).isVisible();
    side.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Recentre here"))
        .click();
    assertThat(page).hasURL(Pattern.compile("ref=sightglass"));
    page.getByText("List (").click();
    assertThat(side.getByRole(AriaRole.TABLE)).isVisible();
  }

  @Test
  void a_column_is_followed_with_its_path_lit_and_the_jobs_sql_at_hand() {
    open("/graph", BARN + "mart.payout_statement#amount");
    Locator fat =
        box("file drop/readings_{date}.csv")
            .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("fat"));
    assertThat(fat).hasAttribute("aria-pressed", "true");
    assertThat(box("table public.pickup").getByText("litres")).isVisible();
    open("/graph?detail=steps&hops=1", BARN + "mart.payout_statement");
    box("job payout_tenday.build_payout").click();
    assertThat(page.getByLabel("Beside the picture").getByText("insert into mart.payout_statement"))
        .isVisible();
  }

  @Test
  void a_jobs_page_shows_how_each_column_is_made_and_which_inputs_are_unused() {
    open("/asset", "@nightshift/payout_tenday.build_payout");
    assertThat(page.getByText(Pattern.compile("constant date '20"))).isVisible();
    page.getByText("Unused input columns only").click();
    assertThat(page.getByText("unused", new Page.GetByTextOptions().setExact(true)).first())
        .isVisible();
    assertThat(page).hasURL(Pattern.compile("unused=yes"));
  }

  @Test
  void a_jobs_steps_light_a_columns_path_and_the_text_that_computes_it() {
    open("/asset", BARN + "mart.route_cost");
    assertThat(page.getByText("constant").first()).isVisible();
    link("aggregated").last().click();
    assertThat(page).hasURL(Pattern.compile("tab=steps&column=km"));
    Locator lit = page.locator("mark");
    assertThat(lit.first()).hasText("sum(o.counter_km)");
    assertThat(lit).hasCount(3); // and d.km, and the 0 of the branch that carries no data
    assertThat(page.locator("button[data-lit=carries]").first()).hasText("counter_km");
    // Both ways: the text chooses a column, and a source lights what is made from it.
    page.locator("pre span")
        .filter(new Locator.FilterOptions().setHasText("count(p.pickup_id)"))
        .click();
    assertThat(page.locator("button[data-lit=carries]").first()).hasText("pickup_id");
    button("route_name").first().click();
    assertThat(lit.first()).hasText("r.route_name");
  }

  @Test
  void a_checks_sql_is_read_like_a_jobs() {
    open("/asset?tab=checks", BARN + "core.lab_reading");
    page.getByLabel("Expand row").first().click();
    assertThat(page.locator("pre.code").first()).containsText("select");
    assertThat(
            page.getByRole(
                    AriaRole.HEADING, new Page.GetByRoleOptions().setName("core.lab_reading"))
                .first())
        .isVisible();
  }

  @Test
  void impact_is_judged_filtered_and_downloaded() throws IOException {
    open(
        "/impact?change=rename&to=volume_l",
        "postgres://collect-db.hollinvale.example:5432/collect.public.pickup#litres");
    Locator touched = page.getByLabel("Touched");
    Locator itself = touched.getByText("itself", new Locator.GetByTextOptions().setExact(true));
    assertThat(itself).hasCount(1); // the one job that breaks
    assertThat(page.getByText("Untouched, though it lies downstream or reads the same data"))
        .isVisible();
    org.assertj.core.api.Assertions.assertThat(Files.readString(impactFile("CSV sheet").path()))
        .startsWith("\uFEFF\"name\"")
        .contains("Ten-day payout");
    org.assertj.core.api.Assertions.assertThat(
            Files.readString(impactFile("Contacts as CSV").path()))
        .contains("payout@hollinvale.example");
    org.assertj.core.api.Assertions.assertThat(
            Files.readString(impactFile("Report in Markdown").path()))
        .startsWith("# Impact: rename to volume");
    org.assertj.core.api.Assertions.assertThat(
            impactFile("Workbook with contacts and groups").suggestedFilename())
        .endsWith(".xlsx");
    page.getByRole(
            AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile("32 *goes stale")))
        .click();
    assertThat(page).hasURL(Pattern.compile("verdict=goes-stale"));
    assertThat(itself).hasCount(0);
    page.getByLabel("Groups")
        .getByRole(
            AriaRole.BUTTON, new Locator.GetByRoleOptions().setName(Pattern.compile("Ruth Ainley")))
        .click();
    assertThat(page).hasURL(Pattern.compile("owner=Ruth"));
    assertThat(touched.getByText("Fat model", new Locator.GetByTextOptions().setExact(true)))
        .isVisible();
    assertThat(touched.getByText("raw.pickup")).hasCount(0);
  }

  private Download impactFile(String name) {
    button("Download").click();
    return page.waitForDownload(
        () -> page.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName(name)).click());
  }

  @Test
  void the_runs_behind_a_review_show_which_version_ran_and_what_is_ambiguous() {
    open("/behind", "sightglass://hollinvale/milk-quality/report/class-audit");
    assertThat(page.getByText("1 reading is ambiguous")).isVisible();
    assertThat(page.getByText("it wrote while this was read")).isVisible();
    Locator runs = page.getByLabel("Runs by job and time");
    assertThat(
            runs.getByRole(
                    AriaRole.BUTTON,
                    new Locator.GetByRoleOptions()
                        .setName(
                            java.util.regex.Pattern.compile(
                                "build_lab_reading.*version 1, version 2 has run")))
                .first())
        .isVisible();
  }

  @Test
  void a_proof_is_kept_checked_and_found_out_when_it_was_altered() throws IOException {
    open("/behind", "sightglass://hollinvale/farm-payments/report/ten-day-payout");
    button("Proof").click();
    assertThat(link("Open a page to print"))
        .hasAttribute("href", Pattern.compile("api/v1/proof\\?ref=sightglass.*as=html"));
    Download taken = page.waitForDownload(() -> link("Download signed JSON").click());
    String proof = Files.readString(taken.path());
    button("Proof").click();
    page.getByText("Check a proof…").click();
    Locator file = page.locator("input[type=file]");
    file.setInputFiles(named("kept.json", proof));
    assertThat(page.getByText("The proof is valid")).isVisible();
    file.setInputFiles(named("altered.json", proof.replace("build_payout", "build_payouts")));
    assertThat(page.getByText("The proof is not valid")).isVisible();
  }

  private static FilePayload named(String name, String text) {
    return new FilePayload(name, "application/json", text.getBytes(StandardCharsets.UTF_8));
  }

  @Test
  void two_versions_of_a_job_stand_side_by_side_and_the_graph_walks_through_time() {
    open("/compare?from=version:1&to=version:2", "@nightshift/lab_intake.build_lab_reading");
    assertThat(page.getByText("2 links added, 1 link removed, 1 job with other code")).isVisible();
    assertThat(page.getByText("r.residue or r.cell_count > 400000")).isVisible();
    open("/graph?hops=1&detail=columns&time=now", BARN + "core.lab_reading");
    Locator time = page.getByLabel("Time", new Page.GetByLabelOptions().setExact(true));
    assertThat(time.getByText("now").last()).isVisible();
    for (int back = 0; back < MOMENTS && !time.innerText().contains("1 ended"); back++) {
      String before = time.innerText();
      time.getByLabel("Moment before").click();
      // The page shows a moment a little after the click; a second one would go past it.
      page.waitForCondition(() -> !time.innerText().equals(before));
    }
    assertThat(time.getByText("by lab_intake.build_lab_reading")).isVisible();
    assertThat(page.getByText("new", new Page.GetByTextOptions().setExact(true)).first())
        .isVisible();
  }

  @Test
  void a_change_is_planned_from_its_impact_shown_on_what_it_touches_and_answered() {
    open("/impact?change=drop", BARN + "core.farm#herd_size");
    page.getByText("Plan this change").click();
    page.getByLabel("What it is, in a few words").fill("No more herd size");
    page.getByText("Propose", new Page.GetByTextOptions().setExact(true)).click();
    assertThat(page.getByText("Whom it concerns")).isVisible();
    open("/asset", BARN + "core.farm");
    assertThat(page.getByText("No more herd size")).isVisible();
    page.getByText("No more herd size").click();
    page.getByText("Withdraw", new Page.GetByTextOptions().setExact(true)).click();
    assertThat(page.getByText("withdrawn")).isVisible();
    open("/asset", BARN + "core.pickup");
    page.getByText("Litres become volume_l").click();
    Locator owners = page.getByLabel("Whom it concerns");
    owners.getByText("Agrees", new Locator.GetByTextOptions().setExact(true)).first().click();
    assertThat(owners.getByText("agrees").first()).isVisible();
  }

  @Test
  void a_cause_is_shown_with_its_effects_folded_under_it() {
    open("/causes", "sightglass://hollinvale/milk-quality/report/milk-quality-daily");
    Locator suspect = page.getByLabel("Suspect 1");
    assertThat(
            suspect.getByText("did not run", new Locator.GetByTextOptions().setExact(true)).first())
        .isVisible();
    assertThat(suspect.getByText("Ida Thwaite")).isVisible();
    assertThat(suspect.getByText("holds no rows of that day")).isVisible();
    assertThat(suspect.getByRole(AriaRole.LIST, new Locator.GetByRoleOptions().setName("thread")))
        .isVisible();
  }

  @Test
  void from_a_chart_of_the_board_to_where_its_field_is_captured_in_three_clicks() {
    open("/workspace", "sightglass://hollinvale/board-room");
    page.getByLabel("chart Milk and money").click();
    link("In plain words").click();
    link("paid").click();
    assertThat(page.getByText("All money paid to the farms for the running ten days")).isVisible();
    assertThat(page.getByText(Pattern.compile("is captured in “.*” of collect-db")).first())
        .isVisible();
    assertThat(page.getByText("called paid_amount here")).isVisible();
    page.goBack();
    page.goBack();
    assertThat(page.getByLabel("chart Milk and money")).isVisible();
    assertThat(page.getByText("set aside")).isVisible();
  }

  @Test
  void an_owner_sees_at_a_glance_that_a_refresh_failed() {
    open("/workspace");
    assertThat(page.getByText("failed: Batch days")).isVisible();
    link("Cellar").click();
    assertThat(page.getByText("Batch days failed to refresh; 4 rest on it")).isVisible();
    page.getByLabel("step Batch days").click();
    assertThat(page.getByText(Pattern.compile("the relay vale-relay did not answer"))).isVisible();
    assertThat(page.getByLabel("chart Last turned")).hasCount(0);
    page.getByText(Pattern.compile("List \\(")).click();
    assertThat(page.getByRole(AriaRole.TABLE)).containsText("Cellar board");
  }

  @Test
  void a_picture_is_grouped_shown_by_a_view_and_taken_away() throws IOException {
    open("/graph?hops=100&direction=downstream", BARN + "mart.payout_statement");
    assertThat(box("report Ten-day payout")).isVisible();
    button("View").click();
    page.getByRole(AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName("Group").setExact(true))
        .click();
    option("by schema, workspace or pipeline").click();
    Locator group = page.getByLabel(Pattern.compile("^system Farm Payments: \\d+ items$"));
    assertThat(group).isVisible();
    group.click();
    page.getByLabel("keep Ten-day payout in view").click();
    assertThat(box("report Ten-day payout")).isVisible();
    button("View").click();
    page.getByRole(AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName("Named view")).click();
    option("Technical").click();
    assertThat(button("View: Technical")).isVisible();
    assertThat(box("job Payout lines")).isVisible();
    button("Download").click();
    Download svg = page.waitForDownload(() -> page.getByText("Download SVG").click());
    org.assertj.core.api.Assertions.assertThat(Files.readString(svg.path()))
        .startsWith("<svg")
        .contains("Ten-day payout");
    button("Download").click();
    Download png = page.waitForDownload(() -> page.getByText("Download PNG").click());
    org.assertj.core.api.Assertions.assertThat(Files.size(png.path())).isGreaterThan(5_000);
  }

  @Test
  void runs_open_into_their_tasks() {
    open("/runs?state=failed");
    assertThat(link("quality_daily")).isVisible();
    page.locator("tr", new Page.LocatorOptions().setHasText("quality_daily"))
        .locator(".ant-table-row-expand-icon")
        .click();
    assertThat(link("quality_daily.build_milk_quality")).isVisible();
  }

  @Test
  void the_intake_opens_an_event_and_lists_who_sends() {
    open("/intake?about=build_lab_reading");
    page.getByText("COMPLETE").first().click();
    Locator event = page.getByRole(AriaRole.DIALOG);
    assertThat(event.getByText("Assets it names")).isVisible();
    event.getByRole(AriaRole.TAB, new Locator.GetByRoleOptions().setName("Facts")).click();
    assertThat(event.getByText("schema").first()).isVisible();
    event.getByLabel("Close").first().click();
    page.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName("Emitters")).click();
    assertThat(page.getByText("https://hollinvale.example/tankflow/0.9")).isVisible();
    assertThat(page.getByText("2.3.1")).isVisible();
  }

  @Test
  void what_was_refused_is_opened_and_tried_again() {
    world.service().api().post("/api/v1/lineage", "{\"no\":\"event\"}");
    open("/intake?tab=refused");
    assertThat(page.getByText("eventTime is missing").first()).isVisible();
    button("Retry").first().click();
    assertThat(page.getByText("0 of 1 accepted now")).isVisible();
    button("Open").first().click();
    assertThat(page.getByRole(AriaRole.DIALOG).getByText("{\"no\":\"event\"}")).isVisible();
  }

  @Test
  void a_partitioned_file_a_renamed_table_and_a_stream_show_as_what_they_are() {
    open("/asset?tab=parts", "s3://hollinvale-lake/landed/pickup");
    assertThat(page.getByText("fold into this asset by the rule partition-directory")).isVisible();
    assertThat(page.getByText("day=20").first()).isVisible();
    open("/asset?tab=history", BARN + "core.milk_sample");
    assertThat(page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("lab_reading")))
        .isVisible();
    assertThat(page.getByText("RENAME, before barn.core.milk_sample")).isVisible();
    open("/asset?tab=checks", BARN + "core.lab_reading");
    // Once the board has judged, the heading names the failing check too.
    assertThat(page.getByText("readings_present").first()).isVisible();
    open("/asset?tab=runs", "@tankflow/tank_hourly");
    assertThat(page.getByText("running").first()).isVisible();
    open("/asset?tab=history", "@nightshift/lab_intake.build_lab_reading");
    assertThat(page.getByText("version 2")).isVisible();
  }

  private Locator tab(String name) {
    return page.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName(name).setExact(true));
  }

  @Test
  void the_leak_shows_its_way_and_is_accepted_until_a_day() {
    open("/labels");
    assertThat(page.getByText("personal may not be in report or dashboard")).isVisible();
    assertThat(
            page.getByText(
                "A mask is missing between mart.payout_statement#pay_to and Payout lines"))
        .isVisible();
    assertThat(page.getByText("Payout office, Board")).isVisible();
    button("Accept").click();
    page.getByLabel("Reason").fill("until the new report is there");
    page.getByLabel("Accepted until the end of").fill("2031-05-31");
    page.getByRole(AriaRole.DIALOG)
        .getByText("Accept", new Locator.GetByTextOptions().setExact(true))
        .click();
    assertThat(page.getByText("No leaks by the policies there are.")).isVisible();
    page.getByText("Accepted", new Page.GetByTextOptions().setExact(true)).click();
    assertThat(page.getByText("until the new report is there")).isVisible();
    tab("To decide").click();
    button("End it").click();
    // Gone from this list, so that the next one cannot show what was there before.
    assertThat(page.getByText("No label is stopped by hand, and no leak is accepted.")).isVisible();
    tab("Leaks").click();
    assertThat(link("Ten-day payout").first()).isVisible();
    page.getByText("Accepted", new Page.GetByTextOptions().setExact(true)).click();
    assertThat(page.getByText("Nobody accepted a leak.")).isVisible();
  }

  @Test
  void a_label_shows_where_it_is_set_and_how_far_it_travelled() {
    open("/labels?tab=label&label=personal");
    assertThat(page.getByLabel("Spread of the label").getByText("Bank list")).isVisible();
    assertThat(page.getByText("managed at the source").first()).isVisible();
    assertThat(page.getByText("by 1 step").first()).isVisible();
    page.getByRole(
            AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile("Confidential")))
        .click();
    assertThat(page.getByText("Nothing has this label in this way.")).isVisible();
  }

  @Test
  void who_sees_a_part_finds_the_rest_restricted() {
    String who = "desk" + System.nanoTime();
    open("/access?tab=groups");
    page.getByLabel("Name of the group").fill(who);
    button("Make group").click();
    assertThat(page.getByText(who).first()).isVisible();
    var api = world.service().api();
    api.send(
        "POST",
        "/api/v1/accounts",
        "{\"name\":\"%s\",\"password\":\"a long password\",\"role\":\"limited\"}".formatted(who));
    api.send(
        "PUT",
        "/api/v1/groups/members",
        "{\"group\":\"%s\",\"account\":\"%s\"}".formatted(who, who));
    open("/access?tab=grants");
    page.getByLabel("Kind of holder").click();
    option("Group").click();
    page.getByLabel("Holder", new Page.GetByLabelOptions().setExact(true)).click();
    option(who).click();
    page.getByLabel("Value of the scope").fill("barn");
    button("Give grant").click();
    assertThat(page.getByRole(AriaRole.ROW).filter(having(who)).getByText("barn")).isVisible();

    Page theirs = browser.page("light");
    theirs.onPageError(failures::add);
    String base = world.service().base();
    Browser.signIn(theirs, base, who, "a long password");
    assertThat(theirs.getByText(Pattern.compile("more are restricted"))).isVisible();
    assertThat(theirs.getByRole(AriaRole.NAVIGATION).getByText("Today")).hasCount(0);
    String farm = URLEncoder.encode(BARN + "core.farm", StandardCharsets.UTF_8);
    theirs.navigate(base + "/graph?ref=" + farm);
    assertThat(theirs.getByText("not in your grants").first()).isVisible();
    assertThat(theirs.getByText("core.farm").first()).isVisible();
    theirs.navigate(base + "/asset?ref=" + farm);
    assertThat(theirs.getByText("Preview").first()).isVisible();
    assertThat(theirs.getByText("History")).hasCount(0);
    theirs.context().close();
  }

  private static Locator.FilterOptions having(String text) {
    return new Locator.FilterOptions().setHasText(text);
  }

  @Test
  void rows_are_shown_masked_and_that_somebody_looked_is_noted() {
    open("/asset?tab=preview", BARN + "core.farm");
    assertThat(page.getByText("personal: partly shown").first()).isVisible();
    assertThat(page.getByText(Pattern.compile("^•••••\\d{4}$")).first()).isVisible();
    open("/access?tab=audit&action=preview");
    assertThat(page.getByText("core.farm").first()).isVisible();
    assertThat(page.getByText(Pattern.compile("iban partial")).first()).isVisible();
    open("/asset?tab=preview", "sightglass://hollinvale/farm-payments/report/ten-day-payout");
    assertThat(page.getByText("Nothing says where rows of this can be read")).isVisible();
  }

  @Test
  void unknown_names_and_empty_pages_say_what_to_do() {
    open("/asset", "mart.payuot_statement");
    assertThat(page.getByText("is not in the catalog; the closest is")).isVisible();
    open("/graph");
    assertThat(page.getByText("Name an asset, or a column")).isVisible();
    open("/intake");
    assertThat(page.getByText("Newest events")).isVisible();
  }

  @Test
  void the_slash_key_leads_to_the_search_and_the_dark_look_is_kept() {
    open("/runs");
    page.getByLabel("Pipeline").waitFor();
    page.locator("main").click();
    page.keyboard().press("/");
    assertThat(page.getByLabel("Find", new Page.GetByLabelOptions().setExact(true))).isFocused();
    button("Dark").click();
    page.reload();
    assertThat(button("Light")).isVisible();
  }

  @Test
  void a_steward_names_an_owner_and_takes_it_back() {
    open("/asset", BARN + "mart.route_cost");
    button("Edit").first().click();
    Locator owners =
        page.getByRole(AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName("Owners"));
    owners.fill("team:Cellar;");
    page.getByLabel("Reason").fill("asked the cellar");
    button("Save").click();
    assertThat(page.getByText("Cellar (team)")).isVisible();
    open("/coverage?tab=stated");
    button("Take back").first().click();
    page.locator(".ant-popover").getByText("Take back").last().click();
    assertThat(page.getByText("taken back").first()).isVisible();
  }

  @Test
  void a_link_is_recorded_above_the_graph_and_drawn_with_its_own_dash() {
    open(
        "/graph?detail=assets&hops=1", "file://office-share.hollinvale.example//tally/prices.xlsx");
    button("Record a link").click();
    page.getByLabel("Comes from", new Page.GetByLabelOptions().setExact(true))
        .last()
        .fill("file://office-share.hollinvale.example//minutes/2026.docx");
    page.getByLabel("Reason").fill("the board decides the prices");
    assertThat(page.getByText("is not in the catalog")).isVisible();
    button("Record").click();
    assertThat(box("file minutes/2026.docx")).isVisible();
    open("/coverage?tab=recorded");
    assertThat(page.getByText("the board decides the prices")).isVisible();
  }

  @Test
  void blind_spots_are_worked_off_and_names_shown_each_alone() {
    open("/coverage");
    assertThat(page.getByText("It is read, and nothing is known to write it.").first()).isVisible();
    open("/asset?tab=names", BARN + "mart.payout_statement");
    assertThat(page.getByText("odbc://barn-dsn/mart.payout_statement").first()).isVisible();
    assertThat(button("Let this name lead")).isVisible();
  }

  @Test
  void a_new_connection_is_watched_until_its_first_event() {
    open("/connect?kind=http");
    String name = "desk-" + System.nanoTime();
    page.getByLabel("Name of the connection").fill(name);
    button("Get a key and settings").click();
    String settings = page.locator("pre").first().textContent();
    String key = settings.replaceAll("(?s).*apiKey: (\\S+)}.*", "$1");
    new longthread.service.testing.Api(world.service().base(), key)
        .post(
            "/api/v1/lineage",
            longthread.service.testing.Events.dataset("2026-11-20T06:00:00Z", name, "first", "")
                .replace('\'', '"'));
    assertThat(page.getByText("is connected")).isVisible();
    assertThat(page.getByText("new dataset first")).isVisible();
  }

  @Test
  void the_first_page_names_the_cause_and_the_reports_it_reaches() {
    world.service().bean(longthread.service.health.HealthBoard.class).judge();
    open("/");
    Locator cause =
        page.getByRole(
            AriaRole.ARTICLE, new Page.GetByRoleOptions().setName("lab_intake.land_readings"));
    assertThat(cause.getByText("did not run")).isVisible();
    assertThat(cause.getByText("followed by")).isVisible();
    Locator reports =
        page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Reports"));
    assertThat(reports.getByText("Ten-day payout")).isVisible();
    // Late turns to overdue half a usual gap after: which one it is depends on the hour of the day.
    assertThat(reports.getByText(Pattern.compile("source (late|overdue)")).first()).isVisible();
    cause.getByText("Open in causes").click();
    assertThat(page.getByLabel("Suspect 1")).isVisible();
    assertThat(page.getByLabel("Relevant part of the graph").getByText("raw.lab_reading").first())
        .isVisible();
  }

  @Test
  void a_notice_is_put_from_a_suspect_shows_downstream_and_is_lifted() {
    open("/causes", "sightglass://hollinvale/milk-quality/report/milk-quality-daily");
    page.getByLabel("Suspect 1").getByText("Put a notice").click();
    assertThat(page.getByLabel("What is the matter"))
        .hasValue(java.util.regex.Pattern.compile("lab_intake.land_readings: .*"));
    page.getByLabel("What is the matter").fill("The laboratory's file is missing");
    button("Put notice").click();
    assertThat(page.locator(".ant-modal-title")).hasCount(0);
    open("/asset", "sightglass://hollinvale/farm-payments/report/ten-day-payout");
    assertThat(page.getByText("The laboratory's file is missing")).isVisible();
    open("/follow");
    button("Lift").first().click();
    page.locator(".ant-popover")
        .getByText("Lift", new Locator.GetByTextOptions().setExact(true))
        .last()
        .click();
    assertThat(page.getByText("lifted by")).isVisible();
  }

  @Test
  void an_asset_is_marked_to_be_looked_at_later_and_stands_on_the_trail() {
    open("/asset", BARN + "core.farm");
    button("Follow up").click();
    page.getByText("Look at later").click();
    open("/follow?tab=trail");
    assertThat(page.getByText("look at later").first()).isVisible();
    button("Done").first().click();
    assertThat(button("Done")).hasCount(0);
  }
}
