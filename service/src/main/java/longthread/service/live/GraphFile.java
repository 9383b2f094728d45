package longthread.service.live;

import java.io.BufferedOutputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.io.RandomAccessFile;
import java.nio.BufferUnderflowException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import java.util.zip.CRC32C;
import java.util.zip.CheckedOutputStream;
import longthread.core.graph.GraphImage;
import longthread.core.graph.GraphStore;
import longthread.core.graph.LineageGraph;
import longthread.core.json.CanonicalJson;
import longthread.service.storage.graph.HeadQueries;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;

/**
 * A file with the graph as it was after some change, so that a start need not read every link. It
 * is only a shortcut: a file that is missing, damaged, of another database or too old to catch up
 * from is left aside, and the graph is read from the database.
 *
 * <p>It begins with {@value #MAGIC}, the length of a head in JSON, and the head; then come the
 * graph, the column maps and, at its end, the CRC-32C of all before it.
 */
@Component
public class GraphFile {
  private static final Logger LOG = LoggerFactory.getLogger(GraphFile.class);
  private static final int MAGIC =
      0x4C544732; // of this form of the file; another form takes another
  private static final int LARGEST_HEAD = 64 << 20;

  /**
   * What a graph was made of beside links.
   *
   * @param position the change up to which it goes
   * @param endedUpTo up to when recorded links that end by their date were taken out
   * @param namedBy the rules of merging and folding, and what was renamed
   * @param leads by name, the name of the asset that it is a part of, where that is another
   * @param dotted by asset, columns with dots in their names by how emitters may write them
   */
  record Head(
      HeadQueries.Position position,
      Instant endedUpTo,
      String namedBy,
      Map<String, String> leads,
      Map<String, Map<String, String>> dotted) {}

  /** A file's head, and its graph where it is asked for. */
  static final class Image {
    private final Head head;
    private final ByteBuffer graph;

    private Image(Head head, ByteBuffer graph) {
      this.head = head;
      this.graph = graph;
    }

    Head head() {
      return head;
    }

    /** Reads the graph, see {@link GraphImage#read}, and the maps; each once. */
    GraphStore graph(UnaryOperator<String> known, ColumnMaps maps) {
      GraphStore read = GraphImage.read(graph, known);
      maps.read(graph);
      return read;
    }
  }

  private final @Nullable Path file;

  /**
   * @param name where it is; empty for nowhere
   */
  GraphFile(@Value("${longthread.graph-file}") String name) {
    file = name.isEmpty() ? null : Path.of(name);
  }

  /** Whether a file is kept. */
  boolean isKept() {
    return file != null;
  }

  /** Replaces the file at once; one that cannot be written costs only the next start time. */
  void write(Head head, LineageGraph graph, ColumnMaps maps) {
    if (file == null) {
      return;
    }
    Path fresh = file.resolveSibling(file.getFileName() + ".new");
    long began = System.nanoTime();
    try {
      try (OutputStream raw = Files.newOutputStream(fresh)) {
        var checked = new CheckedOutputStream(new BufferedOutputStream(raw, 1 << 20), new CRC32C());
        var out = new DataOutputStream(checked);
        byte[] json = CanonicalJson.MAPPER.writeValueAsBytes(head);
        out.writeInt(MAGIC);
        out.writeInt(json.length);
        out.write(json);
        GraphImage.write(graph, out);
        maps.write(out);
        out.writeLong(checked.getChecksum().getValue());
        out.flush();
      }
      try (var written = FileChannel.open(fresh, java.nio.file.StandardOpenOption.WRITE)) {
        written.force(true);
      }
      Files.move(fresh, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
      LOG.info(
          "graph of change {} kept in {} ms, {} KB",
          head.position().number(),
          (System.nanoTime() - began) / 1_000_000,
          Files.size(file) / 1024);
    } catch (IOException e) {
      LOG.warn("the graph cannot be kept in {}: {}; the next start reads all links", file, e + "");
    }
  }

  /** The file as it is; empty, with a line in the log, if there is none that is whole. */
  Optional<Image> read() {
    if (file == null || !Files.exists(file)) {
      return Optional.empty();
    }
    try (var opened = new RandomAccessFile(file.toFile(), "r")) {
      FileChannel channel = opened.getChannel();
      int bodyLength = Math.toIntExact(channel.size() - Long.BYTES);
      if (bodyLength < 2 * Integer.BYTES) {
        return aside("it is cut off");
      }
      ByteBuffer all = channel.map(FileChannel.MapMode.READ_ONLY, 0, channel.size());
      var sum = new CRC32C();
      sum.update(all.slice(0, bodyLength));
      if (sum.getValue() != all.getLong(bodyLength)) {
        return aside("its checksum is wrong");
      }
      if (all.getInt() != MAGIC) {
        return aside("it is of another version of the service");
      }
      int headLength = all.getInt();
      if (headLength < 0 || headLength > Math.min(LARGEST_HEAD, bodyLength)) {
        return aside("its head is damaged");
      }
      byte[] json = new byte[headLength];
      all.get(json);
      Head head =
          CanonicalJson.MAPPER.readValue(
              new String(json, StandardCharsets.UTF_8), new TypeReference<Head>() {});
      return Optional.of(new Image(head, all));
    } catch (IOException | JacksonException | ArithmeticException | BufferUnderflowException e) {
      return aside("it cannot be read: " + e.getMessage());
    }
  }

  /** Says why a file is not used. */
  Optional<Image> aside(String why) {
    LOG.info("the graph kept in {} is left aside: {}; all links are read", file, why);
    return Optional.empty();
  }
}
