package longthread.client;

import java.io.BufferedInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.Callable;
import java.util.zip.GZIPInputStream;
import longthread.client.answers.BatchAnswer;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "send",
    description = "Send events from files or standard input; what is refused is listed.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "A file holds one event a line (NDJSON), or a JSON array of events, plain or gzip.",
      "Examples:",
      "  longthread send events.ndjson",
      "  longthread send --batch 500 night-*.json.gz",
      "  longthread send --resume huge.ndjson.gz",
      "  my-emitter | longthread send -"
    })
final class SendCommand extends Output implements Callable<Integer> {
  private static final long MAX_BATCH_BYTES = 32L << 20;

  @Parameters(
      arity = "1..*",
      paramLabel = "FILE",
      description = "Files of events; - is standard input.")
  private List<String> files = List.of();

  @Option(
      names = "--batch",
      defaultValue = "100",
      paramLabel = "N",
      description = "Events in one request, at most (${DEFAULT-VALUE}).")
  private int batch;

  @Mixin private FailOn failOn = new FailOn();

  @Option(
      names = "--resume",
      description =
          "Note how far a file of lines is durable, and resume there when the command is run again.")
  private boolean resume;

  private int received;
  private int accepted;
  private int duplicates;
  private static final int MAX_WARNINGS = 20; // shown; the intake lists all

  private final List<RefusedLine> refused = new ArrayList<>();
  private int warned;
  private String receipt = "";

  /** An event that was refused, by its place in the file. */
  private record RefusedLine(String file, int line, String problem, String reason) {}

  /** What became of all files together. */
  private record Summary(
      int received, int accepted, int duplicates, List<RefusedLine> refused, String receipt) {}

  @Override
  public Integer call() throws IOException {
    failOn.check(spec, "refused");
    ServiceClient service = service();
    for (String file : files) {
      send(service, file);
    }
    if (json) {
      printJson(new Summary(received, accepted, duplicates, refused, receipt));
    } else {
      out()
          .printf(
              "%d received, %d accepted (%d of them known before), %d refused%n",
              received, accepted, duplicates, refused.size());
      if (warned > MAX_WARNINGS) {
        note((warned - MAX_WARNINGS) + " more warnings");
      }
      refused.forEach(one -> note(one.file() + ":" + one.line() + ": " + one.reason()));
    }
    return failOn.exitCode(word -> !refused.isEmpty());
  }

  private void send(ServiceClient service, String file) throws IOException {
    try (InputStream in = open(file)) {
      in.mark(1);
      int first = in.read();
      while (first == ' ' || first == '\n' || first == '\r' || first == '\t') {
        in.mark(1);
        first = in.read();
      }
      in.reset();
      if (first == '[') {
        answer(service, in.readAllBytes(), file, 1);
        return;
      }
      lines(service, in, file);
    }
  }

  private void lines(ServiceClient service, InputStream in, String file) throws IOException {
    var buffer = new ByteArrayOutputStream();
    Progress progress = resume && !file.equals("-") ? Progress.of(Path.of(file)) : new Progress();
    if (progress.bytes > 0) {
      in.skipNBytes(progress.bytes);
      note(file + ": resuming at line " + progress.line);
    }
    int lines = 0;
    int firstLine = progress.line;
    int line = progress.line;
    boolean blank = true;
    for (int c = in.read(); c >= 0; c = in.read()) {
      buffer.write(c);
      blank &= Character.isWhitespace(c);
      if (c == '\n') {
        line++;
        lines += blank ? 0 : 1;
        blank = true;
        if (lines >= batch || buffer.size() > MAX_BATCH_BYTES) {
          answer(service, buffer.toByteArray(), file, firstLine);
          progress.reached(buffer.size(), line);
          buffer.reset();
          lines = 0;
          firstLine = line;
        }
      }
    }
    if (!buffer.toString(StandardCharsets.UTF_8).isBlank()) {
      answer(service, buffer.toByteArray(), file, firstLine);
    }
    progress.done();
  }

  /** How far a file was sent, kept in a small file of the user's own until it is sent whole. */
  private static final class Progress {
    private @Nullable Path kept;
    private long bytes;
    private int line = 1;

    /** What is known of a file; of one that was changed since, nothing. */
    static Progress of(Path file) throws IOException {
      var progress = new Progress();
      Path folder =
          Path.of(
              Main.environment()
                  .getOrDefault(
                      "XDG_STATE_HOME", System.getProperty("user.home") + "/.local/state"),
              "longthread");
      Files.createDirectories(folder);
      String mark =
          file.toAbsolutePath().normalize()
              + " "
              + Files.size(file)
              + " "
              + Files.getLastModifiedTime(file);
      progress.kept =
          folder.resolve("sent-" + UUID.nameUUIDFromBytes(mark.getBytes(StandardCharsets.UTF_8)));
      if (Files.exists(progress.kept)) {
        String[] words = Files.readString(progress.kept).strip().split(" ");
        progress.bytes = Long.parseLong(words[0]);
        progress.line = Integer.parseInt(words[1]);
      }
      return progress;
    }

    void reached(long more, int nextLine) throws IOException {
      bytes += more;
      line = nextLine;
      if (kept != null) {
        Files.writeString(kept, bytes + " " + line);
      }
    }

    void done() throws IOException {
      if (kept != null) {
        Files.deleteIfExists(kept);
      }
    }
  }

  private InputStream open(String file) throws IOException {
    InputStream in;
    if (file.equals("-")) {
      in = System.in;
    } else if (Files.isReadable(Path.of(file))) {
      in = Files.newInputStream(Path.of(file));
    } else {
      throw new ServiceException(
          ServiceException.WRONG_USAGE, "the file " + file + " cannot be read");
    }
    var buffered = new BufferedInputStream(in, 1 << 16);
    buffered.mark(2);
    boolean gzip = buffered.read() == 0x1f && buffered.read() == 0x8b;
    buffered.reset();
    return gzip ? new BufferedInputStream(new GZIPInputStream(buffered), 1 << 16) : buffered;
  }

  private void answer(ServiceClient service, byte[] body, String file, int firstLine) {
    BatchAnswer answer =
        service.sendEvents(body, BatchAnswer.class, why -> note(why + " (trying again)")).value();
    received += answer.received();
    accepted += answer.accepted();
    duplicates += answer.duplicates();
    receipt = text(answer.receipt());
    List<Integer> lineOf = lineNumbers(body, firstLine);
    for (BatchAnswer.Refused one : answer.refused()) {
      int line = one.index() < lineOf.size() ? lineOf.get(one.index()) : one.index() + 1;
      refused.add(new RefusedLine(file, line, one.problem(), one.reason()));
    }
    for (BatchAnswer.Warning one : answer.warnings()) {
      int line = one.index() < lineOf.size() ? lineOf.get(one.index()) : one.index() + 1;
      if (warned++ < MAX_WARNINGS) {
        note(file + ":" + line + ": warning: " + one.detail());
      }
    }
    if (!json && received % 1_000 < batch && received >= 1_000) {
      note(received + " sent …");
    }
  }

  /** The line of each event that is not blank, so that a refusal can name it. */
  private static List<Integer> lineNumbers(byte[] body, int firstLine) {
    var lines = new ArrayList<Integer>();
    int line = firstLine;
    boolean blank = true;
    for (byte c : body) {
      if (c == '\n') {
        if (!blank) {
          lines.add(line);
        }
        line++;
        blank = true;
      } else {
        blank &= Character.isWhitespace(c);
      }
    }
    if (!blank) {
      lines.add(line);
    }
    return lines;
  }
}
