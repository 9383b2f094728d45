package longthread.client;

import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Help;

/** The command line. */
@Command(
    name = "longthread",
    description =
        "Follows data down to the column: where it comes from, what a change breaks, why it is wrong or late.",
    synopsisSubcommandLabel = "COMMAND",
    mixinStandardHelpOptions = true,
    version = "Long Thread 0.1.0",
    footer = {
      "",
      "A name may be a whole reference or any ending of one that is unambiguous:",
      "  mart.payout_statement   payout_statement#amount   @build_payout   'Ten-day payout'",
      "",
      "Exit codes: 0 done, 1 a finding the caller asked to fail on, 2 wrong usage,",
      "3 not found or ambiguous, 4 refused by the service, 5 service not reachable."
    },
    subcommands = {
      TodayCommand.class,
      ConnectCommand.class,
      SendCommand.class,
      WrapCommand.class,
      ReadCommand.class,
      IntakeCommand.class,
      RunsCommand.class,
      FindCommand.class,
      ShowCommand.class,
      HistoryCommand.class,
      WorkspaceCommand.class,
      SetCommand.class,
      RecordCommand.class,
      TermCommand.class,
      EditCommand.class,
      MergeCommand.class,
      FoldCommand.class,
      CoverageCommand.class,
      LabelCommand.class,
      LeaksCommand.class,
      PreviewCommand.class,
      AuditCommand.class,
      GraphCommand.Upstream.class,
      GraphCommand.Downstream.class,
      ThreadCommand.class,
      ExplainCommand.class,
      SqlCommand.class,
      ExportCommand.class,
      RecallCommand.class,
      CompareCommand.class,
      ProveCommand.class,
      ImpactCommand.class,
      GateCommand.class,
      SnapshotCommand.class,
      ChangeCommand.class,
      CausesCommand.class,
      NoticeCommand.class,
      WatchCommand.class,
      ShareCommand.class,
      TicketCommand.class,
      TrailCommand.class,
      RebuildCommand.class,
      KeyCommand.class,
      AccountCommand.class,
      GroupCommand.class,
      GrantCommand.class,
      LoginCommands.Login.class,
      LoginCommands.Logout.class,
    })
public final class Main implements Runnable {
  private static final Map<String, List<String>> GROUPS = new LinkedHashMap<>();

  static {
    GROUPS.put("Set up (by the launcher)", List.of("demo", "serve", "stop", "verify"));
    GROUPS.put(
        "Take in, and see that it arrived",
        List.of("connect", "send", "wrap", "read", "intake", "runs"));
    GROUPS.put("Find and understand", List.of("find", "show", "history", "workspace"));
    GROUPS.put(
        "Follow the thread",
        List.of(
            "upstream", "downstream", "thread", "explain", "sql", "compare", "export", "prove"));
    GROUPS.put(
        "Before a change, after a symptom",
        List.of("today", "impact", "change", "gate", "snapshot", "causes", "recall"));
    GROUPS.put(
        "Follow up, and let others know", List.of("notice", "watch", "share", "ticket", "trail"));
    GROUPS.put(
        "Keep it one catalog, and complete",
        List.of("coverage", "record", "set", "term", "edit", "merge", "fold"));
    GROUPS.put("Protect what is sensitive", List.of("label", "leaks", "preview", "audit"));
    GROUPS.put(
        "Keep it running",
        List.of("rebuild", "key", "account", "group", "grant", "login", "logout"));
  }

  private static final Map<String, String> LAUNCHER =
      Map.of(
          "demo", "Start everything with the demo world (--detach, --night, --fresh).",
          "serve", "Start the service alone.",
          "stop", "Stop what demo or serve started.",
          "verify", "Run every test.");

  private static volatile Map<String, String> environment = System.getenv();

  static Map<String, String> environment() {
    return environment;
  }

  public static void main(String[] args) {
    var out = new PrintWriter(System.out, true, StandardCharsets.UTF_8);
    var err = new PrintWriter(System.err, true, StandardCharsets.UTF_8);
    int code = run(args, System.getenv(), out, err);
    out.flush();
    System.exit(code);
  }

  /** Runs a command line as a process would and returns its exit code. */
  public static int run(
      String[] args, Map<String, String> surroundings, PrintWriter out, PrintWriter err) {
    environment = surroundings;
    CommandLine line = new CommandLine(new Main());
    line.setOut(out).setErr(err);
    line.getHelpSectionMap()
        .put(CommandLine.Model.UsageMessageSpec.SECTION_KEY_COMMAND_LIST, Main::commands);
    line.setExecutionExceptionHandler(
        (e, command, parsed) -> {
          if (e instanceof ServiceException problem) {
            err.println("longthread: " + problem.getMessage());
            return problem.exitCode();
          }
          throw e;
        });
    line.setParameterExceptionHandler(
        (e, given) -> {
          err.println("longthread: " + e.getMessage());
          CommandLine.UnmatchedArgumentException.printSuggestions(e, err);
          String command = e.getCommandLine().getCommandSpec().qualifiedName();
          err.println("Try '" + command + " --help' for how it is used.");
          return ServiceException.WRONG_USAGE;
        });
    boolean plain =
        surroundings.containsKey("NO_COLOR") || !surroundings.containsKey("LONGTHREAD_TERMINAL");
    line.setColorScheme(Help.defaultColorScheme(plain ? Help.Ansi.OFF : Help.Ansi.ON));
    line.setUsageHelpWidth(100);
    return line.execute(args);
  }

  private static String commands(Help help) {
    var text = new StringBuilder();
    GROUPS.forEach(
        (group, names) -> {
          text.append(String.format("%n%s%n", group));
          for (String name : names) {
            Help sub = help.subcommands().get(name);
            String about =
                sub == null
                    ? LAUNCHER.getOrDefault(name, "")
                    : sub.commandSpec().usageMessage().description()[0];
            text.append(String.format("  %-11s %s%n", name, about));
          }
        });
    return text.toString();
  }

  @Override
  public void run() {
    CommandLine.usage(this, System.out);
  }
}
