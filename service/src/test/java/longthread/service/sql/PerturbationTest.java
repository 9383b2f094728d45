package longthread.service.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.IntStream;
import longthread.core.sql.Dialect;
import longthread.core.sql.SqlReader;
import longthread.core.sql.SqlStatement;
import longthread.service.sql.Perturbation.Outcome;
import longthread.service.testing.TestPostgres;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** What is read out of SQL, against a real database whose columns are changed one at a time. */
class PerturbationTest {
  private static final int GENERATED = Integer.getInteger("longthread.queries", 300);

  /** A written query is never given up on; of the generated ones some join far too much. */
  private static final int WRITTEN_MILLIS = 20_000;

  private static final int GENERATED_MILLIS = 400;
  private static final int WRITES = 60;
  private static final long SEED = Long.getLong("longthread.seed", 20_261_031L);

  /** How PostgreSQL says that a statement was given up: too many rows came together by chance. */
  private static final String TOO_LONG = "57014";

  /** The first characters of its codes for values that cannot be computed. */
  private static final String OUT_OF_RANGE = "22";

  /** Golden cases that PostgreSQL does not take, or whose answer changes from run to run. */
  private static final Set<String> NOT_HERE =
      Set.of(
          "qualify",
          "parameters are constants",
          "functions without columns are constants",
          "the moment of the run is a constant",
          "an unknown column is reported",
          "tablesample",
          "json operators",
          "json elements",
          "interval arithmetic with a column",
          "recursive cte");

  private static Dairy dairy;
  private static SqlReader reader;

  @BeforeAll
  static void start() throws SQLException {
    dairy = new Dairy(new TestPostgres(), 7);
    reader = new SqlReader();
  }

  @AfterAll
  static void stop() {
    reader.close();
    dairy.close();
  }

  private static List<String> goldenQueries() throws IOException {
    var queries = new ArrayList<String>();
    for (String file : List.of("expressions", "from", "aggregates", "sets")) {
      for (String one : resource("/sql/" + file + ".txt").split("(?m)^== ")) {
        int title = one.indexOf('\n');
        int answer = one.indexOf("\n=>\n");
        if (answer > 0
            && !NOT_HERE.contains(one.substring(0, title).strip())
            && !one.substring(answer).contains("elsewhere")
            && !one.substring(answer).matches("(?s).*reads: .*\\b(x|core\\.farm_x|a, b)\\b.*")) {
          queries.add(one.substring(title + 1, answer).strip());
        }
      }
    }
    return queries;
  }

  private static List<String> analytics() throws IOException {
    var queries = new ArrayList<String>();
    for (String one : resource("/sql/analytics.sql").split(";\\s*\n")) {
      if (!one.isBlank()) {
        queries.add(one.strip());
      }
    }
    return queries;
  }

  private static String resource(String path) throws IOException {
    try (InputStream in =
        Objects.requireNonNull(PerturbationTest.class.getResourceAsStream(path), path)) {
      return new String(in.readAllBytes(), StandardCharsets.UTF_8);
    }
  }

  /** Runs queries on several connections; says what came of each. */
  private static List<Outcome> all(List<String> queries, int millis) {
    var perturbation = new Perturbation(dairy, reader, millis);
    var outcomes = new ConcurrentLinkedQueue<Outcome>();
    var next = new AtomicInteger();
    IntStream.range(0, 3)
        .parallel()
        .forEach(
            worker -> {
              try (Connection connection = dairy.connect()) {
                for (int i = next.getAndIncrement();
                    i < queries.size();
                    i = next.getAndIncrement()) {
                  one(perturbation, connection, queries.get(i)).ifPresent(outcomes::add);
                }
              } catch (SQLException e) {
                throw new IllegalStateException(e);
              }
            });
    return List.copyOf(outcomes);
  }

  private static Optional<Outcome> one(
      Perturbation perturbation, Connection connection, String query) {
    try {
      return Optional.of(perturbation.of(connection, query));
    } catch (SQLException e) {
      boolean byChance =
          TOO_LONG.equals(e.getSQLState()) || e.getSQLState().startsWith(OUT_OF_RANGE);
      if (!byChance) {
        System.out.println("not taken by the database: " + e.getMessage() + "\n    " + query);
      }
      return Optional.empty();
    }
  }

