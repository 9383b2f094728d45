package longthread.service.lineage;

import java.time.Instant;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.Set;
import longthread.core.asset.Reference;
import longthread.core.graph.GraphView;
import longthread.service.live.Catalog;
import longthread.service.storage.runs.CheckQueries;
import longthread.service.storage.runs.RunQueries;
import org.springframework.stereotype.Component;

/** What is known of the assets of a view from their runs and checks, in two queries. */
@Component
class ViewFacts {
  private static final int MAX_PARTS = 200; // of one asset, whose checks are counted

  /**
   * Facts by the references of assets and jobs.
   *
   * @param states of the newest runs
   * @param written when a run completed last, the oldest of those that write a thing
   * @param rows how many rows it wrote, where it wrote nothing else
   */
  record Facts(
      Map<String, String> states,
      Map<String, Instant> written,
      Map<String, Long> rows,
      Map<String, CheckQueries.Summary> checks) {
    Facts() {
      this(new HashMap<>(), new HashMap<>(), new HashMap<>(), new HashMap<>());
    }
  }

  private final Catalog catalog;
  private final RunQueries runs;
  private final CheckQueries checks;

  ViewFacts(Catalog catalog, RunQueries runs, CheckQueries checks) {
    this.catalog = catalog;
    this.runs = runs;
    this.checks = checks;
  }

  Facts of(GraphView view) {
    var facts = new Facts();
    runs(view, facts);
    checks(view, facts);
    return facts;
  }

  /** Adds what the newest run of each job in the view says of it and of what it writes. */
  private void runs(GraphView view, Facts facts) {
    var owners = new LinkedHashSet<String>();
    view.links().forEach(link -> owners.add(String.valueOf(link.owner())));
    view.nodes().forEach(node -> owners.add(node.ref()));
    var states = new HashMap<String, String>();
    String[] jobs = owners.stream().filter(Reference::isJob).toArray(String[]::new);
    var completed = new HashMap<String, Instant>();
    var rows = new HashMap<String, Long>();
    var targets = new HashMap<String, Set<String>>();
    for (RunQueries.NewestRun row : runs.newestRuns(jobs)) {
      states.put(row.job(), row.state());
      if (row.completedAt() != null) {
        completed.put(row.job(), row.completedAt());
        rows.put(row.job(), row.rowsWritten());
      }
    }
    facts.written().putAll(completed);
    var ofTargets = new HashMap<String, String>();
    for (GraphView.Link link : view.links()) {
      String state = states.get(String.valueOf(link.owner()));
      int hash = link.to().indexOf('#');
      String target = hash < 0 ? link.to() : link.to().substring(0, hash);
      Instant at = completed.get(String.valueOf(link.owner()));
      if (at != null && !Reference.isJob(target)) {
        facts.written().merge(target, at, (a, b) -> a.isBefore(b) ? a : b);
        targets.computeIfAbsent(String.valueOf(link.owner()), k -> new HashSet<>()).add(target);
      }
      if (state != null && !Reference.isJob(target)) {
        ofTargets.merge(target, state, (a, b) -> a.equals("failed") ? a : b);
      }
    }
    ofTargets.putAll(states);
    targets.forEach(
        (job, written) -> {
          if (written.size() == 1 && rows.get(job) != null) {
            facts.rows().put(written.iterator().next(), rows.get(job));
          }
        });
    facts.states().putAll(ofTargets);
  }

  /** Counts the checks of the assets in view, those of all parts together. */
  private void checks(GraphView view, Facts facts) {
    var leads = new HashMap<String, String>(); // by part
    for (GraphView.Node node : view.nodes()) {
      int hash = node.ref().indexOf('#');
      String ref = hash < 0 ? node.ref() : node.ref().substring(0, hash);
      catalog
          .asset(ref)
          .ifPresent(
              asset ->
                  asset.parts().stream()
                      .limit(MAX_PARTS)
                      .forEach(part -> leads.put(part, asset.ref())));
    }
    for (CheckQueries.Summary row : checks.summaries(leads.keySet().toArray(String[]::new))) {
      facts
          .checks()
          .merge(
              leads.get(row.ref()),
              row,
              (a, b) ->
                  new CheckQueries.Summary(
                      a.ref(), a.checks() + b.checks(), a.failed() + b.failed()));
    }
  }
}
