package longthread.core.impact;

import java.util.AbstractList;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.asset.Reference;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;

/**
 * What lies downstream of changes by whole assets and is not reached by them, and the jobs that
 * read a changed asset and go on as before. Takes O(n + l) steps for the n assets and l links
 * downstream, and sorts only as much of the list as is looked at: of a column that is joined
 * everywhere, half of an estate may be untouched.
 */
final class UntouchedSearch {
  private final LineageGraph graph;
  private final ImpactAnalysis.Knowledge knowledge;
  private final Set<Integer> origins;
  private final Set<Integer> outputs;
  private final Set<String> jobs;
  private final BitSet touched; // assets
  private final BitSet brokenJobs = new BitSet(); // owners
  private final List<String> reasons = new ArrayList<>();
  private final int[] reasonOf; // by asset, the number of its reason and one; 0 for none

  /**
   * @param origins the changed assets
   * @param outputs the assets that changed jobs write
   * @param jobs the changed jobs
   * @param touched the assets that the change reaches; added to
   * @param brokenJobs the owners that fail
   */
  UntouchedSearch(
      LineageGraph graph,
      ImpactAnalysis.Knowledge knowledge,
      Set<Integer> origins,
      Set<Integer> outputs,
      Set<String> jobs,
      BitSet touched,
      Set<Integer> brokenJobs) {
    this.graph = graph;
    this.knowledge = knowledge;
    this.origins = origins;
    this.outputs = outputs;
    this.jobs = jobs;
    this.touched = touched;
    origins.forEach(touched::set);
    brokenJobs.forEach(
        owner -> {
          this.brokenJobs.set(owner);
          markJob(graph.owner(owner));
        });
    jobs.forEach(this::markJob);
    this.reasonOf = new int[graph.assetCount()];
  }

  /** A job may be an asset too, where lineage ends at it. */
  private void markJob(String ref) {
    graph.asset(ref).ifPresent(touched::set);
    graph.ownerOrdinal(ref).ifPresent(brokenJobs::set);
  }

  Untouched all() {
    int[] hops = new int[graph.assetCount()]; // and one; 0 for what is not below
    int[] all = below(hops);
    int[] below = Arrays.stream(all).filter(asset -> !touched.get(asset)).toArray();
    int count = below.length;
    if (count > 0) {
      findDoubts(all);
    }
    Map<String, String> readers = readers();
    var numbers = new int[count + readers.size()];
    System.arraycopy(below, 0, numbers, 0, count);
    var jobNames = new ArrayList<String>(readers.size());
    readers.forEach(
        (job, missing) -> {
          numbers[numbers.length - readers.size() + jobNames.size()] = -1 - jobNames.size();
          jobNames.add(job);
        });
    int certain = (int) readers.values().stream().filter(String::isEmpty).count();
    for (int i = 0; i < count; i++) {
      certain += reasonOf[numbers[i]] == 0 ? 1 : 0;
    }
    return new Untouched(numbers, hops, jobNames, readers, certain);
  }

  /** The list, made and put in order as it is looked at: nearest first, and by reference. */
  final class Untouched extends AbstractList<Impact.Untouched> {
    private static final int FIRST = 1_000;

    private final int[] numbers; // assets; below zero, jobs
    private final int[] hops;
    private final List<String> jobNames;
    private final Map<String, String> readers;
    private final int certain;
    private int sorted;

    private Untouched(
        int[] numbers,
        int[] hops,
        List<String> jobNames,
        Map<String, String> readers,
        int certain) {
      this.numbers = numbers;
      this.hops = hops;
      this.jobNames = jobNames;
      this.readers = readers;
      this.certain = certain;
    }

    /** How many are untouched for certain. */
    int certain() {
      return certain;
    }

    @Override
    public int size() {
      return numbers.length;
    }

    @Override
    public synchronized Impact.Untouched get(int index) {
      if (index >= sorted) {
        sort(index < FIRST ? Math.min(FIRST, numbers.length) : numbers.length);
      }
      int number = numbers[index];
      String ref = refOf(number);
      String missing = "";
      if (number < 0) {
        missing = readers.getOrDefault(ref, "");
      } else if (reasonOf[number] > 0) {
        missing = reasons.get(reasonOf[number] - 1);
      }
      return missing.isEmpty()
          ? Impact.Untouched.certain(ref, hopsOf(number))
          : Impact.Untouched.possible(ref, hopsOf(number), missing);
    }

    private String refOf(int number) {
      return number < 0 ? jobNames.get(-1 - number) : graph.assetReference(number);
    }

