package longthread.core.snapshot;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.BufferUnderflowException;
import java.nio.ByteBuffer;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.OptionalInt;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.IntConsumer;
import java.util.zip.ZipEntry;
import java.util.zip.ZipInputStream;
import longthread.core.asset.Card;
import longthread.core.asset.Kind;
import longthread.core.asset.Reference;
import longthread.core.asset.ShortNames;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphImage;
import longthread.core.graph.LineageGraph;
import longthread.core.impact.BadStepException;
import longthread.core.impact.Change;
import longthread.core.impact.Impact;
import longthread.core.impact.ImpactAnalysis;
import longthread.core.impact.PlannedSteps;
import longthread.core.json.CanonicalJson;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;

/**
 * The catalog as of a moment: what there is, whose it is, and all links. It answers what a planned
 * change does as the service answers it, by the same analysis. For one thread.
 */
public final class Snapshot {
  static final String HEAD = "snapshot.json";
  static final String ASSETS = "assets.ndjson";
  static final String COLUMNS = "columns.ndjson";
  static final String GRAPH = "graph";

  /** The form of the files that this version writes and reads. */
  public static final int FORM = 1;

  /**
   * @param form {@link #FORM} when it was written
   * @param takenAt when the service wrote it
   * @param change the number of the graph change up to which it goes
   * @param console the address of the service's console
   */
  public record Head(int form, Instant takenAt, long change, String console) {}

  /** A column of an asset's schema. */
  public record Column(String path, @Nullable String type) {}

  /** What a text names; {@code column} is null for the whole asset, {@code *} for its rows. */
  public record Named(String ref, @Nullable String column) {
    public String full() {
      return column == null ? ref : ref + "#" + column;
    }
  }

  /**
   * What steps do.
   *
   * @param refs the references of the steps in full
   */
  public record Judged(List<String> refs, List<Impact.Item> items) {}

  /** One step of a planned change. */
  public record Step(String change, String of, @Nullable String to) {}

  private final Head head;
  private final LineageGraph graph;
  private final byte[] columnLines;
  private final Map<String, SnapshotAsset> byRef = new HashMap<>();
  private final Map<String, String> leads = new HashMap<>(); // by part
  private final Map<String, Set<SnapshotAsset>> byLastWord = new HashMap<>();
  private final Map<String, Integer> lineOf = new HashMap<>(); // in the columns
  private int @Nullable [] lineStarts;

  private Snapshot(Head head, List<SnapshotAsset> assets, byte[] columnLines, LineageGraph graph) {
    this.head = head;
    this.graph = graph;
    this.columnLines = columnLines;
    for (SnapshotAsset asset : assets) {
      lineOf.put(asset.ref(), byRef.size());
      byRef.put(asset.ref(), asset);
      asset.parts().forEach(part -> leads.put(part, asset.ref()));
    }
  }

  // ------------------------------------------------------------------ reading

  /**
   * Reads a snapshot. Takes time linear in its size.
   *
   * @throws BadSnapshotException if it is none, is damaged, or is of another form
   */
  public static Snapshot read(InputStream in) throws BadSnapshotException {
    var entries = new HashMap<String, byte[]>();
    try (var zip = new ZipInputStream(in)) {
      for (ZipEntry entry = zip.getNextEntry(); entry != null; entry = zip.getNextEntry()) {
        entries.put(entry.getName(), zip.readAllBytes()); // checks its sum
      }
      Head head = head(entries.get(HEAD));
      for (String name : List.of(ASSETS, COLUMNS, GRAPH)) {
        if (!entries.containsKey(name)) {
          throw new BadSnapshotException("it has no " + name + "; take it again");
        }
      }
      var assets = new ArrayList<SnapshotAsset>();
      try (var lines =
          CanonicalJson.LAST_WINS
              .readerFor(SnapshotAsset.class)
              .<SnapshotAsset>readValues(new ByteArrayInputStream(entries.get(ASSETS)))) {
        lines.forEachRemaining(assets::add);
      }
      LineageGraph graph =
          GraphImage.read(ByteBuffer.wrap(entries.get(GRAPH)), ref -> ref).current();
      return new Snapshot(head, assets, entries.get(COLUMNS), graph);
    } catch (IOException
        | JacksonException
        | BufferUnderflowException
        | IndexOutOfBoundsException
        | NegativeArraySizeException e) {
      throw new BadSnapshotException("it is damaged (" + e.getMessage() + "); take it again");
    }
  }

