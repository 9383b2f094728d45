package longthread.client;

import java.io.BufferedReader;
import java.io.Console;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Spec;

/**
 * A password from a file, else asked for at the terminal: on the command line other users of the
 * machine could read it.
 */
final class PasswordOption {
  @Spec(Spec.Target.MIXEE)
  private CommandSpec spec = CommandSpec.create();

  @Option(
      names = "--password-file",
      paramLabel = "FILE",
      description = "Take the password from the first line of a file, or - for standard input.")
  private @Nullable Path file;

  /** The password of an account. */
  String of(String account) {
    if (file != null) {
      try {
        return firstLine(file);
      } catch (IOException e) {
        throw new ParameterException(
            spec.commandLine(), "The password file " + file + " cannot be read");
      }
    }
    Console console = System.console();
    char[] typed = console == null ? null : console.readPassword("Password for %s: ", account);
    if (typed == null) {
      throw new ParameterException(
          spec.commandLine(),
          "There is no terminal to type the password at; give it with --password-file FILE,"
              + " or - for standard input");
    }
    return new String(typed);
  }

  private static String firstLine(Path file) throws IOException {
    if (!file.toString().equals("-")) {
      List<String> lines = Files.readAllLines(file);
      return lines.isEmpty() ? "" : lines.get(0);
    }
    var in = new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8));
    String line = in.readLine();
    return line == null ? "" : line;
  }
}