    private int hopsOf(int number) {
      return number < 0 ? 1 : hops[number] - 1;
    }

    /** Puts the first ones in order: whole hops, the nearest ones, until there are enough. */
    private void sort(int enough) {
      int most = 0;
      for (int number : numbers) {
        most = Math.max(most, hopsOf(number));
      }
      int[] ends = new int[most + 2]; // by hops
      for (int number : numbers) {
        ends[hopsOf(number) + 1]++;
      }
      int last = 0;
      while (last <= most && ends[last] < enough) {
        ends[last + 1] += ends[last];
        last++;
      }
      var near = new ArrayList<Integer>();
      var far = new int[numbers.length];
      int behind = 0;
      for (int number : numbers) {
        if (hopsOf(number) < last) {
          near.add(number);
        } else {
          far[behind++] = number;
        }
      }
      near.sort(Comparator.comparingInt(this::hopsOf).thenComparing(this::refOf));
      for (int i = 0; i < near.size(); i++) {
        numbers[i] = near.get(i);
      }
      System.arraycopy(far, 0, numbers, near.size(), behind);
      sorted = near.size();
    }
  }

  /** The assets downstream, with their hops; what a changed job writes is one hop from it. */
  private int[] below(int[] hops) {
    int[] first = walk(origins, 1, hops);
    return outputs.isEmpty() ? first : concat(first, walk(outputs, 2, hops));
  }

  private static int[] concat(int[] first, int[] second) {
    int[] all = Arrays.copyOf(first, first.length + second.length);
    System.arraycopy(second, 0, all, first.length, second.length);
    return all;
  }

  /** Those that no walk before came to. */
  private int[] walk(Set<Integer> assets, int more, int[] hops) {
    int[] starts = assets.stream().mapToInt(graph::rowsOf).toArray();
    Reach reach =
        Walk.assets(graph, starts, Direction.DOWNSTREAM, Integer.MAX_VALUE, Integer.MAX_VALUE);
    int[] fresh = new int[reach.size()];
    int count = 0;
    for (int i = 0; i < fresh.length; i++) {
      int asset = graph.assetOf(reach.nodes()[i]);
      int distance = reach.hops()[i] + more;
      if (hops[asset] == 0) {
        fresh[count++] = asset;
        hops[asset] = distance;
      }
      hops[asset] = Math.min(hops[asset], distance);
    }
    return Arrays.copyOf(fresh, count);
  }

  /** The jobs that read a changed asset and are not touched, with what is missing of their maps. */
  private Map<String, String> readers() {
    var readers = new LinkedHashMap<String, String>();
    for (int origin : origins) {
      graph.forEachLink(
          graph.rowsOf(origin),
          Direction.DOWNSTREAM,
          (end, flow, masking, owner) -> {
            if (!graph.isRows(end) || brokenJobs.get(owner)) {
              return;
            }
            String job = graph.owner(owner);
            String target = graph.assetReference(graph.assetOf(end));
            if (Reference.isJob(job) && !target.equals(job) && !jobs.contains(job)) {
              String missing = knowledge.missing(job, target);
              readers.merge(job, missing == null ? "" : missing, (a, b) -> a.isEmpty() ? b : a);
            }
          });
    }
    return readers;
  }

  /**
   * Finds the assets that an incomplete column map may hide the change from: every one below a link
   * out of a touched asset whose map is not known in full.
   */
  private void findDoubts(int[] below) {
    var open = new ArrayDeque<Integer>();
    for (int asset : below) {
      if (!touched.get(asset)) {
        continue;
      }
      graph.forEachLink(
          graph.rowsOf(asset),
          Direction.DOWNSTREAM,
          (end, flow, masking, owner) -> {
            int target = graph.assetOf(end);
            if (reasonOf[target] != 0 || !graph.isRows(end)) {
              return;
            }
            String missing = knowledge.missing(graph.owner(owner), graph.assetReference(target));
            if (missing != null) {
              reasons.add(missing);
              reasonOf[target] = reasons.size();
              open.add(end);
              hide(open);
            }
          });
    }
  }

  /** Gives all that lies below an asset that is in doubt the same reason; each asset once. */
  private void hide(ArrayDeque<Integer> open) {
    while (!open.isEmpty()) {
      int node = open.poll();
      int reason = reasonOf[graph.assetOf(node)];
      graph.forEachLink(
          node,
          Direction.DOWNSTREAM,
          (end, flow, masking, owner) -> {
            int target = graph.assetOf(end);
            if (reasonOf[target] == 0 && graph.isRows(end)) {
              reasonOf[target] = reason;
              open.add(end);
            }
          });
    }
  }
}