  private static Head head(byte @Nullable [] json) throws BadSnapshotException {
    if (json == null) {
      throw new BadSnapshotException("it is no snapshot; take one with: longthread snapshot FILE");
    }
    int form = CanonicalJson.MAPPER.readTree(json).path("form").intValue(0);
    if (form != FORM) {
      throw new BadSnapshotException(
          "it is of form " + form + " and this version reads form " + FORM + "; take it again");
    }
    return CanonicalJson.MAPPER.readValue(json, Head.class);
  }

  public Head head() {
    return head;
  }

  /** The asset or job that leads under a reference; null if only links mention it. */
  public @Nullable SnapshotAsset asset(String ref) {
    return byRef.get(ref);
  }

  private List<Column> columns(String ref) {
    Integer line = lineOf.get(ref);
    if (line == null) {
      return List.of();
    }
    int[] starts = lineStarts;
    if (starts == null) {
      starts = starts();
      lineStarts = starts;
    }
    return CanonicalJson.LAST_WINS.readValue(
        columnLines,
        starts[line],
        starts[line + 1] - starts[line],
        CanonicalJson.LAST_WINS.constructType(new TypeReference<List<Column>>() {}));
  }

  private int[] starts() {
    int[] starts = new int[byRef.size() + 1];
    int line = 0;
    for (int i = 0; i < columnLines.length && line < byRef.size(); i++) {
      if (columnLines[i] == '\n') {
        starts[++line] = i + 1;
      }
    }
    return starts;
  }

  // ------------------------------------------------------------------ names

  /**
   * Returns what a text names, by the rules of {@link ShortNames}.
   *
   * @throws UnknownNameException if it names nothing here, or several things
   */
  public Named resolve(String text) throws UnknownNameException {
    String given = candidates(Reference.assetOf(text)).isEmpty() ? text.strip() : text;
    String name = Reference.assetOf(given);
    String column = name.length() == given.length() ? null : given.substring(name.length() + 1);
    Set<String> candidates = candidates(name);
    if (candidates.isEmpty() && graph.asset(name).isPresent()) {
      candidates = Set.of(name); // only links know it, so it is named in full
    }
    if (column != null && candidates.size() > 1) {
      // A column may show which of several assets is meant.
      var having = new TreeSet<>(candidates);
      having.removeIf(ref -> ShortNames.column(paths(ref), column) == null);
      candidates = having.isEmpty() ? candidates : having;
    }
    if (candidates.isEmpty()) {
      throw UnknownNameException.unknown(name);
    }
    if (candidates.size() > 1) {
      throw UnknownNameException.ambiguous(name, candidates.stream().sorted().toList());
    }
    String ref = candidates.iterator().next();
    if (column == null || column.equals("*")) {
      return new Named(ref, column);
    }
    String path = ShortNames.column(paths(ref), column);
    if (path == null) {
      throw UnknownNameException.unknownColumn(ref, column);
    }
    return new Named(ref, path);
  }

  private Set<String> candidates(String name) {
    String lead = leads.get(name);
    if (lead != null) {
      return Set.of(lead);
    }
    if (byLastWord.isEmpty()) {
      for (SnapshotAsset asset : byRef.values()) {
        ShortNames.lastWords(asset)
            .forEach(word -> byLastWord.computeIfAbsent(word, k -> new HashSet<>()).add(asset));
      }
    }
    return ShortNames.candidates(
        name, byLastWord.getOrDefault(ShortNames.lastWord(name), Set.of()));
  }

  /** The columns that the schema lists and those that only links know. */
  private Collection<String> paths(String ref) {
    var paths = new LinkedHashSet<String>();
    columns(ref).forEach(column -> paths.add(column.path()));
    graph
        .asset(ref)
        .ifPresent(
            asset ->
                graph.forEachColumn(
                    asset,
                    node -> {
                      if (graph.isLinked(node)) {
                        paths.add(graph.columnOf(node));
                      }
                    }));
    return paths;
  }

