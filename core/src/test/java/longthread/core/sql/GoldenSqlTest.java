package longthread.core.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.DynamicContainer;
import org.junit.jupiter.api.DynamicNode;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.TestFactory;

/**
 * Every construct against an answer that was worked out by hand. A file begins with the tables it
 * stands on; a case has a title, statements, and behind {@code =>} the answer.
 */
class GoldenSqlTest {
  private static final SqlReader READER = new SqlReader();

  @AfterAll
  static void close() {
    READER.close();
  }

  /** A case of a golden file. */
  record Case(String title, String sql, String answer) {}

  /** A golden file. */
  record Golden(String name, Dialect dialect, KnownTables tables, List<Case> cases) {
    static Golden read(Path file) {
      try {
        String text = Files.readString(file, StandardCharsets.UTF_8);
        String[] parts = text.split("(?m)^== ", -1);
        Dialect dialect = Dialect.POSTGRES;
        var tables = new StringBuilder();
        for (String line : parts[0].split("\n")) {
          if (line.startsWith("dialect: ")) {
            dialect = Dialect.of(line.substring(9)).orElseThrow();
          } else if (line.startsWith("tables: ")) {
            tables.append(line.substring(8)).append(';');
          }
        }
        var cases = new ArrayList<Case>();
        for (int i = 1; i < parts.length; i++) {
          int title = parts[i].indexOf('\n');
          int answer = parts[i].indexOf("\n=>\n");
          cases.add(
              new Case(
                  parts[i].substring(0, title).strip(),
                  parts[i].substring(title + 1, answer).strip(),
                  parts[i].substring(answer + 4).strip()));
        }
        String name = file.getFileName().toString();
        return new Golden(name, dialect, StatementText.tables(tables.toString()), cases);
      } catch (IOException e) {
        throw new UncheckedIOException(e);
      }
    }

    String answer(Case one) {
      return StatementText.of(READER.read(one.sql(), dialect, tables)).strip();
    }
  }

  static List<Golden> all() throws IOException {
    var folder = Path.of(Objects.requireNonNull(GoldenSqlTest.class.getResource("/sql")).getPath());
    try (Stream<Path> files = Files.list(folder)) {
      return files
          .filter(file -> file.toString().endsWith(".txt"))
          .sorted()
          .map(Golden::read)
          .toList();
    }
  }

  @TestFactory
  Stream<DynamicNode> every_construct_has_the_answer_worked_out_by_hand() throws IOException {
    return all().stream()
        .map(
            golden ->
                DynamicContainer.dynamicContainer(
                    golden.name(),
                    golden.cases().stream()
                        .map(
                            one ->
                                DynamicTest.dynamicTest(
                                    one.title(),
                                    () ->
                                        assertThat(golden.answer(one))
                                            .as(one.sql())
                                            .isEqualTo(one.answer())))));
  }
}
