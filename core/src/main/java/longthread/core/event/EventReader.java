package longthread.core.event;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.function.Supplier;
import longthread.core.asset.BadNameException;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.event.EventScan.DatasetPart;
import longthread.core.event.EventScan.JobPart;
import longthread.core.event.EventScan.Slice;
import longthread.core.json.CanonicalJson;
import longthread.core.lineage.EncodedLineage;
import longthread.core.lineage.ReportedLineage;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Reads the bytes of one event of the open lineage standard into facts. */
public final class EventReader {
  /** How many bytes of UTF-8 a reference may take; an index of the database holds no more. */
  public static final int MAX_REFERENCE = 2_000;

  /** How many columns one schema may have, nested fields counted. */
  public static final int MAX_COLUMNS = 20_000;

  /** The facets that say where data comes from. */
  private static final Set<String> LINEAGE_FACETS =
      Set.of("columnLineage", "lineage", "longthread_holds");

  /** So many characters fit, even if each has to be percent-encoded or takes three bytes. */
  private static final int SURELY_FITS = MAX_REFERENCE / 3 - 3;

  private static final long SMALL_MEMORY = 1 << 20;

  private EventReader() {}

  /**
   * Checks that {@link #read} will be able to read these bytes, in one streaming pass: an event
   * that passes here is never refused later. Safe for many threads.
   *
   * @param receivedAt when the bytes arrived, against which far-future times are found
   * @return what the emitter should know of it
   * @throws UnreadableEventException as {@link #read}
   */
  public static List<EventWarning> check(byte[] bytes, Instant receivedAt)
      throws UnreadableEventException {
    var reading = new Reading(EventScan.of(bytes), receivedAt, null);
    reading.check();
    return reading.warnings();
  }

  /** Facets of a dataset that also say what this very run read or did. */
  private static final Set<String> OF_THE_RUN_TOO = Set.of("version", "lifecycleStateChange");

  /** Returns all that the event says, as {@link #read(byte[], Instant, FacetMemory)} does. */
  public static EventFacts read(byte[] bytes, Instant receivedAt) throws UnreadableEventException {
    return read(bytes, receivedAt, new FacetMemory(SMALL_MEMORY));
  }

  /**
   * Returns all that the event says, in time and space linear in its size, and faster by what the
   * memory knows already.
   *
   * @param receivedAt when the bytes arrived, against which far-future times are found
   * @throws UnreadableEventException if the bytes are not UTF-8, not JSON, nested deeper than
   *     {@value CanonicalJson#DEEPEST}, or lack what the standard requires
   * @see "OpenLineage spec 2-0-2, RunEvent, JobEvent, DatasetEvent"
   */
  public static EventFacts read(byte[] bytes, Instant receivedAt, FacetMemory memory)
      throws UnreadableEventException {
    return new Reading(EventScan.of(bytes), receivedAt, memory).facts();
  }

  /** One event while it is being read. */
  private static final class Reading {
    private final EventScan scan;
    private final @Nullable FacetMemory memory;
    private final EventTime at;
    private final List<FacetFact> facets = new ArrayList<>();
    private final List<Rename> renames = new ArrayList<>();
    private final TreeSet<DatasetName> datasets = new TreeSet<>();
    private final TreeSet<JobName> jobs = new TreeSet<>();
    private final TreeMap<DatasetName, EncodedLineage> declared = new TreeMap<>();

    Reading(EventScan scan, Instant receivedAt, @Nullable FacetMemory memory)
        throws UnreadableEventException {
      this.scan = scan;
      this.memory = memory;
      this.at =
          EventTime.of(
              TimeReader.read(required(scan.eventTime, "eventTime"), "eventTime"), receivedAt);
    }

    /** All that may be refused, without reading any facet. */
    void check() throws UnreadableEventException {
      required(scan.producer, "producer");
      required(scan.schemaUrl, "schemaURL");
      if (scan.hasRun) {
        uuid(required(scan.runId, "run.runId"));
        jobName();
      } else if (scan.job != null) {
        jobName();
      } else if (scan.dataset != null) {
        name(scan.dataset);
      } else {
        throw new UnreadableEventException(
            "missing-member",
            "the event has none of the members run, job and dataset; a run event needs run and"
                + " job, a job event job, a dataset event dataset");
      }
      for (DatasetPart part : scan.inputs) {
        name(part);
      }
      for (DatasetPart part : scan.outputs) {
        name(part);
      }
    }

