package longthread.demo;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.assertions.PlaywrightAssertions;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Pattern;
import longthread.service.health.HealthBoard;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** What goes wrong in a night that is played live is found as the first suspect, one night each. */
@TestMethodOrder(MethodOrderer.OrderAnnotation.class)
class FaultsTest {
  /** What the laboratory reads differs from day to day, but never tenfold. */
  private static final Pattern TENFOLD =
      Pattern.compile("mean of fat is [345]\\d(\\.\\d+)?; it was [345]\\.");

  private static RunningService service;
  private static DemoWorld world;

  @BeforeAll
  static void playHistory() {
    service = RunningService.another();
    world = new DemoWorld(service);
  }

  @AfterAll
  static void end() {
    service.close();
  }

  private static JsonNode causes(String... words) {
    var whole = new ArrayList<>(List.of("causes", "--json"));
    whole.addAll(List.of(words));
    DemoWorld.Said said = world.run(whole.toArray(String[]::new));
    assertThat(said.code()).as(said.err()).isZero();
    return new JsonMapper().readTree(said.out());
  }

  private static JsonNode first(String... words) {
    return causes(words).path("suspects").get(0);
  }

  @Test
  @Order(1)
  void the_repeated_hour_is_found_though_all_is_green_and_a_failure_nearby_is_not_guilty() {
    world.suffer(Fault.REPEATED_HOUR);
    JsonNode causes = causes("Vale at a glance");
    JsonNode suspect = causes.path("suspects").get(0);
    assertThat(suspect.path("ref").stringValue("")).isEqualTo("@nightshift/tank_hourly.fold_hour");
    assertThat(suspect.path("what").stringValue("")).isEqualTo("empty");
    assertThat(causes.toString()).doesNotContain("ripening_weekly");
  }

  @Test
  @Order(2)
  void a_failed_task_is_found_and_shown_on_the_first_page() {
    world.suffer(Fault.FAILED_TASK);
    JsonNode suspect = first("Ten-day payout");
    assertThat(suspect.path("ref").stringValue("")).isEqualTo("@nightshift/" + Fault.FAILING_TASK);
    assertThat(suspect.path("error").stringValue("")).contains("No space left on device");
    service.bean(HealthBoard.class).judge();
    assertThat(world.run("today").out()).contains("collect_nightly.build_pickup: its last run");
  }

  @Test
  @Order(3)
  void the_unit_slip_is_found_at_the_laboratory_with_the_thread_to_the_payout() {
    world.suffer(Fault.UNIT_SLIP);
    JsonNode suspect = first("Ten-day payout", "--symptom", "wrong-values");
    assertThat(suspect.path("what").stringValue("")).isEqualTo("values-shifted");
    assertThat(suspect.path("column").stringValue("")).isEqualTo("fat");
    assertThat(suspect.path("evidence").stringValue("")).containsPattern(TENFOLD);
    assertThat(suspect.path("thread").toString())
        .contains("lab-share", "raw.lab_reading", "core.lab_reading", "mart.payout_statement");
    assertThat(suspect.path("explains").toString()).contains("core.lab_reading");
  }

  @Test
  @Order(4)
  void the_unit_slip_is_read_off_the_console_with_its_thread_and_score() {
    try (var browser = new Browser()) {
      Page page = browser.page("light");
      Browser.signIn(page, service.base(), "admin", RunningService.PASSWORD);
      page.navigate(
          service.base()
              + "/causes?symptom=wrong-values&ref="
              + "sightglass%3A%2F%2Fhollinvale%2Ffarm-payments%2Freport%2Ften-day-payout");
      Locator suspect = page.getByLabel("Suspect 1");
      PlaywrightAssertions.assertThat(suspect.getByText("has other values").first()).isVisible();
      PlaywrightAssertions.assertThat(suspect.getByText(TENFOLD)).isVisible();
      suspect.getByText("Score").click();
      PlaywrightAssertions.assertThat(page.getByText("certainty of the thread")).isVisible();
    }
  }

  @Test
  @Order(5)
  void a_renamed_column_is_the_cause_and_the_task_that_fails_of_it_an_effect() {
    world.suffer(Fault.RENAMED_COLUMN);
    JsonNode suspect = first("Ten-day payout");
    assertThat(suspect.path("ref").stringValue("")).endsWith("collect.public.pickup");
    assertThat(suspect.path("evidence").stringValue("")).contains("column litres is gone");
    assertThat(suspect.path("explains").toString()).contains("collect_nightly.land_pickup");
  }
}
