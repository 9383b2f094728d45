package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.HashMap;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Which key goes to which address. */
class LoginTest extends AgainstServer {
  private static final String KNOWN = "{\"signedIn\":true,\"name\":\"ci\",\"role\":\"reader\"}";

  @TempDir private Path folder;

  /**
   * An environment with a home of this checkout's service at another address, and an empty HOME.
   */
  private Map<String, String> surroundings(String... more) throws IOException {
    Path home = Files.createDirectories(folder.resolve("service"));
    Files.writeString(home.resolve("url"), "http://127.0.0.1:9\n");
    Files.writeString(home.resolve("token"), "lt_home\n");
    var environment = new HashMap<String, String>();
    environment.put("HOME", folder.toString());
    environment.put("LONGTHREAD_HOME", home.toString());
    for (int i = 0; i < more.length; i += 2) {
      environment.put(more[i], more[i + 1]);
    }
    return environment;
  }

  private String keySent(Map<String, String> environment, String... words) {
    asked.clear();
    answer = "{\"hits\":[]}";
    run(environment, words);
    assertThat(asked).hasSize(1);
    return String.valueOf(asked.get(0).key());
  }

  @Test
  void the_key_of_a_home_goes_to_its_own_address_only() throws IOException {
    assertThat(keySent(surroundings(), "find", "x", "--url", url())).isEqualTo("null");
    assertThat(keySent(surroundings("LONGTHREAD_URL", url()), "find", "x")).isEqualTo("null");
    Map<String, String> own = surroundings();
    Files.writeString(Path.of(own.get("LONGTHREAD_HOME"), "url"), url() + "/");
    assertThat(keySent(own, "find", "x")).isEqualTo("Bearer lt_home");
    assertThat(keySent(own, "find", "x", "--url", url().replace("127.0.0.1", "LOCALHOST")))
        .isEqualTo("Bearer lt_home");
    assertThat(keySent(surroundings(), "find", "x", "--url", url(), "--token", "given"))
        .isEqualTo("Bearer given");
  }

  @Test
  void the_key_of_the_environment_goes_to_the_address_beside_it() throws IOException {
    Map<String, String> both =
        surroundings("LONGTHREAD_URL", "http://127.0.0.1:9", "LONGTHREAD_TOKEN", "lt_env");
    assertThat(keySent(both, "find", "x", "--url", url())).isEqualTo("null");
    both.put("LONGTHREAD_URL", url());
    assertThat(keySent(both, "find", "x")).isEqualTo("Bearer lt_env");
    assertThat(keySent(surroundings("LONGTHREAD_TOKEN", "lt_env"), "find", "x", "--url", url()))
        .isEqualTo("Bearer lt_env");
  }

  @Test
  void a_login_is_tried_kept_for_its_address_and_forgotten() throws IOException {
    Map<String, String> user = surroundings("LONGTHREAD_HOME", "");
    answers = Map.of("/api/v1/session", KNOWN);
    Said in = run(user, "login", url(), "--token", "lt_kept");
    assertThat(in.out()).isEqualTo("logged in to " + url() + " as ci (reader)\n");
    Path file = folder.resolve(".config/longthread/logins.json");
    assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(file)))
        .isEqualTo("rw-------");
    assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(file.getParent())))
        .isEqualTo("rwx------");
    assertThat(keySent(user, "find", "x")).as("the only login").isEqualTo("Bearer lt_kept");
    assertThat(keySent(user, "find", "x", "--url", url() + "/")).isEqualTo("Bearer lt_kept");
    assertThat(run(user, "login", "http://127.0.0.1:9", "--token", "k").code()).isEqualTo(5);
    assertThat(run(user, "logout", url()).code()).isZero();
    assertThat(run(user, "logout", url()).code()).isEqualTo(3);
    assertThat(run(user, "find", "x").code()).isEqualTo(5);
    assertThat(keySent(user, "find", "x", "--url", url())).isEqualTo("null");
  }

  @Test
  void a_key_that_the_service_does_not_know_is_not_kept() throws IOException {
    answers = Map.of("/api/v1/session", "{\"signedIn\":false}");
    Said said = run(surroundings(), "login", url(), "--token", "lt_wrong");
    assertThat(said.code()).isEqualTo(4);
    assertThat(said.err()).contains("does not know this key");
    assertThat(folder.resolve(".config/longthread/logins.json")).doesNotExist();
  }

  @Test
  void a_broken_file_of_logins_is_named_and_left_alone() throws IOException {
    Path file = folder.resolve(".config/longthread/logins.json");
    Files.createDirectories(file.getParent());
    Files.writeString(file, "{");
    answers = Map.of("/api/v1/session", KNOWN);
    Said said = run(surroundings(), "login", url(), "--token", "lt_kept");
    assertThat(said.code()).isEqualTo(2);
    assertThat(said.err()).contains("logins.json");
    assertThat(Files.readString(file)).isEqualTo("{");
  }

  @ParameterizedTest
  @CsvSource({
    "HTTP://Host.example, http://host.example:80",
    "https://host.example/, https://host.example:443",
    "http://localhost:8080//, http://127.0.0.1:8080",
    "http://host.example/catalog/, http://host.example:80/catalog",
  })
  void an_address_has_one_spelling(String given, String spelled) {
    assertThat(Logins.spelled(given)).isEqualTo(spelled);
  }

  @ParameterizedTest
  @CsvSource({"host:80", "ftp://host", "http://", "'http://a b'", "''"})
  void what_is_no_address_is_wrong_usage(String given) throws IOException {
    Said said = run(surroundings(), "login", given, "--token", "k");
    assertThat(said.code()).isEqualTo(2);
    assertThat(said.err()).contains("is not an address");
  }
}
