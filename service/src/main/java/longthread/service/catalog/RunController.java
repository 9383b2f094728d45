package longthread.service.catalog;

import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import longthread.core.asset.Reference;
import longthread.core.event.CanonicalJson;
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.service.lineage.GraphFollower;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** Runs across jobs, and one run opened. */
@RestController
class RunController {
  record Runs(List<RunReader.RunRow> runs, Map<String, Integer> states, @Nullable String cursor) {}

  /**
   * A dataset that a run read or wrote.
   *
   * @param subset which part of it, in words; null if all of it, or nothing was said
   */
  record Part(
      String ref,
      String name,
      String kind,
      boolean written,
      @Nullable Long rows,
      @Nullable Long bytes,
      @Nullable String subset) {}

  /** One run with the runs it started, what it touched, and all facets it carried. */
  record RunDetail(
      RunReader.RunRow run,
      boolean noEndReported,
      List<RunReader.RunRow> tasks,
      List<Part> parts,
      Map<String, Object> facets) {}

  private final RunReader runs;
  private final References references;
  private final Catalog catalog;
  private final GraphFollower follower;
  private final Pages pages;
  private final JdbcTemplate jdbc;

  RunController(
      RunReader runs,
      References references,
      Catalog catalog,
      GraphFollower follower,
      Pages pages,
      JdbcTemplate jdbc) {
    this.runs = runs;
    this.references = references;
    this.catalog = catalog;
    this.follower = follower;
    this.pages = pages;
    this.jdbc = jdbc;
  }

  @GetMapping("/api/v1/runs")
  Runs runs(
      @RequestParam(required = false) @Nullable String job,
      @RequestParam(required = false) @Nullable String pipeline,
      @RequestParam(required = false) @Nullable String state,
      @RequestParam(required = false) @Nullable String system,
      @RequestParam(defaultValue = "false") boolean outermost,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor,
      @RequestParam(required = false) @Nullable String after) {
    follower.see(after);
    int most = Pages.limit(limit);
    if (state != null && !List.of("completed", "failed", "aborted", "running").contains(state)) {
      throw ProblemException.badRequest(
          "unknown-state",
          "'" + state + "' is no state of a run; take completed, failed, aborted or running");
    }
    Pages.Page<RunReader.RunRow> page =
        cursor != null
            ? pages.next(cursor, most)
            : pages.first(
                runs.runs(
                    new RunReader.Wanted(
                        named(job), named(pipeline), state, system, null, null, outermost),
                    5_000),
                most);
    var states = new TreeMap<String, Integer>();
    page.items().forEach(run -> states.merge(run.state(), 1, Integer::sum));
    return new Runs(page.items(), states, page.cursor());
  }

  private @Nullable String named(@Nullable String job) {
    if (job == null || job.isBlank()) {
      return null;
    }
    return references.resolve(job).asset().ref();
  }

  @GetMapping("/api/v1/run")
  RunDetail run(@RequestParam String ref) {
    if (!(Reference.parse(ref.startsWith("run:") ? ref : "run:" + ref)
        instanceof Reference.OfRun wanted)) {
      throw ProblemException.badRequest("bad-reference", "'" + ref + "' does not name a run");
    }
    UUID id = wanted.run();
    List<RunReader.RunRow> found = runs.run(id);
    if (found.isEmpty()) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-run",
          "No such run is known",
          "no event of " + wanted.text() + " was taken in; GET /api/v1/runs lists the newest");
    }
    RunReader.RunRow run = found.get(0);
    var facets = new TreeMap<String, Object>();
    var rows = new TreeMap<String, JsonNode>();
    var subsets = new TreeMap<String, String>();
    jdbc.query(
        "select f.role, coalesce(d.ref, ''), f.key, b.body from run_facet f join facet_body b"
            + " using (digest) left join dataset d on d.id = f.dataset_id where f.run_id = ?"
            + " order by f.at_s, f.at_n, f.digest",
        row -> {
          JsonNode value = StoredText.json(row.getBytes(4));
          if (row.getInt(1) == 0) {
            facets.put(row.getString(3), value);
          } else if (row.getString(3).endsWith("putStatistics")) {
            rows.put(row.getInt(1) + " " + row.getString(2), value);
          } else if (row.getString(3).equals("subset")) {
            subsets.put("1 " + row.getString(2), SubsetWords.of(value.path("inputCondition")));
          } else if (row.getString(3).equals("outputSubset")) {
            subsets.put("2 " + row.getString(2), SubsetWords.of(value.path("outputCondition")));
          }
        },
        id);
    Shape shape =
        Shape.union(
            jdbc.query(
                "select s.body from run_shape r join shape s using (digest) where r.run_id = ?",
                (row, n) -> ShapeText.read(StoredText.text(row.getBytes(1))),
                id));
    var parts = new java.util.ArrayList<Part>();
    shape.inputs().forEach(d -> parts.add(part(d.reference(), false, rows, subsets)));
    shape.outputs().forEach(d -> parts.add(part(d.reference(), true, rows, subsets)));
    return new RunDetail(
        run,
        run.noEnd(),
        runs.runs(new RunReader.Wanted(null, null, null, null, id, null, false), 500),
        parts,
        facets);
  }

  private Part part(
      String ref, boolean written, Map<String, JsonNode> statistics, Map<String, String> subsets) {
    JsonNode figures =
        statistics.getOrDefault(
            (written ? "2 " : "1 ") + ref, CanonicalJson.MAPPER.createObjectNode());
    Asset asset = catalog.asset(ref).orElse(null);
    return new Part(
        ref,
        asset == null ? ref : asset.shown(),
        asset == null ? "dataset" : asset.kind().word(),
        written,
        CanonicalJson.whole(figures.path("rowCount")),
        CanonicalJson.whole(figures.path("size")),
        subsets.get((written ? "2 " : "1 ") + ref));
  }
}