  // ------------------------------------------------------------------ judging

  /**
   * Returns what steps do together; see {@link ImpactAnalysis} for how long it takes.
   *
   * @throws UnknownNameException if a step is of something that is not here
   * @throws BadStepException if a step cannot be judged
   */
  public Judged judge(List<Step> steps) throws UnknownNameException, BadStepException {
    var planned = new PlannedSteps(graph, new Estate());
    var changes = new ArrayList<Change>();
    var refs = new ArrayList<String>();
    for (Step step : steps) {
      Change.Kind kind = PlannedSteps.kind(step.change());
      String text = step.of().strip();
      if (Reference.isSystem(text)) {
        String system = system(text.substring(Reference.SYSTEM_PREFIX.length()));
        changes.addAll(
            planned.ofSystem(system, ref -> systemOf(ref).equals(system), jobsOf(system), kind));
        refs.add(Reference.SYSTEM_PREFIX + system);
      } else {
        Named named = resolve(step.of());
        changes.add(planned.of(named.ref(), named.column(), kind, step.to()));
        refs.add(named.full());
      }
    }
    return new Judged(
        refs, ImpactAnalysis.of(graph, changes, new Knowledge(), Integer.MAX_VALUE).items());
  }

  /** The assets on the way to an item, from what is changed. */
  public List<String> thread(Impact.Item item) {
    var thread = new ArrayList<String>();
    item.thread()
        .forEach(
            link -> {
              if (thread.isEmpty()) {
                thread.add(graph.reference(link.from()));
              }
              thread.add(graph.reference(link.to()));
            });
    return thread;
  }

  /** Whether anything is known that reads an asset. */
  public boolean isRead(String ref) {
    OptionalInt asset = graph.asset(ref);
    if (asset.isEmpty()) {
      return false;
    }
    boolean[] read = {false};
    IntConsumer look =
        node ->
            graph.forEachLink(
                node,
                Direction.DOWNSTREAM,
                (to, flow, masking, owner) -> read[0] |= graph.assetOf(to) != asset.getAsInt());
    look.accept(graph.rowsOf(asset.getAsInt()));
    graph.forEachColumn(asset.getAsInt(), look);
    return read[0];
  }

  /** The system of an asset or job. */
  public String systemOf(String ref) {
    SnapshotAsset asset = byRef.get(ref);
    return asset == null ? Card.namespaceOf(ref) : asset.system();
  }

  private String system(String name) throws UnknownNameException {
    var same = new TreeSet<String>();
    for (SnapshotAsset asset : byRef.values()) {
      if (asset.system().equals(name)) {
        return name;
      }
      if (asset.system().equalsIgnoreCase(name)) {
        same.add(asset.system());
      }
    }
    if (same.size() != 1) {
      throw UnknownNameException.unknown(Reference.SYSTEM_PREFIX + name);
    }
    return same.first();
  }

  private List<String> jobsOf(String system) {
    return byRef.values().stream()
        .filter(asset -> asset.system().equals(system) && isJob(asset))
        .map(SnapshotAsset::ref)
        .toList();
  }

  private static boolean isJob(SnapshotAsset asset) {
    return asset.kind().equals(Kind.JOB.word()) || asset.kind().equals(Kind.PIPELINE.word());
  }

  private final class Estate implements PlannedSteps.Estate {
    @Override
    public @Nullable String typeOf(String asset, String column) {
      for (Column known : columns(asset)) {
        if (known.path().equals(column)) {
          return known.type();
        }
      }
      return null;
    }

    @Override
    public Collection<String> outputsOf(String job) {
      SnapshotAsset asset = byRef.get(job);
      return asset == null ? List.of() : asset.outputs();
    }
  }

  private final class Knowledge implements ImpactAnalysis.Knowledge {
    @Override
    public String missing(String owner, String target) {
      return "a snapshot does not say of which columns the sources are reported";
    }

    @Override
    public boolean isLive(String ref) {
      SnapshotAsset asset = byRef.get(ref);
      return asset != null && Kind.valueOf(asset.kind().toUpperCase(Locale.ROOT)).isLive();
    }
  }
}
