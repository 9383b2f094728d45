package longthread.service.intake;

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
  record TakenFiles(@Nullable String folder, List<TakenFile> files) {}

  private final FilePickup pickup;

  FileController(FilePickup pickup) {
    this.pickup = pickup;
  }

  @GetMapping("/api/v1/intake/files")
  TakenFiles files(@RequestParam(required = false) @Nullable Integer limit) {
    Path folder = pickup.folder();
    return new TakenFiles(
        folder == null ? null : folder.toString(),
        pickup.newest(Pages.limit(limit)).stream().map(FileController::file).toList());
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
