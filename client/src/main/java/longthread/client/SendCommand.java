package longthread.client;

import java.io.BufferedInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.zip.GZIPInputStream;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

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
      "  my-emitter | longthread send -"
    })
final class SendCommand extends Output implements Callable<Integer> {
  private static final long LARGEST_BATCH = 32L << 20;

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

  @Option(names = "--strict", description = "End with exit code 1 if any event was refused.")
  private boolean strict;

  private int received;
  private int accepted;
  private int duplicates;
  private final ArrayNode refused = new JsonMapper().createArrayNode();
  private String receipt = "";

  @Override
  public Integer call() throws IOException {
    ServiceClient service = service();
    for (String file : files) {
      send(service, file);
    }
    ObjectNode summary = new JsonMapper().createObjectNode();
    summary.put("received", received).put("accepted", accepted).put("duplicates", duplicates);
    summary.set("refused", refused);
    summary.put("receipt", receipt);
    if (json) {
      printJson(summary);
    } else {
      out()
          .printf(
              "%d received, %d accepted (%d of them known already), %d refused%n",
              received, accepted, duplicates, refused.size());
      for (JsonNode one : refused) {
        note(
            text(one.path("file"))
                + ":"
                + one.path("line").intValue()
                + ": "
                + text(one.path("reason")));
      }
    }
    return strict && !refused.isEmpty() ? ServiceException.FINDING : 0;
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
    int lines = 0;
    int firstLine = 1;
    int line = 1;
    boolean blank = true;
    for (int c = in.read(); c >= 0; c = in.read()) {
      buffer.write(c);
      blank &= Character.isWhitespace(c);
      if (c == '\n') {
        line++;
        lines += blank ? 0 : 1;
        blank = true;
        if (lines >= batch || buffer.size() > LARGEST_BATCH) {
          answer(service, buffer.toByteArray(), file, firstLine);
          buffer.reset();
          lines = 0;
          firstLine = line;
        }
      }
    }
    if (!buffer.toString(java.nio.charset.StandardCharsets.UTF_8).isBlank()) {
      answer(service, buffer.toByteArray(), file, firstLine);
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
    JsonNode answer = service.post("/api/v1/lineage/batch", body, "application/x-ndjson", true);
    received += answer.path("received").intValue();
    accepted += answer.path("accepted").intValue();
    duplicates += answer.path("duplicates").intValue();
    receipt = text(answer.path("receipt"));
    List<Integer> lineOf = lineNumbers(body, firstLine);
    for (JsonNode one : answer.path("refused")) {
      int index = one.path("index").intValue();
      refused
          .addObject()
          .put("file", file)
          .put("line", index < lineOf.size() ? lineOf.get(index) : index + 1)
          .put("problem", text(one.path("problem")))
          .put("reason", text(one.path("reason")));
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
