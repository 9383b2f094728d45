package longthread.service.intake;

import jakarta.annotation.PostConstruct;
import java.io.BufferedInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import java.security.DigestInputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import java.util.zip.GZIPInputStream;
import longthread.core.event.UnreadableEventException;
import longthread.service.web.ProblemException;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.dao.DataAccessException;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * Picks up events and check results that pipelines leave as files in a folder. Each content of each
 * file is taken once; a large file is taken in pieces, and one that was broken off goes on where it
 * stood. A file that is still being written is left until it rests.
 */
@Component
class FilePickup {
  private static final Logger LOG = LoggerFactory.getLogger(FilePickup.class);
  private static final int PIECE_EVENTS = 500;
  private static final int PIECE_BYTES = 8 << 20;
  private static final List<String> ENDINGS =
      List.of(".json", ".ndjson", ".jsonl", ".json.gz", ".ndjson.gz", ".jsonl.gz");

  private final EventLog log;
  private final JdbcTemplate jdbc;
  private final Clock clock;
  private final @Nullable Path folder;
  private final Duration rest;
  private final long largestEvent;

  /** The files that are through, so that a look at the folder does not read them all again. */
  private final Map<Path, Stamp> through = new HashMap<>();

  FilePickup(
      EventLog log,
      JdbcTemplate jdbc,
      Clock clock,
      @Value("${longthread.files.folder:}") String folder,
      @Value("${longthread.files.rest:2s}") Duration rest,
      @Value("${longthread.intake.largest-event}") long largestEvent) {
    this.log = log;
    this.jdbc = jdbc;
    this.clock = clock;
    this.folder = folder.isBlank() ? null : Path.of(folder).toAbsolutePath().normalize();
    this.rest = rest;
    this.largestEvent = largestEvent;
  }

  @PostConstruct
  void say() {
    if (folder != null) {
      LOG.info("files are picked up from {}", folder);
    }
  }

  @Nullable Path folder() {
    return folder;
  }

  /** Looks for files and takes what is new in them. */
  @Scheduled(
      fixedDelayString = "${longthread.files.every:10s}",
      initialDelayString = "${longthread.files.every:10s}")
  void pickUp() {
    if (folder == null || !Files.isDirectory(folder)) {
      return;
    }
    try (Stream<Path> files = Files.walk(folder, 8)) {
      List<Path> ready = files.filter(this::isReady).sorted().toList();
      through.keySet().retainAll(Set.copyOf(ready));
      for (Path file : ready) {
        take(file);
      }
    } catch (IOException | UncheckedIOException e) {
      LOG.warn("the folder {} cannot be read: {}", folder, e.getMessage());
    } catch (ProblemException | DataAccessException | TransactionException e) {
      LOG.warn("files wait until the intake takes them: {}", e.getMessage());
    }
  }

  private boolean isReady(Path file) {
    String name = file.getFileName().toString().toLowerCase(Locale.ROOT);
    if (name.startsWith(".") || ENDINGS.stream().noneMatch(name::endsWith)) {
      return false;
    }
    try {
      Instant touched = Files.getLastModifiedTime(file).toInstant();
      return Files.isRegularFile(file) && touched.plus(rest).isBefore(clock.instant());
    } catch (IOException e) {
      return false; // gone since it was listed
    }
  }

  private record Stamp(long bytes, FileTime touched) {}

  /** How far a file was taken. */
  private static final class Progress {
    private long taken;
    private long accepted;
    private long duplicates;
    private long refused;
  }

