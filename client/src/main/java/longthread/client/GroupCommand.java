package longthread.client;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.Group;
import longthread.client.answers.GroupList;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;
import tools.jackson.databind.JsonNode;

@Command(
    name = "group",
    description = "Make groups of people, which hold grants together.",
    mixinStandardHelpOptions = true,
    subcommands = {
      GroupCommand.ListGroups.class,
      GroupCommand.Make.class,
      GroupCommand.Add.class,
      GroupCommand.Remove.class,
      GroupCommand.Delete.class
    },
    footer = {
      "",
      "A group that is named like one of your sign-in provider has its members too.",
      "",
      "Example:",
      "  longthread group make payments --called 'Payout office'",
      "  longthread group add payments ida"
    })
final class GroupCommand implements Runnable {
  private static final String PATH = "/api/v1/groups";
  private static final List<String> HEADING =
      List.of("NAME", "CALLED", "MEMBERS", "FROM THE PROVIDER");

  @Spec CommandSpec spec = CommandSpec.create();

  @Override
  public void run() {
    spec.commandLine().usage(spec.commandLine().getOut());
  }

  /** What the subcommands about one group share. */
  abstract static class OfOne extends Output implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "GROUP", description = "The group's name.")
    String group = "";

    int print(JsonNode answer) {
      if (json) {
        printJson(answer);
      } else {
        Group changed = ServiceClient.MAPPER.treeToValue(answer, Group.class);
        var table = new Table(HEADING.toArray(String[]::new));
        table.row(row(changed).toArray(String[]::new));
        print(table);
      }
      return 0;
    }
  }

  private static List<String> row(Group group) {
    return List.of(
        group.name(),
        group.title(),
        Output.joined(group.members()),
        Output.joined(group.fromProvider()));
  }

  @Command(
      name = "list",
      description = "List groups and who is in them.",
      mixinStandardHelpOptions = true)
  static final class ListGroups extends ListOutput implements Callable<Integer> {
    @Override
    public Integer call() {
      var reply = service().get(PATH, Map.of("limit", paging.orElse(1_000)), GroupList.class);
      if (json) {
        printJson(reply.json());
      } else if (reply.value().items().isEmpty() && !csv) {
        note("there are no groups; longthread group make makes one");
      } else {
        printList(HEADING, reply.value().items().stream().map(GroupCommand::row).toList());
      }
      return 0;
    }
  }

  @Command(
      name = "make",
      description = "Make a group, or give one another title.",
      mixinStandardHelpOptions = true)
  static final class Make extends OfOne {
    @Option(names = "--called", paramLabel = "TEXT", description = "What people call it.")
    private @Nullable String called;

    @Override
    public Integer call() {
      var wanted = new LinkedHashMap<String, @Nullable Object>();
      wanted.put("name", group);
      wanted.put("title", called);
      return print(service().change("PUT", PATH, Map.of(), wanted));
    }
  }

  @Command(
      name = "add",
      description = "Put an account into a group.",
      mixinStandardHelpOptions = true)
  static final class Add extends OfOne {
    @Parameters(index = "1", paramLabel = "ACCOUNT", description = "The account of a person.")
    private String account = "";

    @Override
    public Integer call() {
      Map<String, String> member = Map.of("group", group, "account", account);
      return print(service().change("PUT", PATH + "/members", Map.of(), member));
    }
  }

  @Command(
      name = "remove",
      description = "Take an account out of a group.",
      mixinStandardHelpOptions = true)
  static final class Remove extends OfOne {
    @Parameters(index = "1", paramLabel = "ACCOUNT", description = "The account of a person.")
    private String account = "";

    @Override
    public Integer call() {
      service().delete(PATH + "/members", Map.of("group", group, "account", account));
      return 0;
    }
  }

  @Command(
      name = "delete",
      description = "Delete a group with what it holds.",
      mixinStandardHelpOptions = true)
  static final class Delete extends OfOne {
    @Override
    public Integer call() {
      service().delete(PATH, Map.of("name", group));
      return 0;
    }
  }
}
