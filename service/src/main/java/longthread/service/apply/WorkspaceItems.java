package longthread.service.apply;

import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.workspace.WorkspaceDescription;
import longthread.core.workspace.WorkspaceEvents;
import longthread.service.apply.CurrentFacets.Winner;
import longthread.service.storage.Stores;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.NameQueries;
import longthread.service.storage.facts.Subject;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * Which items their workspace still has. An item that the newest description of its workspace lacks
 * is retired; since when depends on all descriptions there are, not on the order they came in.
 */
final class WorkspaceItems {
  private final FacetQueries facetStore;
  private final NameQueries names;
  private final NameIds ids;
  private final CurrentFacets current;

  WorkspaceItems(Stores stores, NameIds ids, CurrentFacets current) {
    this.facetStore = stores.facets();
    this.names = stores.names();
    this.ids = ids;
    this.current = current;
  }

  /** All datasets and jobs that ever were items of some workspaces. */
  record Members(Set<DatasetName> datasets, Set<JobName> jobs) {}

  Members members(Collection<DatasetName> workspaces) {
    var members = new Members(new TreeSet<>(), new TreeSet<>());
    for (DatasetName workspace : workspaces) {
      String under =
          workspace.reference().replace("!", "!!").replace("%", "!%").replace("_", "!_") + "/%";
      names
          .datasetsLike(under)
          .forEach(row -> members.datasets().add(DatasetName.parse(row.ref())));
      names.jobsLike("@" + under).forEach(row -> members.jobs().add(JobName.parse(row.ref())));
    }
    members.datasets().removeIf(DatasetName::isJob);
    ids.internDatasets(members.datasets());
    ids.internJobs(members.jobs());
    return members;
  }

  /** Since when those of some subjects that {@link #gone} finds are gone. */
  Map<Subject, Instant> goneSince(Map<Subject, Map<String, JsonNode>> facets) {
    var since = new HashMap<Subject, Instant>();
    gone(facets).forEach((item, workspace) -> since.put(item, goneAt(item, workspace)));
    return since;
  }

  /**
   * The items that are no longer in their workspace, each with that; without those that are, and
   * without all that are no items.
   *
   * @param facets the current facets of the subjects
   */
  Map<Subject, Subject> gone(Map<Subject, Map<String, JsonNode>> facets) {
    var workspaces = new HashMap<Subject, DatasetName>();
    facets.forEach(
        (subject, byKey) -> {
          DatasetName workspace = workspace(byKey.get(WorkspaceEvents.ITEM));
          if (workspace != null) {
            workspaces.put(subject, workspace);
          }
        });
    if (workspaces.isEmpty()) {
      return Map.of();
    }
    ids.internDatasets(workspaces.values());
    var subjects = new HashSet<Subject>();
    workspaces.values().forEach(workspace -> subjects.add(ids.subject(workspace)));
    Map<Subject, Map<String, JsonNode>> contents = current.of(subjects);
    var gone = new HashMap<Subject, Subject>();
    workspaces.forEach(
        (subject, name) -> {
          Subject workspace = ids.subject(name);
          JsonNode content = contents.get(workspace).get(WorkspaceDescription.FACET);
          JsonNode item = facets.get(subject).get(WorkspaceEvents.ITEM);
          if (content != null && !WorkspaceDescription.holds(content, item)) {
            gone.put(subject, workspace);
          }
        });
    return gone;
  }

  private static @Nullable DatasetName workspace(@Nullable JsonNode item) {
    return item == null ? null : WorkspaceEvents.workspaceOf(item);
  }

  /** The first description after the last one that had the item. */
  private Instant goneAt(Subject item, Subject workspace) {
    Winner last = current.winners(Set.of(item)).get(item).get(WorkspaceEvents.ITEM);
    Instant at = last.at();
    return facetStore
        .nextReport(workspace.id(), WorkspaceDescription.FACET, at.getEpochSecond(), at.getNano())
        .map(row -> Instant.ofEpochSecond(row.atS(), row.atN()))
        .orElse(at);
  }
}
