package longthread.service.log;

import com.github.luben.zstd.ZstdInputStream;
import com.github.luben.zstd.ZstdOutputStream;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.zip.InflaterInputStream;

/** The compressed form of the log's blocks. */
public final class BlockCodec {
  private static final int LEVEL = 1;
  private static final byte ZSTD_MAGIC = 0x28; // its first byte; older blocks are deflated

  /**
   * One entry of a block.
   *
   * @param refused whether it could not be read and is only kept
   * @param bytes exactly as received
   */
  public record Entry(boolean refused, byte[] bytes) {}

  private BlockCodec() {}

  /** A block: for each entry a mark, its length and its bytes, all compressed together. */
  public static byte[] block(List<Entry> entries) {
    var out = new ByteArrayOutputStream();
    try (var data = new DataOutputStream(new ZstdOutputStream(out, LEVEL))) {
      data.writeInt(entries.size());
      for (Entry entry : entries) {
        data.writeBoolean(entry.refused());
        data.writeInt(entry.bytes().length);
        data.write(entry.bytes());
      }
    } catch (IOException e) {
      throw new UncheckedIOException("memory does not fail to be written", e);
    }
    return out.toByteArray();
  }

  public static List<Entry> entries(byte[] block) {
    try (var data = new DataInputStream(unpacking(block))) {
      int count = data.readInt();
      var entries = new ArrayList<Entry>(count);
      for (int i = 0; i < count; i++) {
        boolean refused = data.readBoolean();
        entries.add(new Entry(refused, data.readNBytes(data.readInt())));
      }
      return entries;
    } catch (IOException e) {
      throw new UncheckedIOException("a block of the log is damaged", e);
    }
  }

  /** The same block with the bytes of some places only; the others keep their place. */
  public static byte[] only(byte[] block, Collection<Integer> places) {
    List<Entry> entries = entries(block);
    for (int i = 0; i < entries.size(); i++) {
      if (!places.contains(i)) {
        entries.set(i, new Entry(entries.get(i).refused(), new byte[0]));
      }
    }
    return block(entries);
  }

  /** The accepted events of a block. */
  static List<LoggedEvent> events(long block, Instant receivedAt, byte[] body) {
    var events = new ArrayList<LoggedEvent>();
    List<Entry> entries = entries(body);
    for (int i = 0; i < entries.size(); i++) {
      if (!entries.get(i).refused()) {
        events.add(new LoggedEvent(block, i, receivedAt, entries.get(i).bytes()));
      }
    }
    return events;
  }

  private static InputStream unpacking(byte[] block) throws IOException {
    var in = new ByteArrayInputStream(block);
    return block.length > 0 && block[0] == ZSTD_MAGIC
        ? new ZstdInputStream(in)
        : new InflaterInputStream(in);
  }
}
