package longthread.client;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import longthread.client.answers.Key;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "key",
    description = "Make, list and revoke the bearer keys of programs.",
    mixinStandardHelpOptions = true,
    subcommands = {KeyCommand.Make.class, KeyCommand.ListKeys.class, KeyCommand.Revoke.class},
    footer = {"", "Example:", "  longthread key make orchestrator --role emitter"})
final class KeyCommand implements Runnable {
  @Spec CommandSpec spec = CommandSpec.create();

  @Override
  public void run() {
    spec.commandLine().usage(spec.commandLine().getOut());
  }

  @Command(
      name = "make",
      description = "Make a key; its token is shown this once.",
      mixinStandardHelpOptions = true)
  static final class Make extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "What the key is for.")
    private String name = "";

    @Mixin private final RoleOption role = new RoleOption();

    @Option(
        names = "--until",
        paramLabel = "DATE",
        description = "When it ends by itself, such as 2031-05-31; never without it.")
    private @Nullable String until;

    @Override
    public Integer call() {
      var wanted = new TreeMap<String, @Nullable Object>();
      wanted.put("name", name);
      wanted.put("role", role.role());
      wanted.put("expiresAt", Json.until(until));
      var reply = service().post("/api/v1/keys", wanted, Key.class);
      if (json) {
        printJson(reply.json());
      } else {
        out().println(text(reply.value().token()));
      }
      return 0;
    }
  }

  @Command(
      name = "list",
      description = "List keys, without their tokens.",
      mixinStandardHelpOptions = true)
  static final class ListKeys extends ListOutput implements Callable<Integer> {
    @Override
    public Integer call() {
      var reply = service().list("/api/v1/keys?limit=" + paging.orElse(1_000), Key.class);
      if (json) {
        printJson(reply.json());
        return 0;
      }
      printList(
          List.of("ID", "NAME", "ROLE", "MADE", "LAST USED", "ENDS", "REVOKED"),
          reply.value().stream()
              .map(
                  key ->
                      List.of(
                          String.valueOf(key.id()),
                          key.name(),
                          key.role(),
                          time(key.createdAt()),
                          time(key.lastUsedAt()),
                          time(key.expiresAt()),
                          time(key.revokedAt())))
              .toList());
      return 0;
    }
  }

  @Command(name = "revoke", description = "Revoke a key.", mixinStandardHelpOptions = true)
  static final class Revoke extends Output implements Callable<Integer> {
    /** A key by its name, or by its number. */
    static final class Which {
      @Parameters(paramLabel = "NAME", description = "The key's name.")
      private @Nullable String name;

      @Option(
          names = "--id",
          paramLabel = "N",
          description = "The key's id in the list, for a name that cannot be typed.")
      private @Nullable Long id;
    }

    @ArgGroup(multiplicity = "1")
    private Which which = new Which();

    @Override
    public Integer call() {
      service()
          .delete(
              which.id != null
                  ? "/api/v1/keys?id=" + which.id
                  : "/api/v1/keys/"
                      + URLEncoder.encode(which.name, StandardCharsets.UTF_8).replace("+", "%20"));
      return 0;
    }
  }
}
