package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.junit.jupiter.api.Test;

class LeaksCommandTest extends AgainstServer {
  private static final String HOP =
      "{\"fromName\":\"payout#pay_to\",\"toName\":\"lines#account\",\"job\":\"@tool/lines\"}";
  private static final String LEAK =
      "{\"name\":\"Ten-day payout\",\"kind\":\"report\",\"label\":\"personal\","
          + "\"certainty\":\"certain\",\"fromName\":\"farm#iban\",\"readers\":[\"Board\"],"
          + "\"owners\":[],\"columns\":[{\"name\":\"Ten-day payout\"}],\"state\":\"accepted\","
          + "\"policy\":{\"words\":\"personal may not be in report\"},\"thread\":[{\"fromName\":"
          + "\"farm#iban\",\"toName\":\"payout#pay_to\"},"
          + HOP
          + "],\"unmasked\":"
          + HOP
          + ",\"accepted\":{\"by\":\"ruth\",\"reason\":\"by contract\",\"until\":"
          + "\"2031-01-01T00:00:00Z\"}}";

  private void answers(int open, int certain, int possible) {
    answers =
        Map.of(
            "/api/v1/leaks",
            String.format(
                "{\"items\":[%s],\"total\":3,\"open\":%d,\"certain\":%d,\"possible\":%d}",
                LEAK, open, certain, possible));
  }

  @Test
  void leaks_are_listed_with_the_place_before_which_a_mask_is_missing() {
    answers(3, 1, 2);
    Said said = run("leaks", "--label", "personal", "--state", "all");
    assertThat(asked.get(0).line()).contains("label=personal").contains("state=all");
    assertThat(said.code()).isZero();
    assertThat(said.out())
        .containsPattern(
            "Ten-day payout +report +personal +certain +farm#iban +lines#account +Board +- +accepted");
    assertThat(said.err()).contains("2 more");
  }

  @Test
  void one_place_is_shown_with_the_whole_way() {
    answers(1, 1, 0);
    Said said = run("leaks", "Ten-day payout");
    assertThat(said.out())
        .contains("Ten-day payout: personal may not be in report")
        .containsPattern("lines#account  by @tool/lines   ← a mask is missing here")
        .contains("accepted by ruth until")
        .contains("by contract");
  }

  @Test
  void a_pipeline_fails_on_what_it_says_and_not_on_a_word_that_is_none() {
    answers(2, 0, 2);
    assertThat(run("leaks", "--fail-on", "open").code()).isEqualTo(1);
    assertThat(run("leaks", "--fail-on", "certain").code()).isZero();
    assertThat(run("leaks", "--fail-on", "certain,possible").code()).isEqualTo(1);
    asked.clear();
    assertThat(run("leaks", "--fail-on", "leak").code()).isEqualTo(2);
    assertThat(asked).isEmpty();
  }

  @Test
  void a_leak_is_accepted_with_a_reason_and_an_end() {
    assertThat(run("leaks", "accept", "personal", "list", "--until", "2031-01-01").code())
        .isEqualTo(2);
    run("leaks", "accept", "personal", "list", "--until", "2031-01-01", "--reason", "asked");
    assertThat(asked.get(0).body())
        .contains("\"set\":\"leak-accepted\"", "\"at\":\"list\"", "\"until\":\"2031-01-01\"");
  }

  @Test
  void policies_rules_stops_and_masks_are_set() {
    assertThat(run("label", "policy", "personal", "--kind", "report").code()).isEqualTo(2);
    run("label", "policy", "personal", "--forbid", "--kind", "report", "--audience", "Board");
    assertThat(asked.get(0).body())
        .contains("\"allowed\":false", "\"kinds\":[\"report\"]", "\"audience\":[\"Board\"]");
    run("label", "rule", "personal", "--name", "*iban*,phone", "--except", "*hash*");
    assertThat(asked.get(1).body()).contains("\"names\":[\"*iban*\",\"phone\"]", "\"*hash*\"");
    assertThat(run("label", "stop", "personal", "farm#iban", "--reason", "why").code())
        .isEqualTo(2);
    run("label", "mask", "personal", "--role", "reader", "--show", "hashed");
    assertThat(asked.get(2).body()).contains("\"shown\":\"hashed\"");
    Said wrong = run("label", "mask", "personal", "--role", "reader", "--show", "blurred");
    assertThat(wrong.err()).contains("shown, generalised, partial, hashed, hidden");
    answers =
        Map.of(
            "/api/v1/labels/try",
            "{\"fits\":2,\"added\":1,\"columns\":[{\"name\":\"a#iban\",\"system\":\"s\",\"has\":true}]}");
    assertThat(run("label", "try", "personal", "--name", "*iban*").out())
        .contains("has it already", "2 columns fit, 1 of them would get the label.");
    assertThat(run("label", "work", "nothing").code()).isEqualTo(2);
  }
}