    List<EventWarning> warnings() {
      if (scan.repeated == null && !at.farFuture()) {
        return List.of();
      }
      var warnings = new ArrayList<EventWarning>();
      if (scan.repeated != null) {
        warnings.add(EventWarning.repeatedMember(shortened(scan.repeated)));
      }
      if (at.farFuture()) {
        warnings.add(EventWarning.farFuture(String.valueOf(scan.eventTime)));
      }
      return warnings;
    }

    EventFacts facts() throws UnreadableEventException {
      check();
      JobName job = scan.hasRun || scan.job != null ? jobName() : null;
      UUID run = scan.hasRun ? uuid(required(scan.runId, "run.runId")) : null;
      DatasetName dataset =
          job == null ? name(java.util.Objects.requireNonNull(scan.dataset)) : null;
      String version = null;
      String engine = null;
      boolean gap = false;
      if (run != null && job != null) {
        var subject = new FacetFact.OfRun(run, job);
        for (Slice slice : scan.runFacets) {
          FacetFact fact = fact(subject, slice);
          facets.add(fact);
          switch (slice.key()) {
            case "parent" -> parents(fact.value());
            case "extractionError" -> gap = true;
            case "jobDependencies" -> {
              for (String side : List.of("upstream", "downstream")) {
                fact.value().path(side).forEach(other -> addJob(other.path("job")));
              }
              // Reported by a run, but about its job: the newest run's word stands for the job.
              facets.add(
                  new FacetFact(
                      new FacetFact.OfJob(job), fact.key(), at, fact.digest(), fact.json()));
            }
            case "processing_engine" -> {
              version = fact.value().path("openlineageAdapterVersion").stringValue(null);
              engine = engine(fact.value());
            }
            default -> {}
          }
        }
      }
      EncodedLineage reported = EncodedLineage.NOTHING;
      if (job != null) {
        jobs.add(job);
        reported = lists(run, job, gap);
      } else if (dataset != null) {
        List<FacetFact> lineage =
            datasetFacets(dataset, java.util.Objects.requireNonNull(scan.dataset), false);
        declare(dataset, lineage);
        if (lineage.stream().anyMatch(fact -> LineageReader.isStated(fact.value()))) {
          declared.putIfAbsent(dataset, EncodedLineage.NOTHING); // it says that it has none now
        }
      }
      mention(reported);
      declared.values().forEach(this::mention);
      return new EventFacts(
          at,
          new Emitter(required(scan.producer, "producer"), version, engine),
          job,
          dataset,
          run == null || job == null
              ? Optional.empty()
              : Optional.of(new RunFact(run, job, eventType(), at.at(), at.farFuture())),
          reported,
          declared,
          facets,
          renames,
          datasets,
          jobs,
          warnings(),
          null,
          null);
    }

    private void mention(EncodedLineage reported) {
      ReportedLineage lineage = reported.lineage();
      datasets.addAll(lineage.inputs());
      datasets.addAll(lineage.outputs());
      lineage.columns().forEach(link -> datasets.add(link.from().dataset()));
    }

    /**
     * The facets of the job and of all that it reads and writes; returns the lineage they report.
     */
    private EncodedLineage lists(@Nullable UUID run, JobName job, boolean gap)
        throws UnreadableEventException {
      // Which lists with which lineage facets: of equal ones the lineage is worked out once.
      var key = new StringBuilder(gap ? "gap" : "");
      JsonNode jobLineage = null;
      for (Slice slice : java.util.Objects.requireNonNull(scan.job).facets) {
        FacetFact fact = fact(new FacetFact.OfJob(job), slice);
        facets.add(fact);
        if (slice.key().equals("lineage")) {
          jobLineage = fact.value();
          for (JsonNode entry : jobLineage.path("entries")) {
            jobs.addAll(jobsOf(entry));
          }
          key.append(fact.digest());
        }
      }
      key.append(jobLineage == null ? "" : job.reference());
      var written = new ArrayList<DatasetName>();
      var writtenFacets = new ArrayList<List<FacetFact>>();
      for (DatasetPart part : scan.inputs) {
        DatasetName name = name(part);
        datasets.add(name);
        key.append("\n<").append(name.namespace()).append('\n').append(name.name());
        runFacets(run, job, name, part, false);
        declare(name, datasetFacets(name, part, true));
      }
      for (DatasetPart part : scan.outputs) {
        DatasetName name = name(part);
        datasets.add(name);
        key.append("\n>").append(name.namespace()).append('\n').append(name.name());
        runFacets(run, job, name, part, true);
        List<FacetFact> lineage = datasetFacets(name, part, false);
        lineage.forEach(fact -> key.append('\n').append(fact.key()).append(fact.digest()));
        written.add(name);
        writtenFacets.add(lineage);
      }
      FacetMemory known = java.util.Objects.requireNonNull(memory);
      EncodedLineage before = known.lineage(key.toString());
      if (before != null) {
        return before;
      }
      var lineage = new LineageReader();
      for (DatasetPart part : scan.inputs) {
        lineage.reads(name(part));
      }
      for (int i = 0; i < written.size(); i++) {
        lineage.writes(written.get(i));
        for (FacetFact fact : writtenFacets.get(i)) {
          lineage.facet(written.get(i), fact.key(), fact.value());
        }
      }
      if (jobLineage != null) {
        lineage.jobLineage(job, jobLineage);
      }
      if (gap) {
        lineage.sawGap();
      }
      return known.remember(key.toString(), EncodedLineage.of(lineage.lineage()));
    }

