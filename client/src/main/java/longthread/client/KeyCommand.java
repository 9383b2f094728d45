package longthread.client;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

@Command(
    name = "key",
    description = "Make, list and revoke the bearer keys of programs.",
    mixinStandardHelpOptions = true,
    subcommands = {KeyCommand.Make.class, KeyCommand.ListKeys.class, KeyCommand.Revoke.class},
    footer = {"", "Example:", "  longthread key make orchestrator --role emitter"})
final class KeyCommand implements Runnable {
  @picocli.CommandLine.Spec
  picocli.CommandLine.Model.CommandSpec spec = picocli.CommandLine.Model.CommandSpec.create();

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

    @Option(
        names = "--role",
        required = true,
        paramLabel = "ROLE",
        description = "reader, steward, emitter or admin.")
    private String role = "";

    @Override
    public Integer call() {
      byte[] body = new JsonMapper().writeValueAsBytes(Map.of("name", name, "role", role));
      JsonNode made = service().post("/api/v1/keys", body, "application/json", false);
      if (json) {
        printJson(made);
      } else {
        out().println(text(made.path("token")));
      }
      return 0;
    }
  }

  @Command(
      name = "list",
      description = "List keys, without their tokens.",
      mixinStandardHelpOptions = true)
  static final class ListKeys extends Output implements Callable<Integer> {
    @Override
    public Integer call() {
      JsonNode keys = service().get("/api/v1/keys", Map.of());
      if (json) {
        printJson(keys);
        return 0;
      }
      var table = new Table("NAME", "ROLE", "MADE", "REVOKED");
      for (JsonNode key : keys) {
        table.row(
            text(key.path("name")),
            text(key.path("role")),
            time(key.path("createdAt")),
            time(key.path("revokedAt")));
      }
      print(table);
      return 0;
    }
  }

  @Command(name = "revoke", description = "Revoke a key.", mixinStandardHelpOptions = true)
  static final class Revoke extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "The key's name.")
    private String name = "";

    @Override
    public Integer call() {
      service().delete("/api/v1/keys/" + URLEncoder.encode(name, StandardCharsets.UTF_8));
      return 0;
    }
  }
}