  private static void holds(String name, List<Outcome> outcomes, double mostRefuted) {
    int observed = outcomes.stream().mapToInt(Outcome::observed).sum();
    int claims = outcomes.stream().mapToInt(Outcome::claims).sum();
    int refuted = outcomes.stream().mapToInt(o -> o.refuted().size()).sum();
    long empty = outcomes.stream().filter(Outcome::empty).count();
    System.out.printf(
        "%s: %d queries (%d yield nothing), %d observed dependences, %d claims, %.1f %% never"
            + " observed%n",
        name, outcomes.size(), empty, observed, claims, 100.0 * refuted / claims);
    if (Boolean.getBoolean("longthread.refuted")) {
      outcomes.stream()
          .filter(o -> !o.refuted().isEmpty())
          .forEach(o -> System.out.println(o.refuted() + "\n    " + o.query()));
    }
    assertThat(outcomes.stream().filter(o -> !o.missing().isEmpty()).map(Outcome::brief))
        .as("observed and not claimed")
        .isEmpty();
    assertThat(outcomes.stream().filter(o -> !o.claimed().complete()).map(Outcome::brief))
        .as("not understood in full")
        .isEmpty();
    assertThat((double) refuted / claims).as("claims never observed").isLessThan(mostRefuted);
  }

  @Test
  void every_dependence_of_the_small_statements_is_claimed() throws IOException {
    List<String> queries = goldenQueries();
    List<Outcome> outcomes = all(queries, WRITTEN_MILLIS);
    assertThat(outcomes).hasSizeGreaterThan(queries.size() * 95 / 100);
    holds("small statements", outcomes, 0.1);
  }

  @Test
  void every_dependence_of_the_analyses_is_claimed() throws IOException {
    List<String> queries = analytics();
    List<Outcome> outcomes = all(queries, WRITTEN_MILLIS);
    assertThat(outcomes.stream().map(Outcome::query)).containsExactlyInAnyOrderElementsOf(queries);
    holds("analyses", outcomes, 0.25);
  }

  @Test
  void every_dependence_of_generated_queries_is_claimed() throws SQLException {
    List<String> queries =
        IntStream.range(0, GENERATED).mapToObj(i -> RandomQuery.of(new Choices(SEED + i))).toList();
    List<Outcome> outcomes = all(queries, GENERATED_MILLIS);
    for (int i = 0; i < GENERATED; i++) {
      String query = queries.get(i);
      boolean failed =
          outcomes.stream().anyMatch(o -> o.query().equals(query) && !o.missing().isEmpty());
      if (failed) {
        throw new AssertionError("not claimed: " + smallest(SEED + i));
      }
    }
    assertThat(outcomes).hasSizeGreaterThan(GENERATED * 8 / 10);
    holds("generated queries", outcomes, 0.5);
  }

  @Test
  void every_dependence_of_generated_writes_is_claimed() throws SQLException {
    var perturbation = new Perturbation(dairy, reader, WRITTEN_MILLIS);
    int done = 0;
    try (Connection connection = dairy.connect()) {
      for (int i = 0; i < WRITES; i++) {
        String script = RandomWrite.of(new Choices(SEED + i));
        assertThat(perturbation.missingOfWrite(connection, script, RandomWrite.TARGET))
            .as(script)
            .isEmpty();
        assertThat(reader.read(script, Dialect.POSTGRES, Dairy.known()))
            .as(script)
            .allMatch(SqlStatement::complete);
        done++;
      }
    }
    assertThat(done).isEqualTo(WRITES);
  }

  private static String smallest(long seed) throws SQLException {
    var failing = new Choices(seed);
    RandomQuery.of(failing);
    var perturbation = new Perturbation(dairy, reader, GENERATED_MILLIS);
    try (Connection connection = dairy.connect()) {
      Choices small =
          Choices.shrunk(
              failing,
              choices -> {
                try {
                  return !perturbation.of(connection, RandomQuery.of(choices)).missing().isEmpty();
                } catch (SQLException e) {
                  return false; // no longer valid
                }
              });
      Outcome outcome = perturbation.of(connection, RandomQuery.of(small.again()));
      return outcome.missing() + " in: " + outcome.query();
    }
  }
}
