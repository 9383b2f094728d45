package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class ExportCommandTest extends AgainstServer {
  @TempDir Path folder;

  @Test
  void a_part_is_printed_or_written_to_a_file() throws IOException {
    answer = "digraph lineage {}\n";
    Said said =
        run(
            "export",
            "core.farm",
            "--as",
            "dot",
            "--detail",
            "assets",
            "--hops",
            "2",
            "--as-of",
            "2031-05-31");
    assertThat(said.out()).isEqualTo("digraph lineage {}\n");
    assertThat(asked.get(0).line())
        .startsWith("GET /api/v1/export?")
        .contains("as=dot", "detail=assets", "hops=2", "asOf=2031-05-31T23%3A59%3A59Z");
    Path file = folder.resolve("farm.dot");
    Said written = run("export", "core.farm", "--as", "dot", "--to", file.toString());
    assertThat(written.out()).isEmpty();
    assertThat(Files.readString(file)).isEqualTo("digraph lineage {}\n");
  }

  @Test
  void what_cannot_be_right_is_wrong_usage_and_asks_nothing() {
    assertThat(run("export", "core.farm", "--as", "pdf").code()).isEqualTo(2);
    assertThat(run("export", "core.farm").code()).isEqualTo(2);
    assertThat(run("export", "core.farm", "--as", "csv", "--direction", "up").code()).isEqualTo(2);
    assertThat(asked).isEmpty();
    answer = "x";
    Said nowhere = run("export", "core.farm", "--as", "csv", "--to", "/nowhere/at/all.csv");
    assertThat(nowhere.code()).isEqualTo(2);
    assertThat(nowhere.err()).contains("Cannot write /nowhere/at/all.csv");
  }

  @Test
  void past_moments_can_be_asked_for() {
    answer = "{\"from\":\"a\",\"to\":\"b\",\"basis\":\"values\",\"hops\":[]}";
    run("thread", "a", "b", "--as-of", "2031-05-31T10:00:00Z");
    assertThat(asked.get(0).line()).contains("asOf=2031-05-31T10%3A00%3A00Z");
    answer = "{\"nodes\":[],\"links\":[]}";
    run("upstream", "a", "--as-of", "2031-05-31");
    assertThat(asked.get(1).line()).contains("asOf=2031-05-31T23%3A59%3A59Z");
  }
}
