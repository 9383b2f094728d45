package longthread.core.history;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Random;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Evidence;
import longthread.core.lineage.Flow;
import longthread.core.lineage.ReportedLineage;
import longthread.core.lineage.ResolvedLineage;
import org.junit.jupiter.api.Test;

class JobHistoryTest {
  private static final Instant DAY_ONE = Instant.parse("2031-05-01T02:00:00Z");
  private static final DatasetName TARGET = new DatasetName("n", "t");
  private final List<JobRun> runs = new ArrayList<>();

  /** A run on a day, of code, that copies the named columns; not settled if it failed. */
  private void run(int day, String code, boolean settled, String... columns) {
    var links = new TreeSet<ColumnLink>();
    var described = new TreeSet<ColumnName>();
    var source = new DatasetName("n", "s");
    for (String column : columns) {
      ColumnName to = ColumnName.of(TARGET, column);
      links.add(new ColumnLink(ColumnName.of(source, column), to, Flow.IDENTITY, false));
      described.add(to);
    }
    var lineage =
        new ReportedLineage(
            new TreeSet<>(List.of(source)),
            new TreeSet<>(List.of(TARGET)),
            links,
            described,
            new TreeSet<>(),
            false);
    Instant start = DAY_ONE.plus(Duration.ofDays(day - 1));
    runs.add(
        new JobRun(new UUID(0, runs.size()), start, code, settled, ResolvedLineage.of(lineage)));
  }

  /** Column links as {@code column first-last}, closed ones with the day they ended. */
  private static String asText(JobLineage lineage) {
    return lineage.links().stream()
        .filter(held -> held.link().flow() == Flow.IDENTITY)
        .map(
            held ->
                held.link().to().path()
                    + " "
                    + day(held.firstSeen())
                    + "-"
                    + day(held.lastSeen())
                    + (held.until() == null ? "" : " until " + day(held.until())))
        .sorted()
        .collect(Collectors.joining(", "));
  }

  private static long day(Instant at) {
    return Duration.between(DAY_ONE, at).toDays() + 1;
  }

  private String asText() {
    return asText(JobHistory.of(runs, null, null));
  }

  /** Whatever ran, and whatever runs later: without needless runs all comes out the same. */
  @Test
  void runs_that_are_called_needless_are_so() {
    var random = new Random(7);
    int leftOut = 0;
    for (int round = 0; round < 400; round++) {
      runs.clear();
      var lineages = new HashMap<String, ResolvedLineage>();
      int day = 1;
      for (int i = 0; i < 60; i++) {
        day += random.nextInt(8) == 0 ? random.nextInt(17) : random.nextInt(2);
        String code = random.nextInt(9) == 0 ? "B" : random.nextInt(30) == 0 ? null : "A";
        String columns = random.nextInt(12) == 0 ? "xy" : random.nextInt(12) == 0 ? "z" : "x";
        run(day, code, random.nextInt(9) > 0, columns.split(""));
        JobRun last = runs.remove(runs.size() - 1);
        ResolvedLineage one = lineages.computeIfAbsent(columns, k -> last.resolved());
        UUID parent = random.nextInt(4) == 0 ? new UUID(1, day) : null;
        String kind = random.nextInt(4) == 0 ? "merge" : "insert";
        runs.add(
            new JobRun(
                last.run(),
                last.start().plusSeconds(i),
                random.nextInt(40) == 0 ? null : last.fingerprint(),
                kind,
                parent,
                last.settled(),
                random.nextInt(25) == 0 ? ResolvedLineage.NONE : one));
      }
      var early = new ArrayList<>(runs.subList(0, 45));
      var needless = new ArrayList<JobRun>();
      JobHistory.of(early, null, List.of(), null, needless::add);
      early.removeAll(needless);
      leftOut += needless.size();
      var kept = new ArrayList<>(early);
      assertThat(JobHistory.of(kept, null, null))
          .isEqualTo(JobHistory.of(runs.subList(0, 45), null, null));
      kept.addAll(runs.subList(45, runs.size()));
      assertThat(JobHistory.of(kept, null, null)).isEqualTo(JobHistory.of(runs, null, null));
    }
    assertThat(leftOut).isGreaterThan(2_000);
  }

