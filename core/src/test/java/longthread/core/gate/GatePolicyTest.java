package longthread.core.gate;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import java.time.LocalDate;
import java.util.Set;
import longthread.core.change.BadDocumentException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class GatePolicyTest {
  private static final LocalDate TODAY = LocalDate.parse("2031-05-10");
  private static final String POLICY =
      """
      format: longthread-gate/1
      rules:
        - then: fail
          label: [personal]
          because: what holds personal data is looked at by people
        - then: allow
          owner: [Warehouse]
          change: [rename]
        - then: fail
          verdict: [breaks]
          certainty: [certain]
        - then: warn
          kind: [report, dashboard]
      otherwise: allow
      waivers:
        - of: barn/old
          reason: is retired next week
          until: 2031-05-10
        - of: barn/older
          reason: was retired
          until: 2031-05-09
      """;

  private static GatePolicy.Item item(
      String ref, String kind, String verdict, String certainty, String owner, String label) {
    return new GatePolicy.Item(
        ref,
        kind,
        "barn",
        verdict,
        certainty,
        Set.of(owner),
        label.isEmpty() ? Set.of() : Set.of(label));
  }

  private static String decided(GatePolicy policy, GatePolicy.Item item, String change) {
    GatePolicy.Decided decided = policy.decide(item, Set.of(change), Set.of("barn/src#x"), TODAY);
    return decided.decision().word() + " " + decided.why();
  }

  @ParameterizedTest
  @CsvSource(
      nullValues = "-",
      value = {
        "barn/t,table,breaks,certain,Quality,'',drop,fail rule 3",
        "barn/t,table,breaks,possible,Quality,'',drop,allow no rule fits",
        "barn/t,table,breaks,certain,Warehouse,'',rename,allow rule 2",
        "barn/t,table,breaks,certain,Warehouse,'',drop,fail rule 3",
        "barn/t,report,values-shift,certain,Quality,'',drop,warn rule 4",
        "barn/t,table,rows-shift,certain,Quality,personal,drop,fail rule 1: what holds personal data is looked at by people",
        "barn/old,table,breaks,certain,Quality,'',drop,allow waived until 2031-05-10: is retired next week",
        "barn/older,table,breaks,certain,Quality,'',drop,fail rule 3",
      })
  void the_first_rule_that_fits_decides(
      String ref,
      String kind,
      String verdict,
      String certainty,
      String owner,
      String label,
      String change,
      String expected)
      throws BadDocumentException {
    assertThat(
            decided(
                GatePolicy.read(POLICY), item(ref, kind, verdict, certainty, owner, label), change))
        .isEqualTo(expected);
  }

  @Test
  void without_a_policy_what_breaks_fails_even_if_only_possibly() {
    assertThat(
            decided(
                GatePolicy.DEFAULT, item("a/b", "table", "breaks", "possible", "x", ""), "drop"))
        .startsWith("fail");
    assertThat(
            decided(
                GatePolicy.DEFAULT, item("a/b", "table", "goes-stale", "certain", "x", ""), "drop"))
        .startsWith("warn");
    assertThat(GatePolicy.DEFAULT.unknown()).isEqualTo(GatePolicy.Decision.FAIL);
  }

  @Test
  void waivers_that_ended_are_named() throws BadDocumentException {
    assertThat(GatePolicy.read(POLICY).ended(TODAY))
        .extracting(GatePolicy.Waiver::of)
        .containsExactly("barn/older");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "verdict: [breaks]|verdict: [break]",
        "then: fail|then: stop",
        "kind: [report, dashboard]|kind: [reports]",
        "change: [rename]|change: [renaming]",
        "certainty: [certain]|certainty: [sure]",
        "until: 2031-05-10|until: soon",
        "reason: is retired next week|note: x",
        "otherwise: allow|othrwise: allow",
        "format: longthread-gate/1|format: longthread-gate/9",
      })
  void an_unknown_word_is_refused_and_never_a_pass(String good, String bad) {
    assertThat(
            catchThrowableOfType(
                BadDocumentException.class,
                () ->
                    GatePolicy.read(POLICY.replaceFirst(java.util.regex.Pattern.quote(good), bad))))
        .as(bad)
        .isNotNull();
  }
}
