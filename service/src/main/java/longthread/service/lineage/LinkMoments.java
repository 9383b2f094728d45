package longthread.service.lineage;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.References;
import longthread.service.storage.graph.LinkQueries;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** When links around an asset began and ended: the moments a walk through time stops at. */
@Service
class LinkMoments {
  /** A moment at which links around an asset changed. */
  record Moment(Instant at, int added, int ended, List<String> by) {}

  private final Exports exports;
  private final LinkStretches links;
  private final Catalog catalog;
  private final Clock clock;

  LinkMoments(Exports exports, LinkStretches links, Catalog catalog, Clock clock) {
    this.exports = exports;
    this.links = links;
    this.catalog = catalog;
    this.clock = clock;
  }

  /** The moments at which links of the assets around a focus began or ended, oldest first. */
  @Transactional(readOnly = true)
  public List<Moment> around(
      References.Named focus, boolean upstream, boolean downstream, int hops) {
    var added = new TreeMap<Instant, Integer>();
    var ended = new TreeMap<Instant, Integer>();
    var by = new HashMap<Instant, Set<String>>();
    Instant now = clock.instant();
    for (List<LinkQueries.Stretch> stretches : links(focus, upstream, downstream, hops)) {
      stretches.sort(Comparator.comparing(LinkQueries.Stretch::since));
      Instant end = Instant.MIN;
      for (LinkQueries.Stretch stretch : stretches) {
        if (stretch.since().isAfter(end)) {
          noteEnd(end, now, stretch.owner(), ended, by);
          added.merge(stretch.since(), 1, Integer::sum);
          note(by, stretch.since(), stretch.owner());
        }
        Instant until = stretch.until() == null ? Instant.MAX : stretch.until();
        end = until.isAfter(end) ? until : end;
      }
      noteEnd(end, now, stretches.get(0).owner(), ended, by);
    }
    var moments = new ArrayList<Moment>();
    var all = new TreeSet<>(added.keySet());
    all.addAll(ended.keySet());
    for (Instant at : all) {
      moments.add(
          new Moment(
              at,
              added.getOrDefault(at, 0),
              ended.getOrDefault(at, 0),
              List.copyOf(by.getOrDefault(at, Set.of()))));
    }
    return moments;
  }

  /**
   * The stretches of the links that a graph of so many hops shows now or showed once. Of what lies
   * nearer than its edge these are all links towards the edge, since what they led to may be out of
   * it by now; a hub that is read has many others that no such graph shows.
   */
  private Collection<List<LinkQueries.Stretch>> links(
      References.Named focus, boolean upstream, boolean downstream, int hops) {
    boolean isJob = focus.asset().isJob();
    int nearer = hops == Integer.MAX_VALUE ? hops : hops - 1;
    boolean any = nearer >= (isJob ? 1 : 0);
    var among =
        new TreeSet<>(
            exports.datasets(new Exports.Part(focus, upstream, downstream, hops, null), true));
    if (!isJob) {
      among.add(focus.asset().ref());
    }
    Map<List<String>, List<LinkQueries.Stretch>> all =
        links.of(
            upstream && any ? inside(focus, true, nearer) : List.of(),
            downstream && any ? inside(focus, false, nearer) : List.of(),
            among);
    if (isJob) {
      all.putAll(links.of(List.of(focus.asset().ref())));
    }
    return all.values();
  }

  private List<String> inside(References.Named focus, boolean upstream, int hops) {
    return exports.datasets(new Exports.Part(focus, upstream, !upstream, hops, null), false);
  }

  private void noteEnd(
      Instant end,
      Instant now,
      String owner,
      Map<Instant, Integer> ended,
      Map<Instant, Set<String>> by) {
    if (end.isAfter(Instant.MIN) && !end.isAfter(now)) {
      ended.merge(end, 1, Integer::sum);
      note(by, end, owner);
    }
  }

  private void note(Map<Instant, Set<String>> by, Instant at, String owner) {
    by.computeIfAbsent(at, k -> new TreeSet<>())
        .add(catalog.asset(owner).map(Asset::shown).orElse(owner));
  }
}
