package longthread.client;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;

/** Which assets to list. */
final class Filters {
  private static final List<String> KINDS =
      List.of(
          "table",
          "view",
          "file",
          "topic",
          "dataset",
          "model",
          "chart",
          "report",
          "dashboard",
          "job",
          "pipeline",
          "restricted");

  @Option(
      names = "--kind",
      paramLabel = "KIND",
      description = "Only this kind: table, view, file, topic, model, chart, report, dashboard, …")
  private @Nullable String kind;

  @Option(names = "--system", paramLabel = "SYSTEM", description = "Only in this system.")
  private @Nullable String system;

  @Option(names = "--owner", paramLabel = "OWNER", description = "Only of this owner.")
  private @Nullable String owner;

  @Option(names = "--label", paramLabel = "LABEL", description = "Only with this label or tag.")
  private @Nullable String label;

  /** Adds the filters to the parameters of a call. */
  void addTo(Map<String, @Nullable Object> parameters, CommandSpec spec) {
    ClosedWords.check(spec, "--kind", kind, KINDS);
    parameters.put("kind", kind);
    parameters.put("system", system);
    parameters.put("owner", owner);
    parameters.put("label", label);
  }

  /** Whether an asset passes, where the service does not filter itself. */
  boolean pass(String itsKind, String itsSystem, List<String> itsOwners) {
    return (kind == null || kind.equals(itsKind))
        && (system == null || system.equals(itsSystem))
        && (owner == null || itsOwners.contains(owner));
  }

  void check(CommandSpec spec) {
    ClosedWords.check(spec, "--kind", kind, KINDS);
  }
}
