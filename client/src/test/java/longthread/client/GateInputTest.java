package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class GateInputTest {
  @Test
  void folders_give_their_sql_files_by_path(@TempDir Path folder) throws Exception {
    Path before = Files.createDirectories(folder.resolve("before"));
    Path after = Files.createDirectories(folder.resolve("after").resolve("deep"));
    Files.writeString(before.resolve("a.sql"), "select 1");
    Files.writeString(before.resolve("readme.md"), "no SQL");
    Files.writeString(after.resolve("b.DDL"), "create table t (a int)");
    GateInput.Versions found = GateInput.of(before, folder.resolve("after"));
    assertThat(found.before()).containsOnlyKeys("a.sql");
    assertThat(found.after()).containsOnlyKeys("deep/b.DDL");
  }

  @Test
  void two_files_are_two_versions_of_one(@TempDir Path folder) throws Exception {
    Path before = Files.writeString(folder.resolve("old.sql"), "select 1");
    Path after = Files.writeString(folder.resolve("new.sql"), "select 2");
    GateInput.Versions found = GateInput.of(before, after);
    assertThat(found.before().keySet()).isEqualTo(found.after().keySet());
    assertThatThrownBy(() -> GateInput.of(before, folder)).hasMessageContaining("two folders");
    assertThatThrownBy(() -> GateInput.of(folder.resolve("none"), after))
        .hasMessageContaining("there is no file");
  }

  private static void git(Path where, String... words) throws Exception {
    var command =
        new java.util.ArrayList<>(List.of("git", "-c", "user.name=t", "-c", "user.email=t@t"));
    command.addAll(List.of(words));
    Process process =
        new ProcessBuilder(command).directory(where.toFile()).redirectErrorStream(true).start();
    String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
    assertThat(process.waitFor()).as(said).isZero();
  }

  @Test
  void the_two_ends_of_a_range_of_git_are_read(@TempDir Path folder) throws Exception {
    git(folder, "init", "-q", "-b", "main");
    Files.createDirectories(folder.resolve("sql"));
    Files.writeString(folder.resolve("sql/a b.sql"), "select 'ä'\n");
    Files.writeString(folder.resolve("other.sql"), "select 0");
    git(folder, "add", "-A");
    git(folder, "commit", "-q", "-m", "one");
    git(folder, "checkout", "-q", "-b", "work");
    Files.writeString(folder.resolve("sql/a b.sql"), "select 2");
    Files.writeString(folder.resolve("sql/c.sql"), "");
    git(folder, "add", "-A");
    git(folder, "commit", "-q", "-m", "two");
    GateInput.Versions found = GateInput.ofGit(folder, "main..work", List.of("sql"));
    assertThat(found.before()).isEqualTo(Map.of("sql/a b.sql", "select 'ä'\n"));
    assertThat(found.after()).isEqualTo(Map.of("sql/a b.sql", "select 2", "sql/c.sql", ""));
    assertThat(GateInput.ofGit(folder, "main...work", List.of()).before()).hasSize(2);
    assertThat(GateInput.ofGit(folder, "main", List.of()).after()).hasSize(3);
    for (String wrong : new String[] {"--help", "no-such-branch..work", "..work"}) {
      assertThatThrownBy(() -> GateInput.ofGit(folder, wrong, List.of()))
          .as(wrong)
          .isInstanceOf(GateInput.UnreadableException.class);
    }
  }

  @Test
  void a_file_is_judged_whatever_characters_its_name_has(@TempDir Path folder) throws Exception {
    git(folder, "init", "-q", "-b", "main");
    Files.writeString(folder.resolve("a.sql"), "select 1");
    git(folder, "add", "-A");
    git(folder, "commit", "-q", "-m", "one");
    git(folder, "checkout", "-q", "-b", "work");
    for (String name : new String[] {"line\nbreak.sql", "tab\there.sql", "\"quoted\".sql"}) {
      Files.writeString(folder.resolve(name), "drop table mart.payout");
    }
    git(folder, "add", "-A");
    git(folder, "commit", "-q", "-m", "two");
    GateInput.Versions found = GateInput.ofGit(folder, "main..work", List.of());
    assertThat(found.after()).hasSize(4).containsKey("line\nbreak.sql");
    assertThat(found.after().get("line\nbreak.sql")).startsWith("drop table");
  }
}
