package longthread.core.event;

import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.BadNameException;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.core.exc.StreamConstraintsException;
import tools.jackson.databind.JsonNode;

/** Reads the bytes of one event of the open lineage standard into facts. */
public final class EventReader {
  /** How many bytes of UTF-8 a reference may take; an index of the database holds no more. */
  public static final int LONGEST_REFERENCE = 2_000;

  private static final int LONGEST_KEY = 500;

  private EventReader() {}

  /**
   * Returns all that the event says, in time and space linear in its size. Safe for many threads.
   *
   * @param receivedAt when the bytes arrived, against which far-future times are told
   * @throws UnreadableEventException if the bytes are not UTF-8, not JSON, nested deeper than
   *     {@value CanonicalJson#DEEPEST}, or lack what the standard requires
   * @see "OpenLineage spec 2-0-2, RunEvent, JobEvent, DatasetEvent"
   */
  public static EventFacts read(byte[] bytes, Instant receivedAt) throws UnreadableEventException {
    JsonNode event = parse(bytes);
    if (!event.isObject()) {
      throw new UnreadableEventException(
          "not-an-object", "an event is a JSON object; this is " + kindOf(event));
    }
    try {
      return new Reading(event, receivedAt).facts();
    } catch (BadNameException e) {
      throw new UnreadableEventException("bad-name", e.getMessage());
    }
  }

  private static JsonNode parse(byte[] bytes) throws UnreadableEventException {
    String text;
    try {
      text = StandardCharsets.UTF_8.newDecoder().decode(ByteBuffer.wrap(bytes)).toString();
    } catch (CharacterCodingException e) {
      throw new UnreadableEventException(
          "not-utf-8", "the body is not UTF-8 text; send JSON encoded as UTF-8");
    }
    try {
      return CanonicalJson.MAPPER.readTree(text);
    } catch (StreamConstraintsException e) {
      throw new UnreadableEventException(
          "too-deep",
          "the event nests deeper than "
              + CanonicalJson.DEEPEST
              + " levels or holds an overlong number; flatten the facet that does");
    } catch (JacksonException e) {
      var at = e.getLocation();
      String place =
          at == null ? "" : " at line " + at.getLineNr() + ", column " + at.getColumnNr();
      throw new UnreadableEventException(
          "not-json", "the event is not well-formed JSON" + place + ": " + e.getOriginalMessage());
    }
  }

  private static String kindOf(JsonNode node) {
    return node.isMissingNode() ? "empty" : "a " + node.getNodeType().name().toLowerCase();
  }

  /** One event while it is being read. */
  private static final class Reading {
    private final JsonNode event;
    private final EventTime at;
    private final List<FacetFact> facets = new ArrayList<>();
    private final TreeSet<DatasetName> datasets = new TreeSet<>();
    private final TreeSet<JobName> jobs = new TreeSet<>();
    private final ShapeReader shape = new ShapeReader();

    Reading(JsonNode event, Instant receivedAt) throws UnreadableEventException {
      this.event = event;
      this.at = EventTime.of(time(event, "eventTime"), receivedAt);
    }

    EventFacts facts() throws UnreadableEventException {
      String producer = requiredText(event, "producer", "producer");
      requiredText(event, "schemaURL", "schemaURL");
      JobName job = null;
      DatasetName dataset = null;
      Optional<RunFact> run = Optional.empty();
      if (event.has("run")) {
        JsonNode runNode = object(event, "run", "run");
        job = job(object(event, "job", "job"), "job");
        UUID id = uuid(runNode, "run.runId");
        run = Optional.of(new RunFact(id, job, eventType(), at.at(), at.farFuture()));
        facets(new FacetFact.OfRun(id, job), runNode.path("facets"), "run.facets");
        parents(runNode.path("facets").path("parent"));
        if (runNode.path("facets").has("extractionError")) {
          shape.sawGap();
        }
        lists(id, job);
      } else if (event.has("job")) {
        job = job(object(event, "job", "job"), "job");
        lists(null, job);
      } else if (event.has("dataset")) {
        dataset = dataset(object(event, "dataset", "dataset"), "dataset");
      } else {
        throw new UnreadableEventException(
            "missing-member",
            "the event has none of the members run, job and dataset; a run event needs run and"
                + " job, a job event job, a dataset event dataset");
      }
      Shape stated = shape.shape();
      datasets.addAll(stated.inputs());
      datasets.addAll(stated.outputs());
      stated.columns().forEach(link -> datasets.add(link.from().dataset()));
      for (DatasetName name : datasets) {
        checkLength(name.reference());
      }
      for (JobName name : jobs) {
        checkLength(name.reference());
      }
      String text = ShapeText.write(stated);
      return new EventFacts(
          at,
          producer,
          job,
          dataset,
          run,
          stated,
          text,
          CanonicalJson.digest(text),
          facets,
          datasets,
          jobs);
    }

    private static void checkLength(String reference) throws UnreadableEventException {
      int bytes = reference.getBytes(StandardCharsets.UTF_8).length;
      if (bytes > LONGEST_REFERENCE) {
        throw new UnreadableEventException(
            "bad-name",
            "the name "
                + shortened(reference)
                + " takes "
                + bytes
                + " bytes as a reference; at most "
                + LONGEST_REFERENCE
                + " can be kept");
      }
    }

