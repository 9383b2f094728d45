package longthread.service.lineage;

import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.core.asset.Kind;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.lineage.Flow;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.live.References;
import longthread.service.runs.RunReader;
import longthread.service.runs.Writers;
import longthread.service.storage.runs.RunQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** What a field or a chart is and where it comes from, for people who do not know the trade. */
@Service
class ReaderViews {
  private static final int MAX_STOPS = 24;
  private static final int MAX_FIELDS = 60;

  /** A field that can be read about in its turn. */
  record ReaderField(
      String ref, String name, @Nullable String definition, @Nullable String calculation) {}

  /**
   * A stop on the way back to where the field is captured.
   *
   * @param name what the field is called there
   * @param place what people call the thing it is in
   * @param where the workspace or system that is in
   * @param hops how many stops lie between
   * @param sentence how it comes about there
   * @param calculation as its tool shows it
   * @param isRenamed whether it is called otherwise than one stop later
   * @param isCapture whether nothing is known before it
   */
  record ReaderStop(
      String ref,
      String name,
      String place,
      String kind,
      String where,
      int hops,
      String sentence,
      @Nullable String calculation,
      boolean isRenamed,
      boolean isCapture) {}

  /**
   * A page for readers.
   *
   * @param definition what it means; of a field without one, that of the nearest stop that has one
   * @param definedAt where the definition was taken from, if not from here
   * @param freshAt when the newest data in it was written
   * @param more how many further stops are left out
   */
  record Reader(
      String ref,
      String kind,
      String name,
      String place,
      @Nullable String definition,
      @Nullable String definedAt,
      @Nullable String calculation,
      @Nullable String approved,
      @Nullable String url,
      List<Owner> owners,
      @Nullable Instant freshAt,
      List<String> warnings,
      List<ReaderField> fields,
      List<ReaderStop> stops,
      int more) {}

  private final Catalog catalog;
  private final GraphFollower follower;
  private final References references;
  private final Writers writers;
  private final RunQueries runs;

  ReaderViews(
      Catalog catalog,
      GraphFollower follower,
      References references,
      Writers writers,
      RunQueries runs) {
    this.catalog = catalog;
    this.follower = follower;
    this.references = references;
    this.writers = writers;
    this.runs = runs;
  }

  @Transactional(readOnly = true)
  public Reader of(References.Named named) {
    Asset asset = named.asset();
    LineageGraph graph = follower.graph();
    boolean isWhole = named.column() == null || asset.isJob();
    var trail = new Trail(graph);
    if (!isWhole) {
      trail.walk(named.node(graph));
    }
    Card.Column column = isWhole ? null : column(asset, named.column());
    String definition =
        isWhole ? asset.card().description() : column == null ? null : column.description();
    ReaderField defined = definition != null || isWhole ? null : trail.defined();
    RunReader.RunRow written = Writers.freshest(writers.of(asset));
    return new Reader(
        named.ref(),
        asset.kind().word(),
        isWhole ? asset.shown() : fieldName(named.column()),
        isWhole ? where(asset.ref()) : asset.shown() + ", " + where(asset.ref()),
        definition == null && defined != null ? defined.definition() : definition,
        defined == null ? null : defined.name(),
        column == null ? null : column.calculation(),
        detail(asset, "approved"),
        asset.card().url(),
        asset.card().owners(),
        written == null ? null : written.end(),
        warnings(asset, trail),
        isWhole ? fields(asset) : List.of(),
        trail.stops,
        trail.more);
  }

  private static @Nullable String detail(Asset asset, String name) {
    return asset.card().details().stream()
        .filter(detail -> detail.name().equals(name))
        .map(Card.Detail::value)
        .findFirst()
        .orElse(null);
  }

  private static Card.@Nullable Column column(Asset asset, @Nullable String path) {
    return asset.card().columns().stream()
        .filter(column -> column.path().equals(path))
        .findFirst()
        .orElse(null);
  }

  private List<ReaderField> fields(Asset asset) {
    var fields = new ArrayList<ReaderField>();
    for (String path : references.columns(asset)) {
      if (fields.size() < MAX_FIELDS) {
        Card.Column column = column(asset, path);
        fields.add(
            new ReaderField(
                asset.ref() + "#" + path,
                fieldName(path),
                column == null ? null : column.description(),
                column == null ? null : column.calculation()));
      }
    }
    return fields;
  }

