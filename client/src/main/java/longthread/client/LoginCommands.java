package longthread.client;

import java.io.BufferedReader;
import java.io.Console;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.Session;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Keeping a key for an address, and forgetting it. */
final class LoginCommands {
  private LoginCommands() {}

  @Command(
      name = "login",
      description = "Keep a key for the address of a service.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "The key is asked for, or read from standard input, and tried before it is kept.",
        "It is sent to this address only.",
        "",
        "Example:",
        "  longthread login https://catalog.example:8443 < key.txt"
      })
  static final class Login implements Callable<Integer> {
    @Spec private CommandSpec spec = CommandSpec.create();

    @Parameters(paramLabel = "URL", description = "Address of the service.")
    private String url = "";

    @Option(
        names = "--token",
        paramLabel = "KEY",
        description = "The key; better typed or piped, as others may see a command's words.")
    private @Nullable String token;

    @Override
    public Integer call() {
      String address = Logins.spelled(url);
      String key = (token != null ? token : asked()).strip();
      if (key.isEmpty()) {
        throw new ServiceException(
            ServiceException.WRONG_USAGE, "no key was given; nothing is kept");
      }
      Session session =
          new ServiceClient(address, key).get("/api/v1/session", Map.of(), Session.class).value();
      if (!session.signedIn()) {
        throw new ServiceException(
            ServiceException.REFUSED, address + " does not know this key; nothing is kept");
      }
      Logins.of(Main.environment()).keep(address, key);
      spec.commandLine()
          .getOut()
          .println(
              "logged in to " + address + " as " + session.name() + " (" + session.role() + ")");
      return 0;
    }

    private static String asked() {
      Console console = System.console();
      if (console != null) {
        char[] typed = console.readPassword("key: ");
        return typed == null ? "" : new String(typed);
      }
      try {
        String line =
            new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8)).readLine();
        return line == null ? "" : line;
      } catch (IOException e) {
        throw new ServiceException(
            ServiceException.WRONG_USAGE, "the key cannot be read: " + FileWords.why(e));
      }
    }
  }

  @Command(
      name = "logout",
      description = "Forget the key kept for an address.",
      mixinStandardHelpOptions = true)
  static final class Logout implements Callable<Integer> {
    @Spec private CommandSpec spec = CommandSpec.create();

    @Parameters(paramLabel = "URL", description = "Address of the service.")
    private String url = "";

    @Override
    public Integer call() {
      if (!Logins.of(Main.environment()).forget(url)) {
        throw new ServiceException(
            ServiceException.NOT_FOUND, "no key is kept for " + Logins.spelled(url));
      }
      spec.commandLine().getOut().println("forgot the key for " + Logins.spelled(url));
      return 0;
    }
  }
}