    /** What a dataset reports of its own sources: it needs no job for that. */
    private void declare(DatasetName dataset, List<FacetFact> lineageFacets) {
      if (lineageFacets.isEmpty()) {
        return;
      }
      var reader = new LineageReader();
      lineageFacets.forEach(fact -> reader.facet(dataset, fact.key(), fact.value()));
      if (!reader.lineage().isEmpty()) {
        declared.put(dataset, EncodedLineage.of(reader.lineage()));
      }
    }

    /** Notes the facets of a dataset; returns those that report lineage. */
    private List<FacetFact> datasetFacets(DatasetName name, DatasetPart part, boolean read) {
      datasets.add(name);
      var lineage = new ArrayList<FacetFact>();
      for (Slice slice : part.facets) {
        FacetMemory.Read known = read(slice);
        FacetFact fact = fact(new FacetFact.OfDataset(name), slice, known);
        if (read && fact.key().equals(FacetFact.SCHEMA)) {
          fact = fact.withKey(FacetFact.READ_SCHEMA);
        }
        facets.add(fact);
        if (LINEAGE_FACETS.contains(slice.key())) {
          lineage.add(fact);
          jobs.addAll(jobsOf(known));
        } else if (slice.key().equals("symlinks")) {
          for (JsonNode link : fact.value().path("identifiers")) {
            addIfNamed(link);
          }
        } else if (slice.key().equals("lifecycleStateChange")) {
          renamed(name, fact.value());
        }
      }
      return lineage;
    }

    private void renamed(DatasetName to, JsonNode lifecycle) {
      DatasetName from = LineageReader.dataset(lifecycle.path("previousIdentifier"));
      if ("RENAME".equalsIgnoreCase(lifecycle.path("lifecycleStateChange").stringValue(""))
          && from != null
          && !from.equals(to)
          && !at.farFuture()) {
        renames.add(new Rename(from, to, at.at()));
        datasets.add(from);
      }
    }

    private void addIfNamed(JsonNode node) {
      DatasetName name = LineageReader.dataset(node);
      if (name != null) {
        datasets.add(name);
      }
    }

    private void runFacets(
        @Nullable UUID run, JobName job, DatasetName name, DatasetPart part, boolean output) {
      if (run != null) {
        for (Slice slice : part.runFacets) {
          facets.add(fact(new FacetFact.OfRunDataset(run, job, name, output), slice));
        }
        for (Slice slice : part.facets) {
          if (OF_THE_RUN_TOO.contains(slice.key())) {
            facets.add(fact(new FacetFact.OfRunDataset(run, job, name, output), slice));
          }
        }
      }
    }

    private FacetFact fact(FacetFact.Subject subject, Slice slice) {
      return fact(subject, slice, read(slice));
    }

    private FacetFact fact(FacetFact.Subject subject, Slice slice, FacetMemory.Read read) {
      if (HandFacet.isHand(slice.key())) {
        // What people set has keys of this form; a program's facet must not pass for it.
        slice = new Slice("reported " + slice.key(), slice.start(), slice.end());
      }
      return new FacetFact(subject, slice.key(), at, read.known().digest(), read.value());
    }

    private FacetMemory.Read read(Slice slice) {
      return java.util.Objects.requireNonNull(memory)
          .facet(scan.bytes(), slice.start(), slice.end());
    }