  @Test
  void a_link_seen_again_stays_one_link() {
    run(1, "A", true, "x");
    run(2, "A", true, "x");
    assertThat(asText()).isEqualTo("x 1-2");
  }

  @Test
  void a_settled_run_of_new_code_closes_what_it_lacks() {
    run(1, "A", true, "x", "y");
    run(2, "B", true, "y", "z");
    assertThat(asText()).isEqualTo("x 1-1 until 2, y 1-2, z 2-2");
    assertThat(JobHistory.of(runs, null, null).versions()).hasSize(2);
  }

  @Test
  void a_failed_run_of_new_code_opens_but_closes_nothing() {
    run(1, "A", true, "x");
    run(2, "B", false, "z");
    assertThat(asText()).isEqualTo("x 1-1, z 2-2");
  }

  @Test
  void code_that_returns_within_two_weeks_closes_nothing() {
    run(1, "A", true, "x");
    run(2, "B", true, "z");
    run(3, "A", true, "x");
    run(4, "B", true, "z");
    assertThat(asText()).isEqualTo("x 1-1 until 2, x 3-3, z 2-4");
    assertThat(JobHistory.of(runs, null, null).versions()).hasSize(2);
  }

  @Test
  void with_unchanged_code_a_link_ends_only_by_being_idle() {
    run(1, "A", true, "x", "y");
    run(10, "A", true, "x");
    run(16, "A", true, "x");
    assertThat(asText()).isEqualTo("x 1-16, y 1-1 until 15");
  }

  @Test
  void a_silent_job_closes_nothing() {
    run(1, "A", true, "x");
    assertThat(asText()).isEqualTo("x 1-1");
  }

  @Test
  void without_code_the_shape_is_the_version() {
    run(1, null, true, "x");
    run(2, null, true, "x", "y");
    run(3, null, true, "x");
    assertThat(JobHistory.of(runs, null, null).versions()).hasSize(2);
  }

  @Test
  void what_is_declared_holds_beside_what_was_observed() {
    run(1, "A", true, "x");
    var declared = new JobHistory.Declared(DAY_ONE, runs.get(0).lineage());
    JobLineage both = JobHistory.of(runs, declared, null);
    assertThat(both.links()).noneMatch(held -> held.evidence() == Evidence.DECLARED);
    JobLineage only = JobHistory.of(List.of(), declared, null);
    assertThat(only.links()).isNotEmpty().allMatch(held -> held.evidence() == Evidence.DECLARED);
  }

  @Test
  void the_order_in_which_runs_are_told_makes_no_difference() {
    var random = new Random(7);
    String[] columns = {"a", "b", "c", "d"};
    for (int day = 1; day < 60; day += 1 + random.nextInt(9)) {
      run(
          day,
          "v" + random.nextInt(3),
          random.nextBoolean(),
          columns[random.nextInt(4)],
          columns[random.nextInt(4)]);
    }
    JobLineage inOrder = JobHistory.of(runs, null, null);
    for (int round = 0; round < 20; round++) {
      Collections.shuffle(runs, random);
      assertThat(JobHistory.of(runs, null, null)).isEqualTo(inOrder);
    }
  }