  private static String fieldName(@Nullable String path) {
    return Reference.decode(String.valueOf(path));
  }

  /** The workspace, schema or folder an asset is in, with its system. */
  private String where(String ref) {
    Asset asset = catalog.asset(ref).orElse(null);
    String system = catalog.systemOf(ref);
    List<String> container = asset == null ? List.of() : asset.card().container();
    boolean isBi =
        asset != null
            && (asset.kind() == Kind.MODEL
                || asset.kind() == Kind.CHART
                || asset.kind() == Kind.REPORT
                || asset.kind() == Kind.DASHBOARD
                || "preparation step".equals(detail(asset, "type"))
                || detail(asset, "reuses") != null);
    return isBi && !container.isEmpty() ? container.get(0) + " (" + system + ")" : system;
  }

  private List<String> warnings(Asset asset, Trail trail) {
    var warnings = new ArrayList<String>();
    if (asset.card().retired()) {
      warnings.add("It is retired: its tool no longer has it.");
    }
    for (RunQueries.NewestRun run : runs.newestRuns(trail.jobs.toArray(String[]::new))) {
      if (run.state().equals("failed") || run.state().equals("aborted")) {
        String what = catalog.asset(run.job()).map(Asset::shown).orElse(run.job());
        boolean isTold = run.error() != null && catalog.isSeen(run.job());
        String why = isTold ? ": " + firstLine(run.error()) : "";
        warnings.add("The last load of “" + what + "” failed" + why);
      }
    }
    return warnings;
  }

  private static String firstLine(String text) {
    return text.lines().findFirst().orElse("");
  }

  /** The stops between a field and where it is captured, the nearest first. */
  private final class Trail {
    private final LineageGraph graph;
    private final List<ReaderStop> stops = new ArrayList<>();
    private final Set<String> jobs = new TreeSet<>();
    private int more;

    Trail(LineageGraph graph) {
      this.graph = graph;
    }

    void walk(int start) {
      var hops = new LinkedHashMap<Integer, Integer>();
      var called = new LinkedHashMap<Integer, String>(); // by the stop that led there
      var queue = new ArrayDeque<Integer>();
      if (start >= 0 && !graph.isRows(start)) {
        hops.put(start, 0);
        queue.add(start);
      }
      while (!queue.isEmpty()) {
        int node = queue.poll();
        Map<Integer, Flow> sources = sources(node);
        if (stops.size() < MAX_STOPS) {
          stops.add(stop(node, hops.get(node), sources, called.get(node)));
        } else {
          more++;
        }
        for (int source : sources.keySet()) {
          if (hops.putIfAbsent(source, hops.get(node) + 1) == null) {
            called.put(source, lastName(node));
            queue.add(source);
          }
        }
      }
    }

    /** The fields whose values arrive in one, with how. */
    private Map<Integer, Flow> sources(int node) {
      var sources = new LinkedHashMap<Integer, Flow>();
      for (GraphLink link : graph.links(node, Direction.UPSTREAM)) {
        if (link.flow().carriesValues() && !graph.isRows(link.from())) {
          sources.merge(link.from(), link.flow(), (a, b) -> a.ordinal() >= b.ordinal() ? a : b);
          String owner = graph.owner(link.owner());
          if (Reference.isJob(owner)) {
            jobs.add(owner);
          }
        }
      }
      return sources;
    }

    private String lastName(int node) {
      Kind kind = kind(assetRef(node));
      if (kind == Kind.RESTRICTED) {
        return "a restricted field";
      }
      String name = fieldName(graph.columnOf(node));
      boolean isPage = kind == Kind.REPORT || kind == Kind.DASHBOARD;
      return isPage ? name.substring(name.indexOf('.') + 1) : name;
    }

    private String assetRef(int node) {
      return graph.assetReference(graph.assetOf(node));
    }

    private Kind kind(String ref) {
      return catalog.asset(ref).map(Asset::kind).orElse(Kind.DATASET);
    }

