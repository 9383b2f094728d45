package longthread.core.exact;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import java.util.stream.Collectors;
import longthread.core.exact.Part.Box;
import longthread.core.exact.Part.Range;
import longthread.core.history.RunState;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;

class ContentsTest {
  private static final String T = "barn/core.pickup";
  private static final Part DAY_1 = Part.where("day", "1");
  private static final Part DAY_2 = Part.where("day", "2");
  private static final Part DAYS =
      new Part(List.of(Box.of("day", Range.only("1")), Box.of("day", Range.only("2"))), true);
  private static final Part SOME_OF_DAY_1 = new Part(DAY_1.boxes(), false);

  /** The answer as text: newest first, {@code a} for certain, {@code a?doubt} for possible. */
  private static String of(Reading reading, Runs.Builder... runs) {
    return Contents.of(List.of(runs).stream().map(Runs.Builder::done).toList(), T, reading)
        .contributions()
        .stream()
        .map(
            one ->
                Runs.name(one.by())
                    + one.doubts().stream()
                        .map(d -> "?" + d.word())
                        .sorted()
                        .collect(Collectors.joining()))
        .collect(Collectors.joining(" "));
  }

  private static Reading at(int minute) {
    return Reading.at(Runs.minute(minute));
  }

  private static Reading read(int from, int until, Part part) {
    return new Reading(part, Runs.minute(from), Runs.minute(until), null, null);
  }

  private static Runs.Builder load(String name, int start, int end, WriteMode mode, Part part) {
    return Runs.run(name, start, end).writes(T, mode, part);
  }

  @Test
  void what_was_replaced_is_gone_and_what_was_added_stays() {
    assertThat(
            of(
                at(9),
                load("a", 0, 1, WriteMode.REPLACES, Part.WHOLE),
                load("b", 2, 3, WriteMode.REPLACES, Part.WHOLE),
                load("c", 4, 5, WriteMode.ADDS, Part.SOMETHING)))
        .isEqualTo("c b");
  }

  @Test
  void a_part_is_replaced_apart() {
    Runs.Builder[] runs = {
      load("a", 0, 1, WriteMode.REPLACES, DAY_1),
      load("b", 1, 2, WriteMode.REPLACES, DAY_2),
      load("again", 3, 4, WriteMode.REPLACES, DAY_1)
    };
    assertThat(of(at(9), runs)).isEqualTo("again b");
    assertThat(of(read(8, 9, DAY_1), runs)).isEqualTo("again");
    assertThat(of(read(8, 9, DAY_2), runs)).isEqualTo("b");
  }

  @Test
  void a_load_during_the_read_makes_both_possible() {
    assertThat(
            of(
                read(4, 8, Part.WHOLE),
                load("a", 0, 1, WriteMode.REPLACES, Part.WHOLE),
                load("b", 3, 6, WriteMode.REPLACES, Part.WHOLE)))
        .isEqualTo("b?written-while-read a?replaced-while-read");
  }

  @Test
  void of_two_loads_at_a_time_either_may_have_come_last() {
    assertThat(
            of(
                at(9),
                load("a", 0, 4, WriteMode.REPLACES, Part.WHOLE),
                load("b", 2, 5, WriteMode.REPLACES, Part.WHOLE)))
        .isEqualTo("b?written-together a?written-together");
  }

  @Test
  void a_load_that_says_nothing_leaves_what_was_before_in_doubt() {
    assertThat(
            of(
                at(9),
                load("a", 0, 1, WriteMode.REPLACES, Part.WHOLE),
                load("b", 2, 3, WriteMode.UNKNOWN, Part.WHOLE)))
        .isEqualTo("b a?maybe-replaced");
  }

  @Test
  void a_failed_load_may_have_written_and_removed() {
    assertThat(
            of(
                at(9),
                load("a", 0, 1, WriteMode.REPLACES, Part.WHOLE),
                load("b", 2, 3, WriteMode.REPLACES, Part.WHOLE).state(RunState.FAILED)))
        .isEqualTo("b?failed a?failed-later");
    assertThat(
            of(
                at(9),
                load("a", 0, 1, WriteMode.REPLACES, Part.WHOLE),
                Runs.run("b", 2, 3)
                    .writes(T, WriteMode.ADDS, Part.WHOLE, null, 0L)
                    .state(RunState.FAILED)))
        .as("a failed one that reports no rows added nothing")
        .isEqualTo("a");
  }

  @Test
  void an_added_load_of_no_reported_part_may_miss_the_part_that_is_read() {
    Runs.Builder[] runs = {load("a", 0, 1, WriteMode.ADDS, Part.SOMETHING)};
    assertThat(of(at(9), runs)).isEqualTo("a");
    assertThat(of(read(8, 9, DAY_1), runs)).isEqualTo("a?part-not-reported");
  }

  @Test
  void a_load_that_ends_when_the_read_begins_was_read_and_one_that_begins_at_its_end_was_not() {
    assertThat(
            of(
                read(3, 5, Part.WHOLE),
                load("a", 0, 3, WriteMode.REPLACES, Part.WHOLE),
                load("b", 5, 6, WriteMode.REPLACES, Part.WHOLE)))
        .isEqualTo("a");
  }

