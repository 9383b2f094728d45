package longthread.service.intake;

import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The files that were picked up, with what of each was refused. */
@RestController
class FileController {
  /**
   * A file.
   *
   * @param doneAt when the last of it was durable; null while it is being taken
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
  private final JdbcTemplate jdbc;

  FileController(FilePickup pickup, JdbcTemplate jdbc) {
    this.pickup = pickup;
    this.jdbc = jdbc;
  }

  @GetMapping("/api/v1/intake/files")
  TakenFiles files(@RequestParam(required = false) @Nullable Integer limit) {
    Path folder = pickup.folder();
    return new TakenFiles(
        folder == null ? null : folder.toString(),
        jdbc.query(
            "select path, bytes, first_at, done_at, accepted, duplicates, refused, problem"
                + " from taken_file order by first_at desc, path limit ?",
            (row, n) ->
                new TakenFile(
                    row.getString(1),
                    row.getLong(2),
                    row.getTimestamp(3).toInstant(),
                    row.getTimestamp(4) == null ? null : row.getTimestamp(4).toInstant(),
                    row.getLong(5),
                    row.getLong(6),
                    row.getLong(7),
                    row.getString(8)),
            Pages.limit(limit)));
  }
}
