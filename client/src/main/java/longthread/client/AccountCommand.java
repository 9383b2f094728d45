package longthread.client;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.Account;
import longthread.client.answers.AccountList;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "account",
    description = "Make, list, change, disable and delete the accounts of people.",
    mixinStandardHelpOptions = true,
    subcommands = {
      AccountCommand.ListAccounts.class,
      AccountCommand.Make.class,
      AccountCommand.Change.class,
      AccountCommand.Disable.class,
      AccountCommand.Enable.class,
      AccountCommand.Password.class,
      AccountCommand.Delete.class
    },
    footer = {
      "",
      "Example:",
      "  longthread account make ada --role reader --password-file ada.txt"
    })
final class AccountCommand implements Runnable {
  private static final String PATH = "/api/v1/accounts";

  @Spec CommandSpec spec = CommandSpec.create();

  @Override
  public void run() {
    spec.commandLine().usage(spec.commandLine().getOut());
  }

  /** What the subcommands about one account share. */
  abstract static class OfOne extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "The account's name.")
    String name = "";

    Map<String, String> which() {
      return Map.of("name", name);
    }

    int changed(Map<String, ?> change) {
      var answer = service().change("PATCH", PATH, which(), change);
      if (json) {
        printJson(answer);
      } else {
        print(table(ServiceClient.MAPPER.treeToValue(answer, Account.class)));
      }
      return 0;
    }
  }

  private static final List<String> HEADING =
      List.of("NAME", "CALLED", "ROLE", "MADE", "LAST SIGN-IN", "DISABLED");

  private static List<String> row(Account account) {
    return List.of(
        account.name(),
        account.displayName(),
        account.role(),
        Output.time(account.createdAt()),
        Output.time(account.lastSignInAt()),
        Output.time(account.disabledAt()));
  }

  private static Table table(Account account) {
    var table = new Table(HEADING.toArray(String[]::new));
    table.row(row(account).toArray(String[]::new));
    return table;
  }

  @Command(name = "list", description = "List accounts.", mixinStandardHelpOptions = true)
  static final class ListAccounts extends ListOutput implements Callable<Integer> {
    @Override
    public Integer call() {
      var reply = service().get(PATH, Map.of("limit", paging.orElse(1_000)), AccountList.class);
      if (json) {
        printJson(reply.json());
      } else {
        printList(HEADING, reply.value().items().stream().map(AccountCommand::row).toList());
      }
      return 0;
    }
  }

  @Command(name = "make", description = "Make an account.", mixinStandardHelpOptions = true)
  static final class Make extends OfOne {
    @Mixin private final RoleOption role = new RoleOption();

    @Option(names = "--called", paramLabel = "TEXT", description = "What people call its owner.")
    private @Nullable String called;

    @Mixin private final PasswordOption password = new PasswordOption();

    @Override
    public Integer call() {
      var wanted = new LinkedHashMap<String, String>();
      wanted.put("name", name);
      wanted.put("role", role.role());
      wanted.put("password", password.of(name));
      if (called != null) {
        wanted.put("displayName", called);
      }
      var reply = service().post(PATH, wanted, Account.class);
      if (json) {
        printJson(reply.json());
      } else {
        print(table(reply.value()));
      }
      return 0;
    }
  }

  @Command(
      name = "change",
      description = "Change role or display name.",
      mixinStandardHelpOptions = true)
  static final class Change extends OfOne {
    @Option(
        names = "--role",
        paramLabel = "ROLE",
        description = "reader, auditor, steward, emitter, admin or limited.")
    private @Nullable String role;

    @Option(names = "--called", paramLabel = "TEXT", description = "What people call its owner.")
    private @Nullable String called;

    @Override
    public Integer call() {
      var change = new LinkedHashMap<String, String>();
      if (role != null) {
        ClosedWords.check(spec, "--role", role, RoleOption.ROLES);
        change.put("role", role);
      }
      if (called != null) {
        change.put("displayName", called);
      }
      if (change.isEmpty()) {
        throw new ParameterException(
            spec.commandLine(), "There is nothing to change; give --role or --called");
      }
      return changed(change);
    }
  }

  @Command(
      name = "disable",
      description = "Sign a person out everywhere and let nobody sign in by this account.",
      mixinStandardHelpOptions = true)
  static final class Disable extends OfOne {
    @Override
    public Integer call() {
      return changed(Map.of("disabled", true));
    }
  }

  @Command(
      name = "enable",
      description = "Let a disabled account sign in again.",
      mixinStandardHelpOptions = true)
  static final class Enable extends OfOne {
    @Override
    public Integer call() {
      return changed(Map.of("disabled", false));
    }
  }

  @Command(
      name = "password",
      description = "Give an account another password; its sessions end.",
      mixinStandardHelpOptions = true)
  static final class Password extends OfOne {
    @Mixin private final PasswordOption password = new PasswordOption();

    @Override
    public Integer call() {
      Map<String, String> wanted = Map.of("password", password.of(name));
      service().change("PUT", PATH + "/password", which(), wanted);
      return 0;
    }
  }

  @Command(
      name = "delete",
      description = "Delete an account; its sessions end.",
      mixinStandardHelpOptions = true)
  static final class Delete extends OfOne {
    @Override
    public Integer call() {
      service().delete(PATH, which());
      return 0;
    }
  }
}
