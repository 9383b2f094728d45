package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class AccountCommandTest extends AgainstServer {
  @TempDir Path folder;

  @Test
  void accounts_are_made_with_a_password_from_a_file_and_listed() throws IOException {
    Path file = Files.writeString(folder.resolve("p"), "a long password\nrest");
    answer = "{\"name\":\"ada\",\"displayName\":\"Ada\",\"role\":\"reader\"}";
    Said made =
        run("account", "make", "ada", "--role", "reader", "--password-file", file.toString());
    assertThat(made.code()).isZero();
    assertThat(asked.get(0).line()).isEqualTo("POST /api/v1/accounts");
    assertThat(asked.get(0).body()).contains("\"password\":\"a long password\"");
    answer =
        "{\"items\":[{\"name\":\"ada\",\"displayName\":\"Ada\",\"role\":\"reader\","
            + "\"disabledAt\":\"2026-05-01T00:00:00Z\"}],\"total\":1}";
    assertThat(run("account", "list").out()).contains("ada", "Ada", "reader", "2026-05-01");
  }

  @Test
  void an_account_is_changed_disabled_enabled_and_deleted_by_its_name() {
    answer = "{\"name\":\"a/b\",\"displayName\":\"A\",\"role\":\"reader\"}";
    run("account", "change", "a/b", "--role", "steward");
    run("account", "disable", "a/b");
    run("account", "enable", "a/b");
    run("account", "delete", "a/b");
    assertThat(asked)
        .extracting(AgainstServer.Asked::line)
        .containsExactly(
            "PATCH /api/v1/accounts?name=a%2Fb",
            "PATCH /api/v1/accounts?name=a%2Fb",
            "PATCH /api/v1/accounts?name=a%2Fb",
            "DELETE /api/v1/accounts?name=a%2Fb");
    assertThat(asked.get(0).body()).isEqualTo("{\"role\":\"steward\"}");
    assertThat(asked.get(1).body()).isEqualTo("{\"disabled\":true}");
  }

  @Test
  void what_cannot_be_right_is_wrong_usage_and_asks_nothing() {
    assertThat(run("account", "change", "ada").code()).isEqualTo(2);
    assertThat(run("account", "change", "ada", "--role", "king").code()).isEqualTo(2);
    Said noFile = run("account", "password", "ada", "--password-file", "/nowhere/at/all");
    assertThat(noFile.code()).isEqualTo(2);
    assertThat(noFile.err()).contains("/nowhere/at/all");
    assertThat(run("account", "password", "ada").err()).contains("--password-file");
    assertThat(asked).isEmpty();
  }
}
