package longthread.client;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.Grant;
import longthread.client.answers.GrantList;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "grant",
    description = "Give accounts, groups and keys a role on a part of the catalog.",
    mixinStandardHelpOptions = true,
    subcommands = {GrantCommand.Give.class, GrantCommand.ListGrants.class, GrantCommand.End.class},
    footer = {
      "",
      "Examples:",
      "  longthread account make cass --role limited",
      "  longthread grant give cass --role reader --system barn",
      "  longthread grant give --group payments --role steward --workspace 'Farm Payments'"
    })
final class GrantCommand implements Runnable {
  private static final String PATH = "/api/v1/grants";
  private static final List<String> HEADING =
      List.of("ID", "HOLDER", "NAME", "ROLE", "ON", "BY", "SINCE", "ENDS");

  @Spec CommandSpec spec = CommandSpec.create();

  @Override
  public void run() {
    spec.commandLine().usage(spec.commandLine().getOut());
  }

  /** Who holds a grant. */
  static final class Holder {
    @Parameters(paramLabel = "ACCOUNT", description = "The account of a person.")
    private @Nullable String account;

    @Option(names = "--group", paramLabel = "NAME", description = "A group of people.")
    private @Nullable String group;

    @Option(names = "--key", paramLabel = "NAME", description = "The key of a program.")
    private @Nullable String key;

    void addTo(Map<String, @Nullable Object> parameters) {
      parameters.put("holderKind", account != null ? "account" : group != null ? "group" : "key");
      parameters.put("holder", account != null ? account : group != null ? group : key);
    }
  }

  /** On what a grant is. */
  static final class Scope {
    @Option(names = "--everything", required = true, description = "The whole catalog.")
    private boolean everything;

    @Option(names = "--system", paramLabel = "SYSTEM", description = "What is in one system.")
    private @Nullable String system;

    @Option(
        names = "--workspace",
        paramLabel = "WORKSPACE",
        description = "The models, charts, reports and dashboards of one workspace.")
    private @Nullable String workspace;

    @Option(names = "--label", paramLabel = "LABEL", description = "What has one label.")
    private @Nullable String label;

    void addTo(Map<String, @Nullable Object> parameters) {
      String kind =
          everything
              ? "everything"
              : system != null ? "system" : workspace != null ? "workspace" : "label";
      parameters.put("scope", kind);
      parameters.put("value", system != null ? system : workspace != null ? workspace : label);
    }
  }

  private static List<String> row(Grant grant) {
    return List.of(
        String.valueOf(grant.id()),
        grant.holderKind(),
        grant.holder(),
        grant.role(),
        grant.value().isEmpty() ? grant.scope() : grant.scope() + " " + grant.value(),
        grant.grantedBy(),
        Output.time(grant.grantedAt()),
        Output.time(grant.expiresAt()));
  }

  @Command(
      name = "give",
      description = "Give a role on everything, a system, a workspace or a label.",
      mixinStandardHelpOptions = true)
  static final class Give extends Output implements Callable<Integer> {
    @ArgGroup(multiplicity = "1")
    private Holder holder = new Holder();

    private String role = "";

    @Option(
        names = "--role",
        required = true,
        paramLabel = "ROLE",
        description = "On a part: reader or steward. On everything also auditor, emitter or admin.")
    void setRole(String role) {
      ClosedWords.check(
          spec,
          "--role",
          role,
          RoleOption.ROLES.stream().filter(r -> !r.equals("limited")).toList());
      this.role = role;
    }

    @ArgGroup(multiplicity = "1")
    private Scope scope = new Scope();

    @Option(
        names = "--until",
        paramLabel = "DATE",
        description = "When it ends by itself, such as 2031-05-31; never without it.")
    private @Nullable String until;

    @Override
    public Integer call() {
      var wanted = new LinkedHashMap<String, @Nullable Object>();
      holder.addTo(wanted);
      wanted.put("role", role);
      scope.addTo(wanted);
      wanted.put("until", Json.until(until));
      var reply = service().post(PATH, wanted, Grant.class);
      if (json) {
        printJson(reply.json());
      } else {
        var table = new Table(HEADING.toArray(String[]::new));
        table.row(row(reply.value()).toArray(String[]::new));
        print(table);
      }
      return 0;
    }
  }

  @Command(
      name = "list",
      description = "List who holds which role on what.",
      mixinStandardHelpOptions = true)
  static final class ListGrants extends ListOutput implements Callable<Integer> {
    @ArgGroup(multiplicity = "0..1")
    private @Nullable Holder holder;

    @Override
    public Integer call() {
      var parameters = new LinkedHashMap<String, @Nullable Object>();
      parameters.put("limit", paging.orElse(1_000));
      if (holder != null) {
        holder.addTo(parameters);
      }
      var reply = service().get(PATH, parameters, GrantList.class);
      if (json) {
        printJson(reply.json());
      } else if (reply.value().items().isEmpty() && !csv) {
        note("nobody holds a grant; longthread grant give --help says how to give one");
      } else {
        printList(HEADING, reply.value().items().stream().map(GrantCommand::row).toList());
      }
      return 0;
    }
  }

  @Command(
      name = "end",
      description = "End a grant by its id in the list.",
      mixinStandardHelpOptions = true)
  static final class End extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "ID", description = "The grant's id in the list.")
    private long id;

    @Override
    public Integer call() {
      service().delete(PATH, Map.of("id", id));
      return 0;
    }
  }
}