    private @Nullable String eventType() throws UnreadableEventException {
      JsonNode type = event.path("eventType");
      if (type.isMissingNode() || type.isNull()) {
        return null;
      }
      if (!type.isString()) {
        throw wrongType("eventType", "text", type);
      }
      return type.stringValue().toUpperCase(java.util.Locale.ROOT);
    }

    private void lists(@Nullable UUID run, JobName job) throws UnreadableEventException {
      for (String list : List.of("inputs", "outputs")) {
        JsonNode nodes = event.path(list);
        if (nodes.isMissingNode() || nodes.isNull()) {
          continue;
        }
        if (!nodes.isArray()) {
          throw wrongType(list, "a list", nodes);
        }
        boolean output = list.equals("outputs");
        int index = 0;
        for (JsonNode node : nodes) {
          String path = list + "[" + index++ + "]";
          DatasetName name = dataset(node, path);
          if (output) {
            shape.writes(name);
          } else {
            shape.reads(name);
          }
          String key = output ? "outputFacets" : "inputFacets";
          if (run != null) {
            facets(
                new FacetFact.OfRunDataset(run, job, name, output),
                node.path(key),
                path + "." + key);
          }
        }
      }
    }

    private DatasetName dataset(JsonNode node, String path) throws UnreadableEventException {
      if (!node.isObject()) {
        throw wrongType(path, "an object with namespace and name", node);
      }
      var name =
          new DatasetName(
              requiredText(node, "namespace", path + ".namespace"),
              requiredText(node, "name", path + ".name"));
      datasets.add(name);
      JsonNode own = node.path("facets");
      facets(new FacetFact.OfDataset(name), own, path + ".facets");
      shape.columnLineage(name, own.path("columnLineage"));
      shape.lineage(name, own.path("lineage"));
      shape.holds(name, own.path("longthread_holds"));
      for (JsonNode link : own.path("symlinks").path("identifiers")) {
        if (link.path("namespace").isString() && link.path("name").isString()) {
          datasets.add(
              new DatasetName(
                  link.path("namespace").stringValue(), link.path("name").stringValue()));
        }
      }
      return name;
    }

    private JobName job(JsonNode node, String path) throws UnreadableEventException {
      var name =
          new JobName(
              requiredText(node, "namespace", path + ".namespace"),
              requiredText(node, "name", path + ".name"));
      jobs.add(name);
      facets(new FacetFact.OfJob(name), node.path("facets"), path + ".facets");
      return name;
    }

    /** Jobs named as parents exist, whether or not they ever report. */
    private void parents(JsonNode parent) {
      for (JsonNode node : List.of(parent.path("job"), parent.path("root").path("job"))) {
        if (node.path("namespace").isString() && node.path("name").isString()) {
          jobs.add(
              new JobName(node.path("namespace").stringValue(), node.path("name").stringValue()));
        }
      }
    }

    private void facets(FacetFact.Subject subject, JsonNode members, String path)
        throws UnreadableEventException {
      if (members.isMissingNode() || members.isNull()) {
        return;
      }
      if (!members.isObject()) {
        throw wrongType(path, "an object of facets by key", members);
      }
      for (var member : members.properties()) {
        if (member.getKey().length() > LONGEST_KEY) {
          throw new UnreadableEventException(
              "bad-name",
              path + " has a facet key of more than " + LONGEST_KEY + " characters; shorten it");
        }
        if (!member.getValue().isNull()) {
          String text = CanonicalJson.text(member.getValue());
          facets.add(
              new FacetFact(
                  subject, member.getKey(), at, CanonicalJson.digest(text), member.getValue()));
        }
      }
    }
  }

  private static JsonNode object(JsonNode parent, String member, String path)
      throws UnreadableEventException {
    JsonNode node = parent.path(member);
    if (node.isMissingNode() || node.isNull()) {
      throw missing(path);
    }
    if (!node.isObject()) {
      throw wrongType(path, "an object", node);
    }
    return node;
  }

  private static String requiredText(JsonNode parent, String member, String path)
      throws UnreadableEventException {
    JsonNode node = parent.path(member);
    if (node.isMissingNode() || node.isNull()) {
      throw missing(path);
    }
    if (!node.isString()) {
      throw wrongType(path, "text", node);
    }
    return node.stringValue();
  }

  private static UUID uuid(JsonNode run, String path) throws UnreadableEventException {
    String text = requiredText(run, "runId", path);
    if (text.length() == 36) {
      try {
        return UUID.fromString(text);
      } catch (IllegalArgumentException e) {
        // told below, like any other text that is not a UUID
      }
    }
    throw new UnreadableEventException(
        "bad-uuid", path + " is '" + shortened(text) + "'; the standard asks for a UUID");
  }

  private static Instant time(JsonNode parent, String member) throws UnreadableEventException {
    String text = requiredText(parent, member, member);
    try {
      return OffsetDateTime.parse(text).toInstant();
    } catch (DateTimeException e) {
      throw new UnreadableEventException(
          "bad-time",
          member
              + " is '"
              + shortened(text)
              + "'; write a date, a time and an offset, such as 2031-05-01T02:00:00+02:00");
    }
  }

  private static String shortened(String text) {
    return text.length() <= 60 ? text : text.substring(0, 60) + "…";
  }

  private static UnreadableEventException missing(String path) {
    return new UnreadableEventException(
        "missing-member", "the required member " + path + " is missing; add it and send again");
  }

  private static UnreadableEventException wrongType(String path, String wanted, JsonNode node) {
    return new UnreadableEventException(
        "wrong-type", path + " must be " + wanted + ", not " + kindOf(node));
  }
}
