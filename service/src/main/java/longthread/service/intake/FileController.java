package longthread.service.intake;

import io.swagger.v3.oas.annotations.Operation;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import longthread.service.storage.sources.TakenFileQueries;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The files that were picked up, with how many events of each were refused. */
@RestController
class FileController {
  /**
   * A file.
   *
   * @param doneAt when the last of it was durable; null while it is being read
   */
  record TakenFile(
      String path,
      long bytes,
      Instant firstAt,
      @Nullable Instant doneAt,
      long accepted,
      long duplicates,
      long refused,
      @Nullable String problem) {}

  /** The newest files; {@code folder} is null where none is watched. */
  record TakenFiles(@Nullable String folder, List<TakenFile> files, @Nullable String cursor) {}

  private final FilePickup pickup;

  private static final int MAX_LISTED = 10_000;

  private final Pages pages;

  FileController(FilePickup pickup, Pages pages) {
    this.pages = pages;
    this.pickup = pickup;
  }

  @GetMapping("/api/v1/intake/files")
  @Operation(operationId = "listFiles", summary = "List the files that were picked up")
  TakenFiles files(
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Path folder = pickup.folder();
    var page =
        pages.page(
            limit,
            cursor,
            () -> pickup.newest(MAX_LISTED).stream().map(FileController::file).toList());
    return new TakenFiles(folder == null ? null : folder.toString(), page.items(), page.cursor());
  }

  private static TakenFile file(TakenFileQueries.Stored row) {
    return new TakenFile(
        row.path(),
        row.bytes(),
        row.firstAt(),
        row.doneAt(),
        row.accepted(),
        row.duplicates(),
        row.refused(),
        row.problem());
  }
}
