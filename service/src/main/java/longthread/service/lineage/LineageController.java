package longthread.service.lineage;

import io.swagger.v3.oas.annotations.Operation;
import java.time.Clock;
import java.time.Instant;
import longthread.core.asset.Reference;
import longthread.service.exact.ExactLineage;
import longthread.service.live.Receipts;
import longthread.service.live.References;
import longthread.service.web.ProblemException;
import longthread.service.web.Times;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What feeds what, over HTTP. */
@RestController
class LineageController {
  private static final int DEFAULT_HOPS = 3;
  private static final int DEFAULT_NODES = 300;
  private static final int MAX_NODES = 5_000;

  private final LineageViews views;
  private final ReaderViews readers;
  private final References references;
  private final Receipts receipts;
  private final ExactLineage exactLineage;
  private final ExactViews exactViews;
  private final Clock clock;

  LineageController(
      LineageViews views,
      ReaderViews readers,
      ExactLineage exactLineage,
      ExactViews exactViews,
      References references,
      Receipts receipts,
      Clock clock) {
    this.exactLineage = exactLineage;
    this.exactViews = exactViews;
    this.clock = clock;
    this.views = views;
    this.readers = readers;
    this.references = references;
    this.receipts = receipts;
  }

  @GetMapping("/api/v1/reader")
  @Operation(
      operationId = "getReaderView",
      summary = "Explain a field or chart in plain words: meaning, freshness, origin, whom to ask")
  ReaderViews.Reader reader(
      @RequestParam String ref, @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    return readers.of(references.resolve(ref));
  }

  @GetMapping("/api/v1/graph")
  @Operation(
      operationId = "getGraph",
      summary = "Show the neighbourhood of an asset or column, nearest first")
  LineageViews.View graph(
      @RequestParam String ref,
      @RequestParam(defaultValue = "both") String direction,
      @RequestParam(required = false) @Nullable Integer hops,
      @RequestParam(required = false) @Nullable String detail,
      @RequestParam(required = false) @Nullable String asOf,
      @RequestParam(required = false) @Nullable String exact,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    boolean up = !direction.equals("downstream");
    boolean down = !direction.equals("upstream");
    if (up && down && !direction.equals("both")) {
      throw ProblemException.badRequest(
          "bad-direction",
          "'" + direction + "' is not a direction; use upstream, downstream or both");
    }
    int most = limit == null ? DEFAULT_NODES : limit;
    if (most < 1 || most > MAX_NODES) {
      throw ProblemException.badRequest("bad-limit", "limit takes 1 to " + MAX_NODES);
    }
    int far = hops == null ? DEFAULT_HOPS : hops;
    if (far < 0) {
      throw ProblemException.badRequest("bad-hops", "hops takes a number from 0 up");
    }
    if (exact != null) {
      return exact(exact, direction, ref, hops, asOf == null ? null : Times.parse(asOf), most);
    }
    return views.view(
        new LineageViews.Wanted(
            references.resolve(ref),
            up,
            down,
            far,
            detail,
            asOf == null ? null : Times.parse(asOf),
            most));
  }

  /** The runs behind what is in an asset, or behind what a run wrote. */
  private LineageViews.View exact(
      String word,
      String direction,
      String ref,
      @Nullable Integer hops,
      @Nullable Instant at,
      int most) {
    if (!word.equals("run")) {
      throw ProblemException.badRequest(
          "bad-exact", "'" + word + "' is no way to be exact; use exact=run, or leave it out");
    }
    if (direction.equals("downstream")) {
      throw ProblemException.badRequest(
          "bad-direction",
          "exact=run follows runs upstream; what rests on a run is GET /api/v1/recall?ref=run:…");
    }
    int far = hops == null ? Integer.MAX_VALUE : hops;
    if (ref.startsWith(Reference.RUN_PREFIX)) {
      if (!(Reference.parse(ref) instanceof Reference.OfRun run)) {
        throw ProblemException.badRequest("bad-reference", "'" + ref + "' does not name a run");
      }
      return exactViews.of(exactLineage.behind(run.run(), far, most));
    }
    References.Named named = references.resolve(ref);
    if (Reference.isJob(named.asset().ref())) {
      throw ProblemException.badRequest(
          "bad-reference",
          named.ref() + " is a job; name a dataset, a report, or one of its runs as run:…");
    }
    return exactViews.of(
        exactLineage.behind(
            new ExactLineage.Wanted(
                named.asset(),
                named.column(),
                at == null ? clock.instant() : at,
                at != null,
                far,
                most)));
  }

  @GetMapping("/api/v1/thread")
  @Operation(
      operationId = "getThread",
      summary = "Show the shortest explaining path between two assets or columns")
  LineageViews.ThreadAnswer thread(
      @RequestParam String from,
      @RequestParam String to,
      @RequestParam(required = false) @Nullable String asOf,
      @RequestParam(required = false) @Nullable String after) {
    receipts.awaitVisible(after);
    return views.thread(
        references.resolve(from), references.resolve(to), asOf == null ? null : Times.parse(asOf));
  }
}
