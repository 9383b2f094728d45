package longthread.client;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.WorkspaceMap;
import longthread.client.answers.WorkspacePut;
import longthread.client.answers.Workspaces;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "workspace",
    description = "List, show, draw and describe the workspaces of BI tools.",
    mixinStandardHelpOptions = true,
    subcommands = {
      WorkspaceCommand.ListWorkspaces.class,
      WorkspaceCommand.Show.class,
      WorkspaceCommand.Draw.class,
      WorkspaceCommand.Put.class,
      WorkspaceCommand.Diff.class
    },
    footer = {
      "",
      "Examples:",
      "  longthread workspace list",
      "  longthread workspace map 'Board Room'",
      "  longthread workspace diff board-room.json --fail-on removed"
    })
final class WorkspaceCommand implements Runnable {
  private static final String PATH = "/api/v1/workspaces";

  /** The layers of a map, as the service and as people name them. */
  private static final Map<String, String> LAYERS = new LinkedHashMap<>();

  static {
    LAYERS.put("sources", "Sources");
    LAYERS.put("steps", "Preparation steps");
    LAYERS.put("models", "Models");
    LAYERS.put("charts", "Charts");
    LAYERS.put("pages", "Reports and dashboards");
    LAYERS.put("beyond", "Beyond the workspace");
  }

  @Spec CommandSpec spec = CommandSpec.create();

  @Override
  public void run() {
    spec.commandLine().usage(spec.commandLine().getOut());
  }

  @Command(name = "list", description = "List workspaces.", mixinStandardHelpOptions = true)
  static final class ListWorkspaces extends ListOutput implements Callable<Integer> {
    private static final int SCREENFUL = 50;

    @Override
    public Integer call() {
      var reply = service().get(PATH, Map.of("limit", paging.orElse(SCREENFUL)), Workspaces.class);
      if (json) {
        printJson(reply.json());
        return 0;
      }
      printList(
          List.of("WORKSPACE", "SYSTEM", "HOLDS", "LAST REFRESH", "FAILED", "UNMATCHED", "OWNERS"),
          reply.value().items().stream().map(this::row).toList());
      return 0;
    }

    private List<String> row(Workspaces.Listed one) {
      return List.of(
          one.title(),
          one.system(),
          joined(
              one.counts().stream()
                  .map(c -> c.count() + " " + c.kind() + (c.count() == 1 ? "" : "s"))
                  .toList()),
          csv ? text(one.refreshed()) : time(one.refreshed()),
          one.failed().isEmpty() ? "-" : joined(one.failed()),
          one.unmatched() == 0 ? "-" : "" + one.unmatched(),
          joined(one.owners()));
    }
  }

  /** What the subcommands about one workspace share. */
  abstract static class OfOne extends ListOutput implements Callable<Integer> {
    @Parameters(paramLabel = "WORKSPACE", description = "Its title, id or reference.")
    String name = "";

    @Override
    public Integer call() {
      var reply = service().get("/api/v1/workspace", Map.of("ref", name), WorkspaceMap.class);
      if (json) {
        printJson(reply.json());
      } else {
        print(reply.value());
      }
      return 0;
    }

    abstract void print(WorkspaceMap map);

    static String state(WorkspaceMap.Box box) {
      WorkspaceMap.Refresh refresh = box.refresh();
      if (refresh != null && refresh.state().equals("failed")) {
        return "failed " + time(refresh.startedAt()) + ": " + text(refresh.error());
      }
      if (!box.affectedBy().isEmpty()) {
        return "rests on a failed refresh";
      }
      return refresh == null
          ? box.matched() ? "" : "not matched"
          : refresh.state() + " " + time(refresh.endedAt());
    }
  }

  @Command(
      name = "show",
      description = "List all that is in a workspace, before it and behind it.",
      mixinStandardHelpOptions = true)
  static final class Show extends OfOne {
    @Override
    void print(WorkspaceMap map) {
      if (!csv) {
        out().println(styled("bold", map.title()) + "  " + map.system() + "  " + map.ref());
        if (map.description() != null) {
          out().println(map.description());
        }
        out().println("Owners: " + (map.owners().isEmpty() ? "-" : joined(map.owners())));
        out().println("Described: " + time(map.describedAt()));
        for (WorkspaceMap.Link link : map.connections()) {
          out()
              .println(
                  "Connection: " + link.title() + " (" + link.kind() + ")" + through(map, link));
        }
        out().println();
      }
      printList(
          List.of("LAYER", "KIND", "NAME", "WHERE", "STATE", "REFERENCE"),
          map.boxes().stream().map(Show::row).toList());
    }

    static String through(WorkspaceMap map, WorkspaceMap.Link link) {
      return (link.address() == null ? "" : " at " + link.address())
          + map.relays().stream()
              .filter(relay -> relay.id().equals(link.through()))
              .map(relay -> ", through " + relay.title())
              .findFirst()
              .orElse("");
    }