    private ReaderStop stop(
        int node, int hops, Map<Integer, Flow> sources, @Nullable String calledLater) {
      String ref = assetRef(node);
      Asset asset = catalog.asset(ref).orElse(null);
      String name = lastName(node);
      String place = asset == null ? ref : asset.shown();
      Card.Column column = asset == null ? null : column(asset, graph.columnOf(node));
      return new ReaderStop(
          graph.reference(node),
          name,
          place,
          kind(ref).word(),
          where(ref),
          hops,
          sentence(node, name, place, sources),
          column == null ? null : column.calculation(),
          calledLater != null && !calledLater.equals(name),
          sources.isEmpty());
    }

    private String sentence(int node, String name, String place, Map<Integer, Flow> sources) {
      String in = "In “" + place + "”, " + name + " ";
      if (sources.isEmpty()) {
        return unknownBefore(node, name, place);
      }
      var words = new LinkedHashSet<String>();
      Flow strongest = Flow.IDENTITY;
      String own = assetRef(node);
      String other = null;
      boolean isOneOther = true;
      for (var source : sources.entrySet()) {
        strongest = stronger(strongest, source.getValue());
        String from = assetRef(source.getKey());
        isOneOther &= other == null || other.equals(from);
        other = from;
      }
      for (int source : sources.keySet()) {
        String from = assetRef(source);
        boolean isNamed = !from.equals(own) && !isOneOther;
        words.add(lastName(source) + (isNamed ? " of “" + shown(from) + "”" : ""));
      }
      String of =
          isOneOther && !own.equals(other) ? " of “" + shown(String.valueOf(other)) + "”" : "";
      String list = list(List.copyOf(words)) + of;
      return switch (strongest) {
        case HOLDS -> "“" + place + "” shows " + list + ".";
        case AGGREGATION -> in + "is summarised from " + list + ".";
        case TRANSFORMATION -> in + "is calculated from " + list + ".";
        default -> in + "is taken from " + list + ", unchanged.";
      };
    }

    private Flow stronger(Flow a, Flow b) {
      if (a == Flow.HOLDS || b == Flow.HOLDS) {
        return Flow.HOLDS;
      }
      if (a == Flow.AGGREGATION || b == Flow.AGGREGATION) {
        return Flow.AGGREGATION;
      }
      return a == Flow.TRANSFORMATION || b == Flow.TRANSFORMATION ? Flow.TRANSFORMATION : a;
    }

    /** Why the way ends here: captured, only known as a whole, or described by nobody. */
    private String unknownBefore(int node, String name, String place) {
      var whole = new TreeSet<String>();
      for (GraphLink link : graph.links(graph.rowsOf(graph.assetOf(node)), Direction.UPSTREAM)) {
        String from = assetRef(link.from());
        if (!from.equals(assetRef(node)) && link.flow() == Flow.COARSE) {
          whole.add("“" + shown(from) + "”");
        }
      }
      if (!whole.isEmpty()) {
        return "“"
            + place
            + "” is made from "
            + list(List.copyOf(whole))
            + "; which of its fields become "
            + name
            + " is not known.";
      }
      boolean isDescribed =
          catalog.asset(assetRef(node)).map(a -> a.card().described()).orElse(false);
      String system = catalog.systemOf(assetRef(node));
      return isDescribed
          ? name + " is captured in “" + place + "” of " + system + "."
          : name
              + " is read from “"
              + place
              + "” of "
              + system
              + ", of which nothing more is known.";
    }

    private String shown(String ref) {
      return catalog.asset(ref).map(Asset::shown).orElse(ref);
    }

    private static String list(List<String> words) {
      int last = words.size() - 1;
      return last == 0
          ? words.get(0)
          : String.join(", ", words.subList(0, last)) + " and " + words.get(last);
    }

    /** The nearest stop with a definition, along values that stay what they are. */
    private @Nullable ReaderField defined() {
      for (ReaderStop stop : stops) {
        int hash = stop.ref().indexOf('#');
        Asset asset = catalog.asset(stop.ref().substring(0, hash)).orElse(null);
        Card.Column column = asset == null ? null : column(asset, stop.ref().substring(hash + 1));
        if (column != null && column.description() != null) {
          return new ReaderField(stop.ref(), stop.place(), column.description(), null);
        }
        if (stop.calculation() != null || stop.sentence().contains("calculated from")) {
          return null; // what lies before a calculation means something else
        }
      }
      return null;
    }
  }
}
