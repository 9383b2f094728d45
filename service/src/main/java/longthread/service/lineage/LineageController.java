package longthread.service.lineage;

import io.swagger.v3.oas.annotations.Operation;
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

  LineageController(
      LineageViews views, ReaderViews readers, References references, Receipts receipts) {
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