    /** Jobs named as parents exist, whether or not they ever report. */
    private void parents(JsonNode parent) {
      addJob(parent.path("job"));
      addJob(parent.path("root").path("job"));
    }

    /** So do those that lineage names as sources or targets. */
    /** The jobs that a lineage facet names; of a text that was read before they are known. */
    private static List<JobName> jobsOf(FacetMemory.Read facet) {
      List<JobName> named = facet.known().jobs();
      if (named == null) {
        named = jobsOf(facet.value().tree());
        facet.known().noteJobs(named);
      }
      return named;
    }

    private static List<JobName> jobsOf(JsonNode lineage) {
      var found = new ArrayList<JobName>();
      addIfJob(lineage, found);
      lineage.path("inputs").forEach(source -> addIfJob(source, found));
      for (JsonNode field : lineage.path("fields")) {
        field.path("inputs").forEach(source -> addIfJob(source, found));
      }
      return found;
    }

    private static void addIfJob(JsonNode source, List<JobName> found) {
      JobName name = LineageReader.isJob(source) ? LineageReader.job(source) : null;
      if (name != null) {
        found.add(name);
      }
    }

    private void addJob(JsonNode node) {
      JobName name = LineageReader.job(node);
      if (name != null) {
        jobs.add(name);
      }
    }

    private @Nullable String eventType() {
      return scan.eventType == null ? null : scan.eventType.toUpperCase(Locale.ROOT);
    }

    private JobName jobName() throws UnreadableEventException {
      JobPart part = scan.job;
      if (part == null) {
        throw missing("job");
      }
      try {
        var name =
            new JobName(required(part.namespace, "job.namespace"), required(part.name, "job.name"));
        checkLength(fits(name), name.name());
        return name;
      } catch (BadNameException e) {
        throw new UnreadableEventException("bad-name", e.getMessage());
      }
    }

    private static DatasetName name(DatasetPart part) throws UnreadableEventException {
      try {
        var name =
            new DatasetName(
                required(part.namespace, part.path + ".namespace"),
                required(part.name, part.path + ".name"));
        checkLength(fits(name), name.name());
        if (HandFacet.isRegister(name)) {
          throw new UnreadableEventException(
              "bad-name",
              part.path
                  + ".namespace is '"
                  + name.namespace()
                  + "', which is reserved for what people set in the catalog; use another");
        }
        return name;
      } catch (BadNameException e) {
        throw new UnreadableEventException("bad-name", part.path + ": " + e.getMessage());
      }
    }
  }

  private static @Nullable String engine(JsonNode engine) {
    String name = engine.path("name").stringValue(null);
    String version = engine.path("version").stringValue(null);
    return name == null ? version : version == null ? name : name + " " + version;
  }

  static boolean fits(DatasetName name) {
    return fits(name.namespace(), name.name(), name::reference);
  }

  static boolean fits(JobName name) {
    return fits(name.namespace(), name.name(), name::reference);
  }

  private static boolean fits(String namespace, String name, Supplier<String> reference) {
    return namespace.length() + name.length() <= SURELY_FITS
        || reference.get().getBytes(StandardCharsets.UTF_8).length <= MAX_REFERENCE;
  }

  private static void checkLength(boolean fits, String reference) throws UnreadableEventException {
    if (!fits) {
      throw new UnreadableEventException(
          "bad-name",
          "the name "
              + shortened(reference)
              + " takes more than "
              + MAX_REFERENCE
              + " bytes as a reference, and no more can be kept; shorten it");
    }
  }

  private static String required(@Nullable String text, String path)
      throws UnreadableEventException {
    if (text == null) {
      throw missing(path);
    }
    return text;
  }

  private static UUID uuid(String text) throws UnreadableEventException {
    if (text.length() == 36) {
      try {
        return UUID.fromString(text);
      } catch (IllegalArgumentException e) {
        // reported below, like any other text that is not a UUID
      }
    }
    throw new UnreadableEventException(
        "bad-uuid", "run.runId is '" + shortened(text) + "'; the standard asks for a UUID");
  }

  static String shortened(String text) {
    return text.length() <= 60 ? text : text.substring(0, 60) + "…";
  }

  private static UnreadableEventException missing(String path) {
    return new UnreadableEventException(
        "missing-member", "the required member " + path + " is missing; add it and send again");
  }
}
