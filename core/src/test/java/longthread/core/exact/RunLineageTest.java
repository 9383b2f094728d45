package longthread.core.exact;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.stream.Collectors;
import longthread.core.history.RunState;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;

class RunLineageTest {
  private static final int ALL = 1_000;

  private static String upstream(RunLineage.Found found) {
    return found.members().stream()
        .map(m -> Runs.name(m.run()) + "@" + m.hops() + (m.certain() ? "" : "?"))
        .collect(Collectors.joining(" "));
  }

  private static Runs.Builder copy(String name, int start, int end, String from, String to) {
    return Runs.run(name, start, end)
        .reads(from, Part.WHOLE)
        .writes(to, WriteMode.REPLACES, Part.WHOLE);
  }

  @Test
  void a_report_rests_on_the_load_it_was_refreshed_with_and_not_on_the_newest() {
    var log =
        new Runs(
            List.of(
                copy("load1", 0, 1, "src", "table").done(),
                copy("refresh", 2, 3, "table", "model").done(),
                copy("load2", 4, 5, "src", "table").done()));
    assertThat(upstream(RunLineage.of(log, "model", Runs.minute(9), ALL, ALL)))
        .isEqualTo("refresh@1 load1@2");
    assertThat(RunLineage.of(log, "model", Runs.minute(9), ALL, ALL).sources())
        .containsExactly("src");
  }

  @Test
  void what_is_shown_live_is_looked_through() {
    var log =
        new Runs(List.of(copy("load", 0, 1, "src", "table").done()))
            .view("chart", "model")
            .view("report", "chart")
            .view("model", "table");
    RunLineage.Found found = RunLineage.of(log, "report", Runs.minute(9), ALL, ALL);
    assertThat(upstream(found)).isEqualTo("load@1");
    assertThat(found.uses().get(0).through()).containsExactly("table");
  }

  @Test
  void a_doubt_on_the_way_leaves_all_behind_it_in_doubt() {
    var log =
        new Runs(
            List.of(
                copy("a", 0, 1, "src", "table").done(),
                copy("b", 4, 7, "src", "table").done(),
                copy("refresh", 5, 6, "table", "model").done()));
    assertThat(upstream(RunLineage.of(log, "model", Runs.minute(9), ALL, ALL)))
        .isEqualTo("refresh@1 b@2? a@2?");
  }

  @Test
  void more_runs_than_wanted_are_said_to_be_there() {
    var log =
        new Runs(List.of(copy("a", 0, 1, "src", "t").done(), copy("b", 2, 3, "t", "u").done()));
    assertThat(RunLineage.of(log, "u", Runs.minute(9), 1, ALL).truncated()).isTrue();
    assertThat(RunLineage.of(log, "u", Runs.minute(9), 2, ALL).truncated()).isFalse();
    assertThat(RunLineage.of(log, "u", Runs.minute(9), ALL, 1).members()).hasSize(1);
  }

  private static String recall(Recall.Found found) {
    return found.assets().stream()
        .map(
            a ->
                a.asset()
                    + ":"
                    + a.state().word()
                    + (a.replacedBy() == null ? "" : ":" + Runs.name(a.replacedBy())))
        .collect(Collectors.joining(" "));
  }

  @Test
  void a_recall_says_what_holds_the_bad_load_still_and_what_was_replaced_since() {
    Execution bad = copy("bad", 0, 1, "src", "table").done();
    var runs =
        new ArrayList<>(
            List.of(
                bad,
                copy("refresh", 2, 3, "table", "model").done(),
                copy("copy", 2, 3, "table", "extract").done(),
                copy("good", 4, 5, "src", "table").done(),
                copy("refresh2", 6, 7, "table", "model").done()));
    Recall.Found found =
        Recall.of(new Runs(runs).view("page", "extract"), bad, Runs.minute(9), ALL);
    assertThat(recall(found))
        .isEqualTo("table:replaced:good extract:holds model:replaced:refresh2 page:holds");
    assertThat(found.runs())
        .extracting(m -> Runs.name(m.run()))
        .containsExactly("bad", "refresh", "copy");
  }