  @Test
  void runs_that_share_their_shape_give_what_runs_of_equal_shapes_give() {
    var random = new Random(11);
    var lineages = new ArrayList<ResolvedLineage>();
    for (String column : new String[] {"a", "b", "c"}) {
      run(1, null, true, column);
      lineages.add(runs.get(runs.size() - 1).resolved());
    }
    for (int round = 0; round < 200; round++) {
      var shared = new ArrayList<JobRun>();
      var copied = new ArrayList<JobRun>();
      int day = 1;
      for (int n = 0; n < 12; n++) {
        day += random.nextInt(9);
        String code = random.nextInt(4) == 0 ? "B" : random.nextInt(3) == 0 ? null : "A";
        ResolvedLineage lineage = lineages.get(random.nextInt(10) < 8 ? 0 : random.nextInt(3));
        boolean settled = random.nextInt(4) > 0;
        Instant start = DAY_ONE.plus(Duration.ofDays(day));
        shared.add(new JobRun(new UUID(1, n), start, code, settled, lineage));
        ResolvedLineage copy =
            ResolvedLineage.of(ReportedLineage.union(List.of(lineage.lineage())));
        copied.add(new JobRun(new UUID(1, n), start, code, settled, copy));
      }
      assertThat(JobHistory.of(shared, null, null)).isEqualTo(JobHistory.of(copied, null, null));
    }
  }

  @Test
  void a_fingerprint_forgets_comments_spacing_dates_and_ids_but_no_other_literal() {
    String code = "select a  -- why\n from t /* x */ where d = '2031-05-01' and k = 'A'";
    String again = "SELECT a from t where d = '2031-05-02' and k = 'A'";
    assertThat(Fingerprint.normal(code)).isEqualTo(Fingerprint.normal(again));
    assertThat(Fingerprint.of(code)).isNotEqualTo(Fingerprint.of(again.replace("'A'", "'B'")));
    assertThat(Fingerprint.normal("x = '01910000-0000-7000-8000-000000002501'"))
        .isEqualTo("x = ''");
    assertThat(Fingerprint.normal("select '--no comment'")).isEqualTo("select '--no comment'");
  }

  @Test
  void a_failed_end_wins_over_an_aborted_one_and_that_over_a_completed_one() {
    assertThat(RunState.of(DAY_ONE, DAY_ONE, DAY_ONE, DAY_ONE)).isEqualTo(RunState.FAILED);
    assertThat(RunState.of(null, DAY_ONE, DAY_ONE, null)).isEqualTo(RunState.ABORTED);
    assertThat(RunState.of(null, null, DAY_ONE, null)).isEqualTo(RunState.COMPLETED);
    assertThat(RunState.of(null, null, null, DAY_ONE)).isEqualTo(RunState.RUNNING);
    assertThat(RunState.of(null, null, null, null)).isEqualTo(RunState.UNKNOWN);
  }

  private void statement(Instant start, String code, String kind, UUID parent, String column) {
    run(1, code, true, column);
    JobRun plain = runs.remove(runs.size() - 1);
    runs.add(
        new JobRun(new UUID(0, runs.size()), start, code, kind, parent, true, plain.resolved()));
  }

  @Test
  void statements_of_one_execution_leave_each_others_links_alone() {
    UUID night = new UUID(1, 1);
    statement(DAY_ONE, "M", null, night, "x");
    statement(DAY_ONE.plusSeconds(60), "U", null, night, "y");
    statement(DAY_ONE.plusSeconds(120), "D", null, night, "z");
    assertThat(asText()).isEqualTo("x 1-1, y 1-1, z 1-1");
  }

  @Test
  void different_statements_within_a_day_are_one_execution_too() {
    statement(DAY_ONE, "M", "merge", null, "x");
    statement(DAY_ONE.plusSeconds(60), "U", "update", null, "y");
    assertThat(asText()).isEqualTo("x 1-1, y 1-1");
    // The next night both run again: they alternate.
    statement(DAY_ONE.plusSeconds(86_400), "M", "merge", null, "x");
    statement(DAY_ONE.plusSeconds(86_460), "U", "update", null, "y");
    assertThat(asText()).isEqualTo("x 1-2, y 1-2");
  }

  @Test
  void what_another_statement_spared_and_does_not_return_ends_with_its_next_run() {
    statement(DAY_ONE, "M", "merge", null, "x");
    statement(DAY_ONE.plusSeconds(60), "U", "update", null, "y");
    statement(DAY_ONE.plusSeconds(2 * 86_400), "U", "update", null, "y");
    assertThat(asText()).isEqualTo("x 1-1 until 3, y 1-3");
  }

