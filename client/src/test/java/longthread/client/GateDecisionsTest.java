package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.change.BadDocumentException;
import longthread.core.gate.FoundChange;
import longthread.core.gate.GatePolicy;
import longthread.core.gate.GatePolicy.Decision;
import org.junit.jupiter.api.Test;

class GateDecisionsTest {
  private static final LocalDate TODAY = LocalDate.parse("2026-05-20");

  /** Answers with what each changed thing touches: items as {@code name verdict certainty}. */
  private static final class Judge implements GateJudge {
    private final Map<String, List<String>> touched;
    private final Set<String> without = new HashSet<>();
    private final List<List<String>> asked = new ArrayList<>();

    Judge(Map<String, List<String>> touched) {
      this.touched = touched;
    }

    @Override
    public String known(String name) {
      return name;
    }

    @Override
    public Answer judge(List<GateReport.Step> steps) throws NoLineageException {
      List<String> refs = steps.stream().map(GateReport.Step::ref).toList();
      asked.add(refs);
      var items = new ArrayList<Touched>();
      for (String ref : refs) {
        if (without.contains(ref)) {
          throw new NoLineageException(ref + " feeds nothing that any event reported");
        }
        for (String item : touched.getOrDefault(ref, List.of())) {
          String[] words = item.split(" ");
          if (items.stream().noneMatch(known -> known.ref().equals(words[0]))) {
            items.add(
                new Touched(
                    words[0],
                    "report",
                    words[0],
                    "BI",
                    words[1],
                    words[2],
                    1,
                    List.of("Payout office"),
                    List.of(),
                    List.of(ref, words[0]),
                    ""));
          }
        }
      }
      return new Answer(refs, items, items.size());
    }

    @Override
    public boolean isRead(String asset) {
      return !asset.equals("n/lonely");
    }

    @Override
    public List<String> notes() {
      return List.of("judged by a test");
    }
  }

  private static GateReport.Step step(String change, String ref, int line) {
    return new GateReport.Step(
        change, ref, "", new FoundChange(change, ref, null, null, "a.sql", line, "seen"));
  }

  private static GateReport report(GateJudge judge, String policy, GateReport.Step... steps)
      throws BadDocumentException {
    GatePolicy read =
        policy.isEmpty()
            ? GatePolicy.DEFAULT
            : GatePolicy.read("format: longthread-gate/1\n" + policy);
    return new GateDecisions(judge, read, TODAY).report("t", List.of(steps), List.of(), List.of());
  }

  @Test
  void each_finding_stands_where_the_change_is_that_touches_it() throws Exception {
    var judge =
        new Judge(
            Map.of(
                "n/a#x", List.of("b/one goes-stale certain"),
                "n/a#y", List.of("b/two breaks certain")));
    GateReport report = report(judge, "", step("drop", "n/a#x", 4), step("drop", "n/a#y", 9));
    assertThat(report.findings())
        .extracting(GateReport.Finding::ref, f -> f.place().line(), GateReport.Finding::decision)
        .containsExactly(
            org.assertj.core.groups.Tuple.tuple("b/two", 9, Decision.FAIL),
            org.assertj.core.groups.Tuple.tuple("b/one", 4, Decision.WARN));
    assertThat(report.notes()).containsExactly("judged by a test");
    assertThat(judge.asked).as("steps of one kind are judged once").hasSize(1);
    assertThat(GateFormats.sarif(report)).contains("\"startLine\" : 9", "\"startLine\" : 4");
  }

  @Test
  void a_step_without_lineage_is_noted_and_the_others_are_judged() throws Exception {
    var judge = new Judge(Map.of("n/a#x", List.of("b/one breaks certain")));
    judge.without.add("n/b");
    GateReport report = report(judge, "", step("drop", "n/b", 1), step("drop", "n/a#x", 2));
    assertThat(report.fails()).isTrue();
    assertThat(report.steps()).hasSize(2);
    assertThat(report.notes())
        .contains("n/b feeds nothing that any event reported; it was not judged");
    GateReport none = report(judge, "", step("drop", "n/b", 1));
    assertThat(none.fails()).isFalse();
    assertThat(none.steps()).hasSize(1);
  }

  @Test
  void a_waiver_holds_for_its_step_and_until_its_day() throws Exception {
    var judge =
        new Judge(
            Map.of(
                "n/a#x", List.of("b/one breaks certain"),
                "n/a#y", List.of("b/one breaks certain")));
    String waiver = "waivers:\n  - {of: 'n/a#x', reason: agreed, until: ";
    String holds = waiver + "2026-05-20}\n";
    assertThat(report(judge, holds, step("drop", "n/a#x", 1)).fails()).isFalse();
    assertThat(report(judge, holds, step("drop", "n/a#x", 1), step("drop", "n/a#y", 2)).fails())
        .as("the other step breaks the same")
        .isTrue();
    GateReport ended = report(judge, waiver + "2026-05-19}\n", step("drop", "n/a#x", 1));
    assertThat(ended.fails()).isTrue();
    assertThat(ended.notes()).contains("the waiver of n/a#x ended on 2026-05-19: agreed");
  }

  @Test
  void what_nothing_reads_is_said() throws Exception {
    GateReport report = report(new Judge(Map.of()), "", step("drop", "n/lonely#x", 1));
    assertThat(report.fails()).isFalse();
    assertThat(report.notes())
        .anyMatch(note -> note.contains("nothing is known that reads n/lonely"));
  }
}
