package longthread.service.lineage;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import longthread.core.asset.Reference;
import longthread.service.exact.ExactLineage.ExactAnswer;
import longthread.service.exact.ExactLineage.ExactDoubt;
import longthread.service.exact.ExactLineage.ExactLoad;
import longthread.service.exact.ExactLineage.ExactRun;
import longthread.service.exact.ExactLineage.ExactUse;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/** Runs as a view of the graph: a link leads from the run that wrote to the one that read. */
@Component
class ExactViews {
  private final Catalog catalog;
  private final GraphFollower follower;

  ExactViews(Catalog catalog, GraphFollower follower) {
    this.catalog = catalog;
    this.follower = follower;
  }

  /** The view of an answer: its runs, the sources that no run wrote, and the focus. */
  LineageViews.View of(ExactAnswer answer) {
    Map<String, ExactRun> runs =
        answer.runs().stream()
            .collect(Collectors.toMap(ExactRun::ref, run -> run, (a, b) -> a, LinkedHashMap::new));
    var sourceHops = new TreeMap<String, Integer>();
    var links = new ArrayList<LineageViews.ViewLink>();
    for (ExactUse use : answer.uses()) {
      String reader = use.reader() == null ? answer.ref() : use.reader();
      ExactRun by = runs.get(reader);
      for (ExactLoad load : use.loads()) {
        ExactRun writer = runs.get(load.run());
        if (writer != null) {
          links.add(link(load.run(), reader, writer, load.asset(), doubt(load)));
        }
      }
      for (String source : sources(use, answer)) {
        sourceHops.merge(source, 1 + (by == null ? 0 : by.hops()), Math::min);
        links.add(link(source, reader, by, source, null));
      }
    }
    var nodes = new ArrayList<LineageViews.ViewNode>();
    ExactRun focus = runs.get(answer.ref());
    LineageViews.ViewNode first = focus == null ? asset(answer.ref(), 0) : run(focus);
    nodes.add(first);
    runs.values().stream().filter(run -> run != focus).forEach(run -> nodes.add(run(run)));
    sourceHops.forEach((source, hops) -> nodes.add(asset(source, hops)));
    return new LineageViews.View(
        first,
        nodes,
        links,
        List.of(),
        List.of(),
        answer.truncated(),
        follower.number(),
        null,
        answer);
  }

  private static List<String> sources(ExactUse use, ExactAnswer answer) {
    if (use.source() && use.through().isEmpty()) {
      return List.of(use.asset());
    }
    return use.through().stream().filter(answer.sources()::contains).toList();
  }

  private static @Nullable String doubt(ExactLoad load) {
    return load.certain()
        ? null
        : load.doubts().stream().map(ExactDoubt::words).collect(Collectors.joining("; "));
  }

  private static LineageViews.ViewLink link(
      String from, String to, @Nullable ExactRun run, String via, @Nullable String doubt) {
    return new LineageViews.ViewLink(
        from,
        to,
        "DIRECT",
        "feeds",
        List.of("DIRECT"),
        false,
        "observed",
        false,
        run == null ? null : run.job(),
        run == null ? null : run.version(),
        run == null ? null : run.start(),
        run == null ? null : run.end(),
        via,
        doubt);
  }

  private LineageViews.ViewNode run(ExactRun run) {
    String words = run.version() == null ? "version not known" : "version " + run.version();
    if (run.newest() != null) {
      words += ", version " + run.newest().number() + " since";
    }
    return node(
        run.ref(),
        "run",
        run.name(),
        catalog.systemOf(run.job()),
        words,
        run.hops(),
        List.of(),
        run.state(),
        run.end() == null ? run.start() : run.end());
  }

  private LineageViews.ViewNode asset(String ref, int hops) {
    String whole = Reference.assetOf(ref);
    Asset asset = catalog.asset(whole).orElse(null);
    return node(
        ref,
        asset == null ? "dataset" : asset.kind().word(),
        asset == null ? whole : asset.shown(),
        catalog.systemOf(whole),
        asset == null ? null : asset.card().description(),
        hops,
        asset == null ? List.of() : asset.ownerNames(),
        null,
        null);
  }

  private static LineageViews.ViewNode node(
      String ref,
      String kind,
      String name,
      String system,
      @Nullable String description,
      int hops,
      List<String> owners,
      @Nullable String state,
      @Nullable Instant written) {
    int hash = ref.startsWith(Reference.RUN_PREFIX) ? -1 : ref.indexOf('#');
    return new LineageViews.ViewNode(
        ref,
        kind,
        name,
        system,
        null,
        description,
        hash < 0 ? null : ref.substring(hash + 1),
        hops,
        hops == 0 ? "focus" : "upstream",
        true,
        false,
        owners,
        List.of(),
        List.of(),
        state,
        written,
        null,
        null,
        null,
        null,
        0,
        0,
        null);
  }
}
