package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URISyntaxException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.List;
import java.util.TimeZone;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * What the commands print of whole answers, as recorded from the demo world: each {@code .json} has
 * a command and the service's answers to it, the {@code .txt} beside it the text. After a change
 * that is meant, {@code -Dlongthread.golden=write} writes the texts; read them before committing.
 */
class PrintedAnswersTest extends AgainstServer {
  private static final JsonMapper JSON = new JsonMapper();
  private static final TimeZone HERE = TimeZone.getDefault();

  @BeforeAll
  static void liveInUtc() {
    TimeZone.setDefault(TimeZone.getTimeZone("UTC"));
  }

  @AfterAll
  static void liveAtHome() {
    TimeZone.setDefault(HERE);
  }

  static Stream<String> recordings() throws IOException, URISyntaxException {
    try (Stream<Path> files = Files.list(folder())) {
      return files
          .map(file -> file.getFileName().toString())
          .filter(name -> name.endsWith(".json"))
          .map(name -> name.substring(0, name.length() - ".json".length()))
          .sorted()
          .toList()
          .stream();
    }
  }

  private static Path folder() throws URISyntaxException {
    return Path.of(PrintedAnswersTest.class.getResource("/answers").toURI());
  }

  @ParameterizedTest
  @MethodSource("recordings")
  void a_whole_answer_is_printed(String name) throws IOException, URISyntaxException {
    JsonNode recorded = JSON.readTree(Files.readString(folder().resolve(name + ".json")));
    var byPath = new HashMap<String, String>();
    recorded
        .path("answers")
        .properties()
        .forEach(entry -> byPath.put(entry.getKey(), entry.getValue().toString()));
    answers = byPath;
    String[] words =
        recorded.path("command").valueStream().map(JsonNode::stringValue).toArray(String[]::new);
    Said said = run(words);
    assertThat(said.code()).as(said.err()).isZero();
    if ("write".equals(System.getProperty("longthread.golden"))) {
      Files.writeString(Path.of("src/test/resources/answers", name + ".txt"), said.out());
    }
    assertThat(said.out()).isEqualTo(Files.readString(folder().resolve(name + ".txt")));
    assertThat(lines(said)).noneMatch(line -> line.endsWith(" "));
  }

  /** No line ends in spaces: such a line breaks when it is copied from a terminal. */
  private static List<String> lines(Said said) {
    return said.out().lines().toList();
  }
}