  private void take(Path file) throws IOException {
    var stamp = new Stamp(Files.size(file), Files.getLastModifiedTime(file));
    if (stamp.equals(through.get(file))) {
      return; // seen as it is, so it need not be read again to be known
    }
    String path =
        StoredText.clean(java.util.Objects.requireNonNull(folder).relativize(file).toString());
    byte[] digest = digest(file);
    Timestamp now = Timestamp.from(clock.instant());
    jdbc.update(
        "insert into taken_file (path, digest, bytes, first_at, taken, accepted, duplicates, refused)"
            + " values (?, ?, ?, ?, 0, 0, 0, 0) on conflict do nothing",
        path,
        digest,
        Files.size(file),
        now);
    List<Progress> open =
        jdbc.query(
            "select taken, accepted, duplicates, refused from taken_file where path = ?"
                + " and digest = ? and done_at is null",
            (row, n) -> {
              var progress = new Progress();
              progress.taken = row.getLong(1);
              progress.accepted = row.getLong(2);
              progress.duplicates = row.getLong(3);
              progress.refused = row.getLong(4);
              return progress;
            },
            path,
            digest);
    if (open.isEmpty()) {
      through.put(file, stamp);
      return; // taken before
    }
    Progress progress = open.get(0);
    String problem = null;
    try (InputStream in = opened(file)) {
      read(in, path, digest, progress);
    } catch (java.util.zip.ZipException | java.io.EOFException e) {
      problem = "the file is said to be gzip but does not unpack: " + e.getMessage();
      LOG.warn("{}: {}", file, problem);
    }
    jdbc.update(
        "update taken_file set done_at = ?, problem = ? where path = ? and digest = ?",
        Timestamp.from(clock.instant()),
        problem,
        path,
        digest);
    through.put(file, stamp);
    LOG.info("{}: {} events taken, {} refused", path, progress.accepted, progress.refused);
  }

  private static InputStream opened(Path file) throws IOException {
    var in = new BufferedInputStream(Files.newInputStream(file), 1 << 16);
    in.mark(2);
    boolean gzip = in.read() == 0x1f && in.read() == 0x8b;
    in.reset();
    return gzip ? new BufferedInputStream(new GZIPInputStream(in), 1 << 16) : in;
  }

  private static byte[] digest(Path file) throws IOException {
    try (var in =
        new DigestInputStream(Files.newInputStream(file), MessageDigest.getInstance("SHA-256"))) {
      in.transferTo(java.io.OutputStream.nullOutputStream());
      return in.getMessageDigest().digest();
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }

  private void read(InputStream in, String path, byte[] digest, Progress progress)
      throws IOException {
    in.mark(64);
    int first = in.read();
    while (first == ' ' || first == '\n' || first == '\r' || first == '\t') {
      first = in.read();
    }
    in.reset();
    if (first == '[') {
      List<byte[]> all = BatchLines.split(in.readAllBytes());
      for (int from = (int) progress.taken; from < all.size(); from += PIECE_EVENTS) {
        keep(all.subList(from, Math.min(all.size(), from + PIECE_EVENTS)), path, digest, progress);
      }
      return;
    }
    long skip = progress.taken;
    var piece = new ArrayList<byte[]>();
    int bytes = 0;
    var line = new ByteArrayOutputStream();
    boolean more = true;
    while (more) {
      int c = in.read();
      more = c >= 0;
      if (more && c != '\n') {
        if (line.size() <= largestEvent) { // beyond that it is refused, however long it is
          line.write(c);
        }
        continue;
      }
      for (byte[] event : BatchLines.split(line.toByteArray())) {
        if (skip > 0) {
          skip--;
        } else {
          piece.add(event);
          bytes += event.length;
        }
      }
      line.reset();
      if (piece.size() >= PIECE_EVENTS || bytes >= PIECE_BYTES || (!more && !piece.isEmpty())) {
        keep(piece, path, digest, progress);
        piece.clear();
        bytes = 0;
      }
    }
  }

  /** Makes a piece durable and then says so of the file; in between, repeating it does no harm. */
  private void keep(List<byte[]> piece, String path, byte[] digest, Progress progress) {
    var items = new ArrayList<EventLog.Item>();
    int refused = 0;
    for (byte[] bytes : piece) {
      EventLog.Item item = item(bytes, path);
      refused += item.refusal() == null ? 0 : 1;
      items.add(item);
    }
    EventLog.Kept kept = log.append(items, "file " + path);
    progress.taken += piece.size();
    progress.refused += refused;
    progress.duplicates += kept.duplicates();
    progress.accepted += piece.size() - refused;
    jdbc.update(
        "update taken_file set taken = ?, accepted = ?, duplicates = ?, refused = ?"
            + " where path = ? and digest = ?",
        progress.taken,
        progress.accepted,
        progress.duplicates,
        progress.refused,
        path,
        digest);
  }

  private EventLog.Item item(byte[] bytes, String path) {
    try {
      return EventLog.Item.of(CheckResults.asEvent(bytes, path), largestEvent);
    } catch (UnreadableEventException e) {
      return EventLog.Item.refused(bytes, new EventLog.Refusal(e.problem(), e.reason()));
    }
  }
}
