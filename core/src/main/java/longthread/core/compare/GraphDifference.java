package longthread.core.compare;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.export.ExportedGraph;

/**
 * The assets, jobs and links that only one of two parts of the graph has.
 *
 * @param assetsAdded references that only the later has; so with the other lists
 */
public record GraphDifference(
    List<String> assetsAdded,
    List<String> assetsRemoved,
    List<String> jobsAdded,
    List<String> jobsRemoved,
    List<ExportedGraph.Link> linksAdded,
    List<ExportedGraph.Link> linksRemoved) {
  /** Returns how two parts differ, in time linear in both; lists are in the order of references. */
  public static GraphDifference of(ExportedGraph before, ExportedGraph after) {
    return new GraphDifference(
        only(assets(after), assets(before)),
        only(assets(before), assets(after)),
        only(jobs(after), jobs(before)),
        only(jobs(before), jobs(after)),
        only(after.links(), before.links()),
        only(before.links(), after.links()));
  }

  public boolean isEmpty() {
    return assetsAdded.isEmpty()
        && assetsRemoved.isEmpty()
        && jobsAdded.isEmpty()
        && jobsRemoved.isEmpty()
        && linksAdded.isEmpty()
        && linksRemoved.isEmpty();
  }

  private static Set<String> assets(ExportedGraph graph) {
    var refs = new TreeSet<String>();
    graph.assets().forEach(asset -> refs.add(asset.ref()));
    return refs;
  }

  private static Set<String> jobs(ExportedGraph graph) {
    var refs = new TreeSet<String>();
    graph.jobs().forEach(job -> refs.add(job.ref()));
    return refs;
  }

  private static <T> List<T> only(Iterable<T> these, Iterable<T> others) {
    var known = new HashSet<T>();
    others.forEach(known::add);
    var only = new ArrayList<T>();
    these.forEach(
        one -> {
          if (!known.contains(one)) {
            only.add(one);
          }
        });
    return only;
  }
}
