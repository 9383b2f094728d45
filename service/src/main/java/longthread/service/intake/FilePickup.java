package longthread.service.intake;

import jakarta.annotation.PostConstruct;
import java.io.BufferedInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import java.security.DigestInputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import java.util.zip.GZIPInputStream;
import longthread.core.event.UnreadableEventException;
import longthread.service.log.EventLog;
import longthread.service.storage.StoredText;
import longthread.service.storage.sources.TakenFileQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.dao.DataAccessException;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * Picks up events and check results that pipelines leave as files in a folder. Each content of each
 * file is taken once; a large file is taken in pieces, and one that was broken off goes on where it
 * stood. A file that is still being written is left until it rests.
 */
@Component
public class FilePickup {
  private static final Logger LOG = LoggerFactory.getLogger(FilePickup.class);
  private static final int PIECE_EVENTS = 500;
  private static final int PIECE_BYTES = 8 << 20;
  private static final List<String> ENDINGS =
      List.of(".json", ".ndjson", ".jsonl", ".json.gz", ".ndjson.gz", ".jsonl.gz");

  private final EventLog log;
  private final TakenFileQueries files;
  private final Clock clock;
  private final @Nullable Path folder;
  private final Duration rest;
  private final long largestEvent;

  /**
   * The files that were read to their end, so that a look at the folder does not read them all
   * again.
   */
  private final Map<Path, Stamp> finished = new HashMap<>();

  private final Set<Path> strangers = new HashSet<>(); // said of once

  FilePickup(
      EventLog log,
      TakenFileQueries files,
      Clock clock,
      @Value("${longthread.files.folder:}") String folder,
      @Value("${longthread.files.rest:2s}") Duration rest,
      @Value("${longthread.intake.largest-event}") long largestEvent) {
    this.log = log;
    this.files = files;
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

  public @Nullable Path folder() {
    return folder;
  }

  /** The newest files that were picked up. */
  public List<TakenFileQueries.Stored> newest(int most) {
    return files.newest(most);
  }

  /** Looks for files and takes what is new in them. */
  @Scheduled(
      fixedDelayString = "${longthread.files.every:10s}",
      initialDelayString = "${longthread.files.every:10s}")
  void pickUp() {
    if (folder == null || !Files.isDirectory(folder)) {
      return;
    }
    try (Stream<Path> all = Files.walk(folder, 8)) {
      List<Path> ready = all.filter(this::isReady).sorted().toList();
      finished.keySet().retainAll(Set.copyOf(ready));
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
      if (!isInside(file)) {
        if (strangers.add(file)) {
          LOG.warn("{} is no regular file inside the folder, so it is not picked up", file);
        }
        return false;
      }
      Instant touched = touched(file).toInstant();
      return touched.plus(rest).isBefore(clock.instant());
    } catch (IOException e) {
      return false; // gone since it was listed
    }
  }

  /**
   * Whether a path is a regular file and no link out of the folder: who may write there must not
   * get read what only the service may read.
   */
  private boolean isInside(Path file) throws IOException {
    return Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS)
        && file.toRealPath().startsWith(java.util.Objects.requireNonNull(folder).toRealPath());
  }

  private static FileTime touched(Path file) throws IOException {
    return Files.getLastModifiedTime(file, LinkOption.NOFOLLOW_LINKS);
  }

  private record Stamp(long bytes, FileTime touched) {}

  /** How far a file was taken. */
  private static final class Progress {
    private long taken;
    private long accepted;
    private long duplicates;
    private long refused;

    Progress(TakenFileQueries.Progress stored) {
      taken = stored.taken();
      accepted = stored.accepted();
      duplicates = stored.duplicates();
      refused = stored.refused();
    }
  }

  private void take(Path file) throws IOException {
    var stamp = new Stamp(Files.size(file), touched(file));
    if (stamp.equals(finished.get(file))) {
      return; // seen as it is, so it need not be read again to be known
    }
    String path =
        StoredText.clean(java.util.Objects.requireNonNull(folder).relativize(file).toString());
    byte[] digest = digest(file);
    files.start(path, digest, stamp.bytes(), clock.instant());
    var open = files.progress(path, digest);
    if (open.isEmpty()) {
      finished.put(file, stamp);
      return; // taken before
    }
    var progress = new Progress(open.get());
    String problem = null;
    try (InputStream in = opened(file)) {
      read(in, path, digest, progress);
    } catch (java.util.zip.ZipException | java.io.EOFException e) {
      problem = "the file is said to be gzip but does not unpack: " + e.getMessage();
      LOG.warn("{}: {}", file, problem);
    }
    files.finish(path, digest, clock.instant(), problem);
    finished.put(file, stamp);
    LOG.info("{}: {} events taken, {} refused", path, progress.accepted, progress.refused);
  }

  private static InputStream opened(Path file) throws IOException {
    var in =
        new BufferedInputStream(Files.newInputStream(file, LinkOption.NOFOLLOW_LINKS), 1 << 16);
    in.mark(2);
    boolean gzip = in.read() == 0x1f && in.read() == 0x8b;
    in.reset();
    return gzip ? new BufferedInputStream(new GZIPInputStream(in), 1 << 16) : in;
  }

  private static byte[] digest(Path file) throws IOException {
    try (var in =
        new DigestInputStream(
            Files.newInputStream(file, LinkOption.NOFOLLOW_LINKS),
            MessageDigest.getInstance("SHA-256"))) {
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
      List<byte[]> all = BatchSplitter.split(in.readAllBytes());
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
      for (byte[] event : BatchSplitter.split(line.toByteArray())) {
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
    files.advance(
        path, digest, progress.taken, progress.accepted, progress.duplicates, progress.refused);
  }

  private EventLog.Item item(byte[] bytes, String path) {
    try {
      return log.item(CheckResults.asEvent(bytes, path), largestEvent);
    } catch (UnreadableEventException e) {
      return EventLog.Item.refused(bytes, new EventLog.Refusal(e.problem(), e.reason()));
    }
  }
}
