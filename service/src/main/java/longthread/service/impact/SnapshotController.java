package longthread.service.impact;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.OptionalInt;
import longthread.core.asset.Reference;
import longthread.core.graph.LineageGraph;
import longthread.core.snapshot.Snapshot;
import longthread.core.snapshot.SnapshotAsset;
import longthread.core.snapshot.SnapshotWriter;
import longthread.service.job.JobParts;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.live.LabelBoard;
import longthread.service.live.Receipts;
import longthread.service.web.PublicAddress;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpHeaders;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The catalog as one file, by which changes are judged where the service cannot be reached. */
@RestController
class SnapshotController {
  private static final String ZIP = "application/zip";

  private final Catalog catalog;
  private final GraphFollower follower;
  private final LabelBoard labels;
  private final JobParts jobParts;
  private final Receipts receipts;
  private final PublicAddress address;
  private final Clock clock;

  SnapshotController(
      Catalog catalog,
      GraphFollower follower,
      LabelBoard labels,
      JobParts jobParts,
      Receipts receipts,
      PublicAddress address,
      Clock clock) {
    this.catalog = catalog;
    this.follower = follower;
    this.labels = labels;
    this.jobParts = jobParts;
    this.receipts = receipts;
    this.address = address;
    this.clock = clock;
  }

  @GetMapping("/api/v1/snapshot")
  @Operation(
      operationId = "takeSnapshot",
      summary = "Take the whole catalog as one file, by which a gate judges without the service",
      responses =
          @ApiResponse(
              responseCode = "200",
              content =
                  @Content(mediaType = ZIP, schema = @Schema(type = "string", format = "binary"))))
  void snapshot(
      @RequestParam(required = false) @Nullable String after,
      HttpServletRequest request,
      HttpServletResponse response)
      throws IOException {
    receipts.awaitVisible(after);
    long change = follower.number();
    LineageGraph graph = follower.graph();
    List<Asset> assets = assets(graph);
    var head = new Snapshot.Head(Snapshot.FORM, clock.instant(), change, address.base(request));
    response.setContentType(ZIP);
    response.setHeader(
        HttpHeaders.CONTENT_DISPOSITION, "attachment; filename=\"longthread-snapshot.zip\"");
    new SnapshotWriter(response.getOutputStream())
        .write(
            head,
            () -> assets.stream().map(asset -> item(graph, asset)).iterator(),
            () -> assets.stream().map(SnapshotController::columns).iterator(),
            graph);
  }

  /** All assets and jobs, and what only links mention. */
  private List<Asset> assets(LineageGraph graph) {
    var assets = new ArrayList<>(catalog.all());
    var refs = new HashSet<String>();
    assets.forEach(asset -> refs.add(asset.ref()));
    for (int asset = 0; asset < graph.assetCount(); asset++) {
      String ref = graph.assetReference(asset);
      if (!refs.contains(ref)) {
        catalog.known(ref).filter(known -> refs.add(known.ref())).ifPresent(assets::add);
      }
    }
    return assets;
  }

  private SnapshotAsset item(LineageGraph graph, Asset asset) {
    return new SnapshotAsset(
        asset.ref(),
        asset.parts(),
        asset.kind().word(),
        asset.shown(),
        asset.system(),
        asset.ownerNames(),
        labels.wordsOf(asset),
        asset.isRetired(),
        asset.isJob() ? outputs(graph, asset.ref()) : List.of());
  }

  /** What a job writes: the ends of its links, and only of one without any a look at its runs. */
  private List<String> outputs(LineageGraph graph, String job) {
    OptionalInt owner = graph.ownerOrdinal(job);
    List<String> targets =
        owner.isEmpty()
            ? List.of()
            : Arrays.stream(graph.targetsOf(owner.getAsInt()))
                .mapToObj(graph::assetReference)
                .filter(target -> !Reference.isJob(target))
                .toList();
    return targets.isEmpty() ? jobParts.of(job).outputs() : targets;
  }

  private static List<Snapshot.Column> columns(Asset asset) {
    return asset.card().columns().stream()
        .map(column -> new Snapshot.Column(column.path(), column.type()))
        .toList();
  }
}
