package longthread.service.truth;

import static org.assertj.core.api.Assertions.assertThat;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Predicate;
import longthread.core.impact.Certainty;
import longthread.core.impact.Change;
import longthread.core.impact.Impact;
import longthread.core.impact.Verdict;
import longthread.core.sql.SqlReader;
import longthread.service.testing.TestPostgres;
import org.junit.jupiter.api.Test;

/**
 * Verdicts held against what happens. Estates are generated and run on a real database; each change
 * is made there for real, the next night is run with and without it, and what broke, went stale or
 * came out otherwise is compared with what the catalog foretells from the SQL alone.
 */
class TruthTest {
  private static final int ESTATES = Integer.getInteger("longthread.estates", 25);
  private static final long SEED = Long.getLong("longthread.seed", 20_261_127L);

  private static final Map<String, List<String>> OTHER_VALUES =
      Map.of(
          "k", List.of("k + 3", "case when n = 2 then k + 100 else k end"),
          "c", List.of("c || 'z'", "case when n > 1 then 'b' else c end", "'a'"),
          "v", List.of("v * 10 + 1", "case when k = 5 then v + 90 else v end", "-v"),
          "n", List.of("n + 2", "case when v > 40 then 0 else n end"));

  private final Tally tally = new Tally();

  @Test
  void what_is_foretold_happens_and_nothing_else() throws SQLException {
    try (var postgres = new TestPostgres();
        var reader = new SqlReader()) {
      postgres.createDatabase("truth");
      try (Connection connection =
          DriverManager.getConnection(postgres.url("truth"), "longthread", postgres.password())) {
        for (int i = 0; i < ESTATES; i++) {
          var estate = new RandomEstate(SEED + i);
          judge(estate, new World(connection, estate, SEED + i), new Foretold(estate, reader));
        }
      }
    }
    System.out.println(tally);
    assertThat(tally.changes).isGreaterThan(ESTATES * 15);
    assertThat(tally.missed).as("what happened and was not foretold").isEmpty();
    assertThat(tally.wrong).as("what was certain and did not happen").isEmpty();
  }

  private void judge(RandomEstate estate, World world, Foretold foretold) throws SQLException {
    World.Night plain = world.night(World.Step.NONE);
    assertThat(plain.failed()).isEmpty();
    for (String source : estate.sources()) {
      for (String column : RandomEstate.COLUMNS) {
        String table = "alter table " + source + " ";
        failures(
            "drop " + source + "." + column + " of " + estate.makers(),
            plain,
            world.night(World.Step.before(table + "drop column " + column)),
            foretold.of(source, column, Change.Kind.DROP, true));
        failures(
            "rename " + source + "." + column + " of " + estate.makers(),
            plain,
            world.night(World.Step.before(table + "rename column " + column + " to other")),
            foretold.of(source, column, Change.Kind.RENAME, true));
        values(estate, world, foretold, plain, source, column);
      }
      failures(
          "delay " + source + " of " + estate.makers(),
          plain,
          world.night(World.Step.late(source)),
          foretold.of(source, "", Change.Kind.DELAY, true));
      rows(estate, world, foretold, plain, source);
    }
    for (RandomEstate.Maker maker : estate.makers()) {
      if (!maker.isView()) {
        failures(
            "without " + maker + " of " + estate.makers(),
            plain,
            world.night(World.Step.without(maker.name())),
            foretold.without(maker));
      }
    }
  }

  private void values(
      RandomEstate estate,
      World world,
      Foretold foretold,
      World.Night plain,
      String source,
      String column)
      throws SQLException {
    var nights = new ArrayList<World.Night>();
    for (String expression : OTHER_VALUES.get(column)) {
      nights.add(
          world.night(
              World.Step.after("update " + source + " set " + column + " = " + expression)));
    }
    shifts(
        "values of " + source + "." + column + " of " + estate.makers(),
        plain,
        nights,
        foretold.of(source, column, Change.Kind.VALUES, true));
  }

  private void rows(
      RandomEstate estate, World world, Foretold foretold, World.Night plain, String source)
      throws SQLException {
    var nights = new ArrayList<World.Night>();
    for (String lost : List.of("k % 3 = 0", "v > 40", "k < 6")) {
      nights.add(world.night(World.Step.after("delete from " + source + " where " + lost)));
    }
    shifts(
        "rows of " + source + " of " + estate.makers(),
        plain,
        nights,
        foretold.of(source, "", Change.Kind.ROWS, true));
  }

