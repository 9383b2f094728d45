package longthread.core.history;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.history.JobHistory.Recorded;
import longthread.core.lineage.Evidence;
import longthread.core.lineage.ReportedLineage;
import longthread.core.lineage.ResolvedLineage;
import org.junit.jupiter.api.Test;

/** What people record of a job, beside what its runs report. */
class RecordedTest {
  private static ResolvedLineage reads(String input) {
    return ResolvedLineage.of(
        new ReportedLineage(
            new TreeSet<>(List.of(new DatasetName("n", input))),
            new TreeSet<>(List.of(new DatasetName("n", "t"))),
            new TreeSet<>(),
            new TreeSet<>(),
            new TreeSet<>(),
            false));
  }

  private static Instant day(int day) {
    return Instant.parse("2031-05-01T00:00:00Z").plusSeconds(86_400L * (day - 1));
  }

  private static Recorded recorded(int since, Integer until, String input) {
    return new Recorded(day(since), until == null ? null : day(until), reads(input));
  }

  private static List<String> links(List<JobRun> runs, Recorded... recorded) {
    return JobHistory.of(runs, null, List.of(recorded), null).links().stream()
        .map(
            held ->
                held.link().from().dataset().name()
                    + " "
                    + held.evidence().word()
                    + " "
                    + held.firstSeen().toString().substring(8, 10)
                    + (held.until() == null ? "" : "-" + held.until().toString().substring(8, 10)))
        .sorted()
        .toList();
  }

  @Test
  void records_of_one_link_that_meet_are_one_stretch() {
    assertThat(links(List.of(), recorded(1, 5, "a"), recorded(4, 9, "a"), recorded(11, null, "a")))
        .containsExactly("a recorded 01-09", "a recorded 11");
  }

  @Test
  void a_record_that_ends_before_it_begins_says_nothing() {
    assertThat(links(List.of(), recorded(5, 5, "a"), recorded(7, 6, "b"))).isEmpty();
  }

  @Test
  void no_run_replaces_what_is_recorded() {
    var first = new JobRun(new UUID(0, 1), day(2), "one", true, reads("a"));
    var second = new JobRun(new UUID(0, 2), day(3), "two", true, reads("b"));
    assertThat(links(List.of(first, second), recorded(1, null, "a")))
        .containsExactly("a observed 02-03", "a recorded 01", "b observed 03");
    assertThat(Evidence.RECORDED.word()).isEqualTo("recorded");
  }
}
