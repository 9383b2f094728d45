package longthread.core.gate;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import longthread.core.sql.Dialect;
import longthread.core.sql.KnownTables;
import longthread.core.sql.SqlReader;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import net.jqwik.api.lifecycle.AfterContainer;

/** Pairs of statements against what was done to the list of them. */
class PairingTest {
  private static final int POOL = 12;
  private static final SqlReader READER = new SqlReader();
  private static final List<String> TEXTS =
      IntStream.range(0, POOL)
          .mapToObj(
              i ->
                  switch (i % 3) {
                    case 0 -> "insert into t (a, c" + i + ") select a, b + " + i + " from s" + i;
                    case 1 -> "delete from t where a < " + i;
                    default -> "update t set a = a * " + i + " where c" + i + " > 0";
                  })
          .toList();

  @AfterContainer
  static void close() {
    READER.close();
  }

  /** The statements of a script of texts, each in a place of its own. */
  private static List<Written> written(List<String> texts) {
    String script = String.join(";\n", texts) + ";\n";
    return READER.read(script, Dialect.POSTGRES, new KnownTables(Map.of(), List.of())).stream()
        .map(statement -> new Written("a.sql", script, statement))
        .toList();
  }

  private static List<String> some(Random random) {
    var texts = new ArrayList<>(TEXTS);
    Collections.shuffle(texts, random);
    return texts.subList(0, 2 + random.nextInt(POOL - 3));
  }

  @Property(tries = 40)
  void one_that_comes_or_goes_changes_no_other(@ForAll @IntRange(max = 100_000) int seed) {
    var random = new Random(seed);
    List<String> few = some(random);
    var more = new ArrayList<>(few);
    String other = TEXTS.stream().filter(text -> !few.contains(text)).findFirst().orElseThrow();
    more.add(random.nextInt(few.size() + 1), other);

    Pairing came = Pairing.of(written(few), written(more));
    assertThat(came.added()).extracting(one -> one.own().strip()).containsExactly(other);
    assertThat(came.edited()).isEmpty();
    assertThat(came.moved()).isEmpty();
    assertThat(came.gone()).isEmpty();

    Pairing went = Pairing.of(written(more), written(few));
    assertThat(went.gone()).extracting(one -> one.own().strip()).containsExactly(other);
    assertThat(went.edited()).isEmpty();
    assertThat(went.moved()).isEmpty();
    assertThat(went.added()).isEmpty();
  }

  @Property(tries = 40)
  void another_order_is_seen_and_nothing_else(@ForAll @IntRange(max = 100_000) int seed) {
    var random = new Random(seed);
    List<String> before = some(random);
    var after = new ArrayList<>(before);
    Collections.rotate(after, 1 + random.nextInt(before.size() - 1));
    Pairing pairs = Pairing.of(written(before), written(after));
    assertThat(pairs.moved()).isNotEmpty();
    assertThat(pairs.edited()).isEmpty();
    assertThat(pairs.gone()).isEmpty();
    assertThat(pairs.added()).isEmpty();
  }

  @Property(tries = 60)
  void every_statement_is_in_one_pair_or_alone(@ForAll @IntRange(max = 100_000) int seed) {
    var random = new Random(seed);
    List<Written> before = written(some(random));
    List<Written> after = written(some(random));
    Pairing pairs = Pairing.of(before, after);

    List<Written> old =
        Stream.concat(pairs.edited().stream().map(Pairing.Pair::before), pairs.gone().stream())
            .toList();
    List<Written> fresh =
        Stream.of(
                pairs.edited().stream().map(Pairing.Pair::after),
                pairs.added().stream(),
                pairs.moved().stream())
            .flatMap(all -> all)
            .toList();
    assertThat(new HashSet<>(old)).hasSameSizeAs(old);
    assertThat(new HashSet<>(fresh)).hasSameSizeAs(fresh);
    assertThat(before).containsAll(old);
    assertThat(after).containsAll(fresh);
    // What neither list names is there on both sides, word for word.
    int kept = after.size() - fresh.size();
    assertThat(before.size() - old.size() - pairs.moved().size()).isEqualTo(kept);
    var texts = before.stream().map(Written::own).collect(Collectors.toSet());
    after.stream()
        .filter(one -> !fresh.contains(one))
        .forEach(one -> assertThat(texts).contains(one.own()));
    // Neither side has any left over that the other could have been paired with.
    assertThat(pairs.gone().isEmpty() || pairs.added().isEmpty()).isTrue();
  }
}