  /** Drops, renames, delays: what fails, and what is not as it would have been. */
  private void failures(String what, World.Night plain, World.Night night, Impact impact) {
    tally.changes++;
    Map<String, Impact.Item> items = byRef(impact);
    for (String ref : night.failed()) {
      boolean told = has(items, ref, Verdict.BREAKS);
      tally.seen(Verdict.BREAKS, told);
      if (!told) {
        tally.missed.add(ref + " breaks by " + what);
      }
    }
    Set<String> stale = new HashSet<>();
    plain
        .contents()
        .forEach(
            (ref, rows) -> {
              List<List<String>> now = night.contents().get(ref);
              if (now != null && !now.equals(rows)) {
                stale.add(ref);
              }
            });
    for (String ref : stale) {
      boolean told = has(items, ref, Verdict.GOES_STALE);
      tally.seen(Verdict.GOES_STALE, told);
      if (!told) {
        tally.missed.add(ref + " goes stale by " + what);
      }
    }
    compare(what, impact, Verdict.BREAKS, night.failed()::contains, true);
    compare(what, impact, Verdict.GOES_STALE, stale::contains, false);
    untouched(what, impact, ref -> night.failed().contains(ref) || stale.contains(ref));
  }

  /** Other values and rows: what comes out otherwise in any of several nights. */
  private void shifts(String what, World.Night plain, List<World.Night> nights, Impact impact) {
    tally.changes++;
    Map<String, Impact.Item> items = byRef(impact);
    Set<String> values = new HashSet<>();
    Set<String> counts = new HashSet<>();
    for (World.Night night : nights) {
      plain
          .contents()
          .forEach(
              (ref, rows) -> {
                List<List<String>> now = night.contents().get(ref);
                if (now != null && now.size() != rows.size()) {
                  counts.add(ref);
                } else if (now != null && !now.equals(rows)) {
                  values.add(ref);
                }
              });
    }
    for (String ref : counts) {
      boolean told = has(items, ref, Verdict.ROWS_SHIFT);
      tally.seen(Verdict.ROWS_SHIFT, told);
      if (!told) {
        tally.missed.add(ref + " shifts in rows by " + what);
      }
    }
    for (String ref : values) {
      // Other rows of the same number look like other values.
      boolean told = has(items, ref, Verdict.VALUES_SHIFT) || has(items, ref, Verdict.ROWS_SHIFT);
      tally.seen(Verdict.VALUES_SHIFT, told);
      if (!told) {
        tally.missed.add(ref + " shifts in values by " + what);
      }
    }
    Predicate<String> any = ref -> values.contains(ref) || counts.contains(ref);
    compare(what, impact, Verdict.VALUES_SHIFT, any, false);
    compare(what, impact, Verdict.ROWS_SHIFT, any, false);
    untouched(what, impact, any);
  }

  /**
   * How many claims came true.
   *
   * @param always whether a certain one must: what shifts or is late need not show in small data
   */
  private void compare(
      String what, Impact impact, Verdict verdict, Predicate<String> seen, boolean always) {
    for (Impact.Item item : impact.items()) {
      Certainty certainty = item.verdicts().get(verdict);
      if (certainty == null) {
        continue;
      }
      boolean certain = certainty == Certainty.CERTAIN;
      boolean came = seen.test(item.ref());
      tally.claimed(verdict, certain, came);
      if (always && certain && !came) {
        tally.wrong.add(item.ref() + " " + verdict.word() + " by " + what);
      }
    }
  }

  private void untouched(String what, Impact impact, Predicate<String> changed) {
    for (Impact.Untouched one : impact.untouched()) {
      boolean certain = one.certainty() == Certainty.CERTAIN;
      if (changed.test(one.ref())) {
        if (certain) {
          tally.wrong.add(one.ref() + " untouched by " + what);
        }
      } else if (certain) {
        tally.untouchedCertain++;
      } else {
        tally.untouchedPossible++;
      }
    }
  }

  private static Map<String, Impact.Item> byRef(Impact impact) {
    var items = new HashMap<String, Impact.Item>();
    impact.items().forEach(item -> items.put(item.ref(), item));
    return items;
  }

  private static boolean has(Map<String, Impact.Item> items, String ref, Verdict verdict) {
    return items.containsKey(ref) && items.get(ref).verdicts().containsKey(verdict);
  }
}