  @Test
  void a_version_that_was_read_decides_whatever_the_times_say() {
    var a = Runs.run("a", 0, 1).writes(T, WriteMode.REPLACES, Part.WHOLE, "v1", null).done();
    var b = Runs.run("b", 2, 6).writes(T, WriteMode.REPLACES, Part.WHOLE, "v2", null).done();
    for (String version : List.of("v1", "v2", "v3")) {
      var reading = new Reading(Part.WHOLE, Runs.minute(4), Runs.minute(8), version, null);
      Contents.Answer answer = Contents.of(List.of(a, b), T, reading);
      String found =
          answer.contributions().stream()
              .map(c -> Runs.name(c.by()) + (c.certain() ? "" : "?"))
              .collect(Collectors.joining(" "));
      assertThat(found)
          .as(version)
          .isEqualTo(version.equals("v1") ? "a" : version.equals("v2") ? "b" : "b? a?");
      assertThat(answer.unknownVersion()).isEqualTo(version.equals("v3"));
      assertThat(answer.byVersion()).isEqualTo(!version.equals("v3"));
    }
  }

  @Test
  void an_address_and_a_field_cannot_be_compared() {
    var file = new Part(List.of(Box.of(PartReader.LOCATION, Range.only("s3://lake/a"))), true);
    assertThat(
            of(
                read(8, 9, DAY_1),
                load("a", 0, 1, WriteMode.REPLACES, Part.WHOLE),
                load("b", 2, 3, WriteMode.REPLACES, file)))
        .isEqualTo("b?part-not-reported a?condition-not-understood");
  }

  @Test
  void a_run_does_not_read_what_it_writes_itself() {
    Execution own =
        Runs.run("own", 2, 6).reads(T, Part.WHOLE).writes(T, WriteMode.REPLACES, Part.WHOLE).done();
    Execution before = load("a", 0, 1, WriteMode.REPLACES, Part.WHOLE).done();
    assertThat(
            Contents.of(List.of(before, own), T, Reading.of(own, own.reads().get(0)))
                .contributions())
        .extracting(c -> Runs.name(c.by()))
        .containsExactly("a");
  }

  @Test
  void all_is_covered_from_the_start_of_the_oldest_run_that_is_needed_for_it() {
    List<Execution> runs =
        List.of(
            load("a", 0, 1, WriteMode.REPLACES, Part.WHOLE).done(),
            load("b", 2, 3, WriteMode.REPLACES, DAY_1).done(),
            load("c", 4, 5, WriteMode.REPLACES, DAY_2).done());
    assertThat(Contents.coveredSince(runs, T, read(8, 9, DAY_2))).isEqualTo(Runs.minute(4));
    assertThat(Contents.coveredSince(runs, T, read(8, 9, DAYS))).isEqualTo(Runs.minute(2));
    assertThat(Contents.coveredSince(runs, T, at(9))).isEqualTo(Runs.minute(0));
    assertThat(Contents.coveredSince(runs.subList(1, 3), T, at(9))).isNull();
    assertThat(Contents.coveredSince(runs, T, read(4, 9, DAY_2)))
        .as("one that wrote during the read covers nothing")
        .isEqualTo(Runs.minute(0));
  }

  @Property(tries = 3_000)
  void the_answer_is_that_of_trying_every_order(@ForAll long seed) {
    var random = new Random(seed);
    List<Part> parts = List.of(Part.WHOLE, Part.WHOLE, DAY_1, DAY_2, DAYS, Part.SOMETHING);
    var runs = new ArrayList<Execution>();
    int inexact = 0;
    for (int i = 0; i < 1 + random.nextInt(4); i++) {
      Part part = random.nextInt(12) == 0 ? SOME_OF_DAY_1 : parts.get(random.nextInt(parts.size()));
      if (!part.exact() && ++inexact > 1) {
        part = DAY_2;
      }
      int start = random.nextInt(8);
      RunState state =
          random.nextInt(4) > 0
              ? RunState.COMPLETED
              : List.of(RunState.FAILED, RunState.ABORTED, RunState.RUNNING).get(random.nextInt(3));
      WriteMode mode = WriteMode.values()[random.nextInt(WriteMode.values().length)];
      runs.add(
          Runs.run("r" + i, start, start + random.nextInt(4))
              .writes(T, mode, part)
              .state(state)
              .done());
    }
    int from = random.nextInt(11);
    Part wanted =
        random.nextInt(5) == 0
            ? (random.nextBoolean() ? SOME_OF_DAY_1 : Part.SOMETHING)
            : parts.get(random.nextInt(parts.size() - 1));
    Reading reading = read(from, from + random.nextInt(4), wanted);
    var sent = new ArrayList<>(runs);
    sent.add(runs.get(random.nextInt(runs.size())));
    Collections.shuffle(sent, random); // late and doubled
    int[] plain = PlainReplay.of(runs, reading);
    List<Contribution> found = Contents.of(sent, T, reading).contributions();
    for (int i = 0; i < runs.size(); i++) {
      Execution run = runs.get(i);
      int here =
          found.stream().filter(c -> c.by().equals(run)).mapToInt(c -> c.certain() ? 2 : 1).sum();
      assertThat(here).as("%s in %s read as %s", Runs.name(run), runs, reading).isEqualTo(plain[i]);
    }
    assertThat(found).allMatch(c -> c.certain() == c.doubts().isEmpty());
  }
}
