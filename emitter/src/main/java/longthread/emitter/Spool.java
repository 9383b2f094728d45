package longthread.emitter;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.channels.OverlappingFileLockException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.List;
import java.util.UUID;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Events that could not be sent yet, as files of NDJSON in a folder, the oldest first. Several
 * programs may share one; only one of them sends from it at a time. What the service refuses is
 * moved to {@code refused/}, with the reason beside it.
 */
public final class Spool {
  /** How many bytes it holds at most; what comes on top of that is dropped and counted. */
  public static final long MAX_BYTES = 256L << 20;

  private static final String ENDING = ".ndjson";

  private final Path folder;

  public Spool(Path folder) {
    this.folder = folder;
  }

  /** What became of an attempt to send what is kept. */
  public record Drained(int sent, int refused, int left) {}

  /** Keeps events; returns whether there was room for them. */
  boolean keep(List<String> events) {
    try {
      Files.createDirectories(folder);
      String text = String.join("\n", events) + "\n";
      if (bytes() + text.length() > MAX_BYTES) {
        return false;
      }
      // The names sort by time; a file is there as a whole or not at all.
      String name = "%020d-%s".formatted(System.currentTimeMillis(), UUID.randomUUID());
      Path part = folder.resolve(name + ".part");
      Files.writeString(part, text, StandardCharsets.UTF_8);
      Files.move(part, folder.resolve(name + ENDING), StandardCopyOption.ATOMIC_MOVE);
      return true;
    } catch (IOException | UncheckedIOException e) {
      return false;
    }
  }

  private long bytes() throws IOException {
    long bytes = 0;
    for (Path file : files()) {
      bytes += Files.size(file);
    }
    return bytes;
  }

  /** The files of events that wait, the oldest first. */
  List<Path> files() throws IOException {
    if (!Files.isDirectory(folder)) {
      return List.of();
    }
    try (Stream<Path> all = Files.list(folder)) {
      return all.filter(file -> file.toString().endsWith(ENDING)).sorted().toList();
    }
  }

  /** How many files of events wait. */
  public int size() {
    try {
      return files().size();
    } catch (IOException e) {
      return 0;
    }
  }

  /** Sends what is kept until something cannot be sent; does nothing while another sends. */
  Drained drain(Sender sender) {
    int sent = 0;
    int refused = 0;
    try {
      if (files().isEmpty()) {
        return new Drained(0, 0, 0);
      }
      try (FileChannel channel =
              FileChannel.open(
                  folder.resolve("lock"), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
          FileLock lock = lock(channel)) {
        if (lock != null) {
          for (Path file : files()) {
            Sender.Outcome outcome = sender.send(lines(file));
            if (!outcome.delivered()) {
              break;
            }
            sent += outcome.accepted();
            refused += outcome.refused().size();
            refuse(outcome.refused());
            Files.delete(file);
          }
        }
      }
    } catch (IOException e) {
      // What could not be read or deleted stays, and is sent again: the service knows it by then.
    }
    return new Drained(sent, refused, size());
  }

  private static List<String> lines(Path file) throws IOException {
    try {
      return Files.readAllLines(file, StandardCharsets.UTF_8);
    } catch (NoSuchFileException e) {
      return List.of();
    }
  }

  private static @Nullable FileLock lock(FileChannel channel) throws IOException {
    try {
      return channel.tryLock();
    } catch (OverlappingFileLockException e) {
      return null; // another emitter of this very program
    }
  }

  /** Sets aside what the service cannot take, so that it does not hold up the rest. */
  void refuse(List<Sender.Refused> refused) {
    if (refused.isEmpty()) {
      return;
    }
    try {
      Path aside = Files.createDirectories(folder.resolve("refused"));
      for (Sender.Refused one : refused) {
        Path file = aside.resolve(UUID.randomUUID() + ".json");
        Files.writeString(file, one.event());
        Files.writeString(aside.resolve(file.getFileName() + ".reason"), one.reason());
      }
    } catch (IOException e) {
      // The reason is in the service's own list of refusals as well.
    }
  }
}