    private static List<String> row(WorkspaceMap.Box box) {
      return List.of(
          LAYERS.getOrDefault(box.layer(), box.layer()),
          box.reuses() ? "reused " + box.kind() : box.kind(),
          box.name(),
          box.workspace() == null ? box.system() : box.workspace(),
          state(box),
          box.ref());
    }
  }

  @Command(
      name = "map",
      description = "Draw a workspace in layers, from its sources to its dashboards.",
      mixinStandardHelpOptions = true)
  static final class Draw extends OfOne {
    @Override
    void print(WorkspaceMap map) {
      var names = new HashMap<String, String>();
      map.boxes().forEach(box -> names.put(box.ref(), box.name()));
      var before = new HashMap<String, List<String>>();
      for (WorkspaceMap.Line line : map.lines()) {
        before
            .computeIfAbsent(line.to(), k -> new ArrayList<>())
            .add(names.getOrDefault(line.from(), line.from()));
      }
      out().println(styled("bold", map.title()));
      LAYERS.forEach((layer, title) -> layer(map, layer, title, before));
    }

    private void layer(
        WorkspaceMap map, String layer, String title, Map<String, List<String>> before) {
      List<WorkspaceMap.Box> boxes =
          map.boxes().stream().filter(box -> box.layer().equals(layer)).toList();
      if (boxes.isEmpty()) {
        return;
      }
      out().println();
      out().println(styled("faint", title));
      for (WorkspaceMap.Box box : boxes) {
        out().println("  " + box.name() + where(map, box) + note(box));
        List<String> feeds = before.getOrDefault(box.ref(), List.of());
        if (!feeds.isEmpty()) {
          out().println("    from " + joined(feeds.stream().distinct().sorted().toList()));
        }
      }
    }

    private static String where(WorkspaceMap map, WorkspaceMap.Box box) {
      if (box.workspace() != null) {
        return "  (workspace " + box.workspace() + ")";
      }
      if (!box.layer().equals("sources") && !box.layer().equals("beyond")) {
        return "";
      }
      String relays =
          joined(
              map.connections().stream()
                  .filter(link -> box.connections().contains(link.id()))
                  .map(link -> link.title() + Show.through(map, link))
                  .toList());
      return "  (" + box.system() + (relays.isEmpty() ? "" : "; " + relays) + ")";
    }

    private static String note(WorkspaceMap.Box box) {
      String state = state(box);
      boolean isBad =
          state.startsWith("failed") || state.startsWith("rests") || state.startsWith("not");
      String words =
          state.isEmpty() ? "" : "  " + (isBad ? styled("red", state) : styled("faint", state));
      return (box.reuses() ? "  reused, not computed" : "") + words;
    }
  }

  /** What sending a description and trying one have in common. */
  abstract static class WithFile extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "FILE", description = "A description; - is standard input.")
    String file = "";

    WorkspacePut put(boolean dryRun) {
      var reply = service().put(PATH, Map.of("dryRun", dryRun), bytes(), WorkspacePut.class);
      if (json) {
        printJson(reply.json());
        return reply.value();
      }
      WorkspacePut put = reply.value();
      if (put.newerAt() != null) {
        note("a newer description of " + time(put.newerAt()) + " stands; this one changes nothing");
      }
      if (put.differences().isEmpty()) {
        out().println(put.title() + ": no differences");
      } else {
        print(table(put.differences()));
      }
      return put;
    }

    private byte[] bytes() {
      try {
        return file.equals("-") ? System.in.readAllBytes() : Files.readAllBytes(Path.of(file));
      } catch (IOException e) {
        throw new ServiceException(
            ServiceException.WRONG_USAGE, "the file " + file + " cannot be read");
      }
    }

    private static Table table(List<WorkspacePut.Difference> differences) {
      var table = new Table("CHANGE", "WHAT", "TITLE", "MEMBER", "BEFORE", "AFTER");
      for (WorkspacePut.Difference one : differences) {
        if (one.members().isEmpty()) {
          table.row(one.change(), one.what(), one.title(), "", "", "");
        }
        for (WorkspacePut.Member member : one.members()) {
          table.row(
              one.change(),
              one.what(),
              one.title(),
              member.name(),
              shown(member.before()),
              shown(member.after()));
        }
      }
      return table;
    }

    private static String shown(@Nullable String value) {
      return value == null ? "" : value;
    }
  }

  @Command(
      name = "put",
      description = "Replace what is described of a workspace, and list the differences.",
      mixinStandardHelpOptions = true)
  static final class Put extends WithFile {
    @Override
    public Integer call() {
      WorkspacePut put = put(false);
      if (!json) {
        note("kept; receipt " + put.receipt() + (put.duplicate() ? " (it was known)" : ""));
      }
      return 0;
    }
  }

  @Command(
      name = "diff",
      description = "List what a description would change, without keeping it.",
      mixinStandardHelpOptions = true)
  static final class Diff extends WithFile {
    @Mixin private FailOn failOn = new FailOn();

    @Override
    public Integer call() {
      failOn.check(spec, "added", "removed", "changed");
      WorkspacePut put = put(true);
      return failOn.exitCode(
          word -> put.differences().stream().anyMatch(one -> one.change().equals(word)));
    }
  }
}