  @Test
  void code_of_the_same_kind_replaces_the_other_at_once() {
    statement(DAY_ONE, "A", "insert", null, "x");
    statement(DAY_ONE.plusSeconds(3_600), "B", "insert", null, "y");
    assertThat(asText()).isEqualTo("x 1-1 until 1, y 1-1");
  }

  private static final DatasetName SELF = DatasetName.ofJob(new JobName("n", "j"));

  private static String ends(JobLineage lineage) {
    return lineage.links().stream()
        .map(held -> held.link().from() + " " + held.link().flow() + " " + held.link().to())
        .sorted()
        .collect(Collectors.joining(", "));
  }

  private void oneSided(int day, List<String> inputs, List<String> outputs, boolean settled) {
    ReportedLineage lineage = ReportedLineage.EMPTY;
    var read = new TreeSet<DatasetName>();
    inputs.forEach(name -> read.add(new DatasetName("n", name)));
    var written = new TreeSet<DatasetName>();
    outputs.forEach(name -> written.add(new DatasetName("n", name)));
    lineage =
        new ReportedLineage(
            read, written, new TreeSet<>(), new TreeSet<>(), new TreeSet<>(), false);
    runs.add(
        new JobRun(
            new UUID(0, runs.size()),
            DAY_ONE.plus(Duration.ofDays(day)),
            null,
            settled,
            ResolvedLineage.of(lineage)));
  }

  @Test
  void what_a_job_reads_and_lands_nowhere_ends_at_the_job() {
    oneSided(1, List.of("a", "b"), List.of(), true);
    assertThat(ends(JobHistory.of(runs, null, SELF)))
        .isEqualTo("n/a#* COARSE @n/j#*, n/b#* COARSE @n/j#*");
  }

  @Test
  void what_a_job_writes_and_reads_from_nowhere_begins_at_the_job() {
    oneSided(1, List.of(), List.of("t"), true);
    assertThat(ends(JobHistory.of(runs, null, SELF))).isEqualTo("@n/j#* COARSE n/t#*");
  }

  @Test
  void a_run_that_failed_before_it_wrote_makes_no_end_of_its_job() {
    oneSided(1, List.of("a"), List.of(), false);
    assertThat(ends(JobHistory.of(runs, null, SELF))).isEqualTo("n/a#* COARSE @n/j#*");
    oneSided(2, List.of("a"), List.of("t"), true);
    assertThat(ends(JobHistory.of(runs, null, SELF))).isEqualTo("n/a#* COARSE n/t#*");
  }

  @Test
  void inputs_and_outputs_too_many_to_be_paired_are_tied_to_the_job() {
    List<String> inputs = IntStream.range(0, 1_500).mapToObj(i -> "in" + i).toList();
    List<String> outputs = IntStream.range(0, 1_500).mapToObj(i -> "out" + i).toList();
    oneSided(1, inputs, outputs, true);
    oneSided(2, List.of("in7"), List.of("out7"), false);
    List<JobLineage.HeldLink> links = JobHistory.of(runs, null, SELF).links();
    assertThat(links).hasSize(3_001);
    assertThat(links.stream().filter(held -> held.link().to().dataset().equals(SELF)).count())
        .isEqualTo(1_500);
    assertThat(links.stream().filter(held -> held.link().from().dataset().equals(SELF)).count())
        .isEqualTo(1_500);
  }

  @Test
  void few_pairs_and_those_of_a_single_output_stay_pairs() {
    List<String> inputs = IntStream.range(0, 1_500).mapToObj(i -> "in" + i).toList();
    oneSided(1, inputs, List.of("t"), true);
    assertThat(JobHistory.of(runs, null, SELF).links())
        .hasSize(1_500)
        .allMatch(held -> held.link().to().dataset().equals(TARGET));
    runs.clear();
    oneSided(1, inputs.subList(0, 10), inputs.subList(100, 110), true);
    assertThat(JobHistory.of(runs, null, SELF).links()).hasSize(100);
  }
}