  @Test
  void a_refresh_that_reads_the_bad_load_again_replaces_nothing() {
    Execution bad = copy("bad", 0, 1, "src", "table").done();
    var runs =
        List.of(
            bad,
            copy("refresh", 2, 3, "table", "model").done(),
            copy("refresh2", 4, 5, "table", "model").done());
    assertThat(recall(Recall.of(new Runs(runs), bad, Runs.minute(9), ALL)))
        .isEqualTo("table:holds model:holds");
  }

  private static List<Execution> anyRuns(Random random) {
    List<String> assets = List.of("s", "t", "u", "v");
    List<Part> parts =
        List.of(Part.WHOLE, Part.WHOLE, Part.where("day", "1"), Part.where("day", "2"));
    var runs = new ArrayList<Execution>();
    for (int i = 0; i < 2 + random.nextInt(9); i++) {
      int start = random.nextInt(30);
      var run =
          Runs.run("r" + i, start, start + random.nextInt(5))
              .state(random.nextInt(8) == 0 ? RunState.FAILED : RunState.COMPLETED);
      for (int r = 0; r < random.nextInt(3); r++) {
        run.reads(assets.get(random.nextInt(4)), parts.get(random.nextInt(4)));
      }
      for (int w = 0; w < random.nextInt(3); w++) {
        WriteMode mode = WriteMode.values()[random.nextInt(4)];
        run.writes(assets.get(random.nextInt(4)), mode, parts.get(random.nextInt(4)));
      }
      runs.add(run.done());
    }
    return runs;
  }

  /** What a run rests on, by asking each of its readings again and again; true for certain. */
  private static Map<String, Boolean> plain(Runs log, Execution of, Set<String> above) {
    var found = new HashMap<String, Boolean>();
    for (Execution.Read read : of.reads()) {
      Reading reading = Reading.of(of, read);
      for (Contribution c :
          Contents.of(log.writing(read.asset(), reading), read.asset(), reading).contributions()) {
        found.merge(Runs.name(c.by()), c.certain(), Boolean::logicalOr);
        if (!above.contains(Runs.name(c.by()))) {
          var more = new HashSet<>(above);
          more.add(Runs.name(c.by()));
          plain(log, c.by(), more)
              .forEach((n, sure) -> found.merge(n, sure && c.certain(), Boolean::logicalOr));
        }
      }
    }
    found.remove(Runs.name(of));
    return found;
  }

  @Property(tries = 500)
  void upstream_and_recall_are_two_sides_of_one_thing(@ForAll long seed) {
    var random = new Random(seed);
    List<Execution> runs = anyRuns(random);
    var sent = new ArrayList<>(runs);
    sent.addAll(runs.subList(0, runs.size() / 2));
    Collections.shuffle(sent, random);
    var log = new Runs(sent);
    for (Execution reader : runs) {
      Map<String, Boolean> plain = plain(log, reader, Set.of(Runs.name(reader)));
      RunLineage.Found up = RunLineage.of(log, reader, ALL, ALL);
      var upstream = new HashMap<String, Boolean>();
      up.members().stream().skip(1).forEach(m -> upstream.put(Runs.name(m.run()), m.certain()));
      assertThat(upstream).as(runs.toString()).isEqualTo(plain);
      for (Execution writer : runs) {
        Recall.Found down = Recall.of(log, writer, Runs.minute(60), ALL);
        List<Boolean> found =
            down.runs().stream()
                .skip(1)
                .filter(m -> m.run().equals(reader))
                .map(Recall.Member::certain)
                .toList();
        Boolean expected = plain.get(Runs.name(writer));
        assertThat(found).isEqualTo(expected == null ? List.of() : List.of(expected));
      }
    }
  }
}
