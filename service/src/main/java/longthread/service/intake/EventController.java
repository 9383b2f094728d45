package longthread.service.intake;

import java.nio.charset.StandardCharsets;
import java.sql.Timestamp;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.event.EventFacts;
import longthread.core.event.EventReader;
import longthread.core.event.FacetFact;
import longthread.core.event.Shape;
import longthread.core.event.UnreadableEventException;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** One event opened: its bytes, the facts it gave, the assets it touched. */
@RestController
class EventController {
  /**
   * A facet that the event carried.
   *
   * @param about the dataset, job or run it is about, and for a run's part in which role
   * @param stands whether its value is the current one
   */
  record FacetTold(String about, String role, String key, boolean stands) {}

  record LinkTold(String from, String to, String flow, boolean masking) {}

  /**
   * An event.
   *
   * @param body the bytes as received, as text; null once they are aged
   * @param problem why it was refused; null if it was accepted
   */
  record EventDetail(
      String id,
      Instant receivedAt,
      @Nullable String source,
      int bytes,
      @Nullable String body,
      @Nullable String problem,
      @Nullable String type,
      @Nullable Instant eventTime,
      boolean farFuture,
      @Nullable String producer,
      @Nullable String job,
      @Nullable String run,
      List<String> inputs,
      List<String> outputs,
      List<LinkTold> links,
      List<FacetTold> facets,
      List<String> touched,
      List<String> changed) {}

  private final JdbcTemplate jdbc;

  EventController(JdbcTemplate jdbc) {
    this.jdbc = jdbc;
  }

  /** Opens the event with this id, as {@code GET /api/v1/intake} lists it. */
  @GetMapping("/api/v1/intake/event")
  EventDetail event(@RequestParam String id) {
    int dot = id.indexOf('.');
    long block;
    int position;
    try {
      block = Long.parseLong(id.substring(0, Math.max(0, dot)));
      position = Integer.parseInt(id.substring(dot + 1));
    } catch (NumberFormatException e) {
      throw ProblemException.badRequest(
          "bad-id", "'" + id + "' is no id of an event; take one that GET /api/v1/intake lists");
    }
    List<Map<String, Object>> found =
        jdbc.queryForList(
            "select received_at, source, body, events from event_block where id = ?", block);
    if (found.isEmpty() || position < 0 || position >= (int) found.get(0).get("events")) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-event",
          "There is no such event",
          "no event has the id " + id + "; GET /api/v1/intake lists the newest");
    }
    Map<String, Object> row = found.get(0);
    byte[] body = (byte[]) row.get("body");
    byte[] bytes = body == null ? null : Packed.entries(body).get(position).bytes();
    Instant received = ((Timestamp) row.get("received_at")).toInstant();
    return detail(id, block, position, received, (String) row.get("source"), bytes);
  }

  private EventDetail detail(
      String id,
      long block,
      int position,
      Instant received,
      @Nullable String source,
      byte @Nullable [] bytes) {
    List<String> changed =
        jdbc.query(
            "select unnest(changed) from recent_event where block_id = ? and position = ?",
            (row, n) -> row.getString(1),
            block,
            position);
    EventFacts facts = null;
    String problem = null;
    try {
      facts = bytes == null ? null : EventReader.read(bytes, received);
    } catch (UnreadableEventException e) {
      problem = e.reason();
    }
    var links = new ArrayList<LinkTold>();
    var touched = new TreeSet<String>();
    List<Shape> shapes = new ArrayList<>();
    if (facts != null) {
      shapes.add(facts.shape());
      facts.declared().values().forEach(stated -> shapes.add(stated.shape()));
      facts.jobs().forEach(job -> touched.add(job.reference()));
      facts.datasets().forEach(dataset -> touched.add(dataset.reference()));
    }
    Shape shape = Shape.union(shapes);
    shape
        .columns()
        .forEach(
            link ->
                links.add(
                    new LinkTold(
                        link.from().reference(),
                        link.to().reference(),
                        link.flow().name(),
                        link.masking())));
    return new EventDetail(
        id,
        received,
        source,
        bytes == null ? 0 : bytes.length,
        bytes == null ? null : new String(bytes, StandardCharsets.UTF_8),
        problem,
        facts == null ? null : facts.type(),
        facts == null ? null : facts.at().at(),
        facts != null && facts.at().farFuture(),
        facts == null ? null : facts.emitter().producer(),
        facts == null || facts.job() == null ? null : facts.job().reference(),
        facts == null ? null : facts.run().map(run -> "run:" + run.run()).orElse(null),
        shape.inputs().stream().map(d -> d.reference()).toList(),
        shape.outputs().stream().map(d -> d.reference()).toList(),
        links,
        facts == null ? List.of() : told(facts.facets()),
        List.copyOf(touched),
        changed);
  }

  private List<FacetTold> told(List<FacetFact> facts) {
    Set<String> standing = standing(facts);
    var told = new ArrayList<FacetTold>();
    for (FacetFact fact : facts) {
      String about;
      String role;
      if (fact.subject() instanceof FacetFact.OfDataset of) {
        about = of.dataset().reference();
        role = "dataset";
      } else if (fact.subject() instanceof FacetFact.OfJob of) {
        about = of.job().reference();
        role = "job";
      } else if (fact.subject() instanceof FacetFact.OfRunDataset of) {
        about = of.dataset().reference();
        role = of.output() ? "written" : "read";
      } else {
        about = "run:" + ((FacetFact.OfRun) fact.subject()).run();
        role = "run";
      }
      boolean ofRun = !role.equals("dataset") && !role.equals("job");
      boolean stands = ofRun || standing.contains(about + "\n" + fact.key() + "\n" + fact.digest());
      told.add(new FacetTold(about, role, fact.key(), stands));
    }
    return told;
  }

  /** The current facets of what some facts are about, as reference, key and digest. */
  private Set<String> standing(List<FacetFact> facts) {
    var datasets = new HashSet<String>();
    var jobs = new HashSet<String>();
    for (FacetFact fact : facts) {
      if (fact.subject() instanceof FacetFact.OfDataset of) {
        datasets.add(of.dataset().reference());
      } else if (fact.subject() instanceof FacetFact.OfJob of) {
        jobs.add(of.job().reference());
      }
    }
    return new HashSet<>(
        jdbc.queryForList(
            "select d.ref || E'\\n' || f.key || E'\\n' || encode(f.digest, 'hex') from facet_now f"
                + " join dataset d on f.subject_kind = 1 and d.id = f.subject_id"
                + " where d.ref = any(?) union all"
                + " select j.ref || E'\\n' || f.key || E'\\n' || encode(f.digest, 'hex')"
                + " from facet_now f join job j on f.subject_kind = 2 and j.id = f.subject_id"
                + " where j.ref = any(?)",
            String.class,
            datasets.toArray(String[]::new),
            jobs.toArray(String[]::new)));
  }
}
