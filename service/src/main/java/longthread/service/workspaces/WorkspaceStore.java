package longthread.service.workspaces;

import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.function.Predicate;
import longthread.core.asset.DatasetName;
import longthread.core.json.CanonicalJson;
import longthread.core.workspace.BadWorkspaceException;
import longthread.core.workspace.WorkspaceDescription;
import longthread.core.workspace.WorkspaceDifference;
import longthread.core.workspace.WorkspaceReader;
import longthread.service.log.EventLog;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import tools.jackson.databind.JsonNode;

/** Takes workspace descriptions in, and finds what stands of them. */
@Service
class WorkspaceStore {
  /**
   * A workspace as its newest description has it. Its content is read out when it is first asked
   * for: of hundreds of workspaces most calls look into one.
   */
  static final class Workspace {
    private final DatasetName name;
    private final byte[] body; // compressed
    private final Instant describedAt;
    private @Nullable JsonNode content;

    private Workspace(DatasetName name, byte[] body, Instant describedAt) {
      this.name = name;
      this.body = body;
      this.describedAt = describedAt;
    }

    /** Namespace and id. */
    DatasetName name() {
      return name;
    }

    /** The time of the newest description. */
    Instant describedAt() {
      return describedAt;
    }

    /** All but what changes at every refresh. */
    JsonNode content() {
      if (content == null) {
        content = StoredText.json(body);
      }
      return content;
    }

    String ref() {
      return name.reference();
    }

    /** Another for another description, as far as one can tell without reading it out. */
    String state() {
      return ref() + " " + describedAt + " " + Arrays.hashCode(body);
    }

    JsonNode head() {
      return content().path("workspace");
    }

    String title() {
      return head().path("title").stringValue(name.name());
    }
  }

  /** What became of a description; {@code block} is 0 for a dry run. */
  record Kept(
      WorkspaceDescription description,
      long block,
      boolean isDuplicate,
      @Nullable Instant newerAt,
      List<WorkspaceDifference> differences) {}

  private final FacetQueries facets;
  private final EventLog log;
  private final long largest;

  WorkspaceStore(
      FacetQueries facets,
      EventLog log,
      @Value("${longthread.intake.largest-event}") long largest) {
    this.facets = facets;
    this.log = log;
    this.largest = largest;
  }

  long largest() {
    return largest;
  }

  /**
   * Keeps a description, unless it is a dry run.
   *
   * @throws ProblemException with all its faults, if it has any; then nothing changes, and the
   *     bytes are kept as refused
   */
  Kept put(byte[] bytes, boolean dryRun) {
    WorkspaceDescription description;
    try {
      description = WorkspaceReader.read(bytes);
    } catch (BadWorkspaceException e) {
      if (!dryRun) {
        var refusal = new EventLog.Refusal("bad-workspace", e.getMessage());
        log.append(List.of(EventLog.Item.refused(bytes, refusal)), null);
      }
      throw ProblemException.badRequest(
              "bad-workspace",
              "the description is refused as a whole, nothing changed: " + e.getMessage())
          .with("faults", e.faults());
    }
    Workspace before = named(description.name()).orElse(null);
    boolean isOlder = before != null && before.describedAt().isAfter(description.at());
    List<WorkspaceDifference> differences =
        WorkspaceDifference.between(
            before == null ? CanonicalJson.MAPPER.createObjectNode() : before.content(),
            description.content());
    if (dryRun) {
      return new Kept(description, 0, false, isOlder ? before.describedAt() : null, differences);
    }
    EventLog.Item item = log.item(bytes, largest);
    EventLog.Kept kept = log.append(List.of(item), null);
    if (item.refusal() != null) {
      throw ProblemException.badRequest(item.refusal().problem(), item.refusal().reason());
    }
    return new Kept(
        description,
        kept.block(),
        kept.duplicates() > 0,
        isOlder ? before.describedAt() : null,
        isOlder ? List.of() : differences);
  }

  /** All workspaces, by their references. */
  List<Workspace> all() {
    return facets.allCurrent(WorkspaceDescription.FACET).stream()
        .map(WorkspaceStore::workspace)
        .toList();
  }

  private static Workspace workspace(FacetQueries.Value row) {
    return new Workspace(
        DatasetName.parse(row.ref()), row.body(), Instant.ofEpochSecond(row.atS(), row.atN()));
  }

  private Optional<Workspace> named(DatasetName name) {
    return facets.currentOf(new String[] {name.reference()}).stream()
        .filter(row -> row.key().equals(WorkspaceDescription.FACET))
        .map(WorkspaceStore::workspace)
        .findFirst();
  }

  /**
   * The one of some workspaces with this reference, id or title.
   *
   * @throws ProblemException 404 with those there are, 409 if several have it
   */
  static Workspace resolve(List<Workspace> all, String text) {
    String wanted = text.strip();
    List<Predicate<Workspace>> ways =
        List.of(
            workspace -> workspace.ref().equals(wanted),
            workspace -> workspace.name().name().equals(wanted),
            workspace -> workspace.title().equalsIgnoreCase(wanted),
            workspace ->
                workspace
                    .ref()
                    .toLowerCase(Locale.ROOT)
                    .endsWith("/" + wanted.toLowerCase(Locale.ROOT)));
    for (Predicate<Workspace> way : ways) {
      List<Workspace> found = all.stream().filter(way).toList();
      if (found.size() == 1) {
        return found.get(0);
      }
      if (found.size() > 1) {
        List<String> refs = found.stream().map(Workspace::ref).toList();
        throw new ProblemException(
                HttpStatus.CONFLICT,
                "ambiguous-reference",
                "Several workspaces have this name",
                "'" + wanted + "' may be any of " + String.join(", ", refs))
            .with("candidates", refs);
      }
    }
    List<String> titles = all.stream().map(Workspace::title).limit(20).toList();
    throw new ProblemException(
        HttpStatus.NOT_FOUND,
        "unknown-workspace",
        "No workspace has this name",
        "there is no workspace '"
            + wanted
            + "'; "
            + (titles.isEmpty()
                ? "none was described yet: send a description with PUT /api/v1/workspaces"
                : "there are " + String.join(", ", titles)));
  }
}
