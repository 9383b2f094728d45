package longthread.core.graph;

import java.io.DataOutput;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.BitSet;
import java.util.HashMap;
import java.util.function.UnaryOperator;
import longthread.core.asset.ColumnName;

/**
 * A graph as bytes, so that a service need not ask its database for every link when it starts. The
 * arrays stand there as they are in memory: reading takes O(nodes + links) copies of whole arrays,
 * and texts are there once. The bytes are trusted; whoever keeps them checks that they are whole.
 */
public final class GraphImage {
  private static final int CHUNK = 1 << 14; // ints written at once

  private GraphImage() {}

  /** Writes a snapshot; others may change its store meanwhile. 16 bytes a link, 12 a node. */
  public static void write(LineageGraph graph, DataOutput out) throws IOException {
    NodeTable nodes = graph.nodes();
    int nodeCount = graph.nodeCount();
    int[] assetOf = new int[nodeCount];
    int[] nameOf = new int[nodeCount];
    var names = new HashMap<String, Integer>();
    for (int node = 0; node < nodeCount; node++) {
      assetOf[node] = nodes.assetOf(node);
      nameOf[node] = names.computeIfAbsent(nodes.columnOf(node), k -> names.size());
    }
    String[] byNumber = new String[names.size()];
    names.forEach((name, number) -> byNumber[number] = name);
    writeTexts(byNumber, out);
    writeInts(assetOf, out);
    writeInts(nameOf, out);
    String[] assets = new String[graph.assetCount()];
    Arrays.setAll(assets, nodes::assetReference);
    writeTexts(assets, out);
    // Owners that came later have no link here, but their numbers may not be given twice.
    String[] owners = new String[nodes.ownerCount()];
    Arrays.setAll(owners, nodes::owner);
    writeTexts(owners, out);
    for (int owner = 0; owner < owners.length; owner++) {
      writeInts(graph.targetsOf(owner), out);
    }
    long[] listed = graph.listed().toLongArray();
    out.writeInt(listed.length);
    for (long word : listed) {
      out.writeLong(word);
    }
    links(graph.down(), nodeCount, graph.linkCount(), out);
    links(graph.up(), nodeCount, graph.linkCount(), out);
  }

  private static void links(Adjacency links, int nodeCount, int linkCount, DataOutput out)
      throws IOException {
    int[] starts = new int[nodeCount + 1];
    int[] ends = new int[linkCount];
    int[] infos = new int[linkCount];
    int[] at = {0};
    for (int node = 0; node < nodeCount; node++) {
      starts[node] = at[0];
      links.forEach(
          node,
          (end, info) -> {
            ends[at[0]] = end;
            infos[at[0]++] = info;
          });
    }
    starts[nodeCount] = at[0];
    writeInts(starts, out);
    writeInts(ends, out);
    writeInts(infos, out);
  }

  /** Writes texts, to be read by {@link #readTexts}. */
  public static void writeTexts(String[] texts, DataOutput out) throws IOException {
    out.writeInt(texts.length);
    for (String text : texts) {
      byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
      out.writeInt(bytes.length);
      out.write(bytes);
    }
  }

  /** Writes numbers, to be read by {@link #readInts}. */
  public static void writeInts(int[] values, DataOutput out) throws IOException {
    out.writeInt(values.length);
    byte[] bytes = new byte[Math.min(values.length, CHUNK) * Integer.BYTES];
    for (int from = 0; from < values.length; from += CHUNK) {
      int count = Math.min(CHUNK, values.length - from);
      ByteBuffer.wrap(bytes).asIntBuffer().put(values, from, count);
      out.write(bytes, 0, count * Integer.BYTES);
    }
  }

  /**
   * Reads what {@link #write} wrote, from where the buffer stands.
   *
   * @param known the text that others hold of an equal reference, so that it is there once
   */
  public static GraphStore read(ByteBuffer in, UnaryOperator<String> known) {
    String[] names = readTexts(in);
    for (int i = 0; i < names.length; i++) {
      names[i] = names[i].equals(ColumnName.ROWS) ? ColumnName.ROWS : names[i].intern();
    }
    int[] assetOf = readInts(in);
    int[] nameOf = readInts(in);
    String[] assets = readTexts(in);
    var nodes = new NodeTable();
    for (int node = 0; node < assetOf.length; node++) {
      nodes.restore(known.apply(assets[assetOf[node]]), assetOf[node], names[nameOf[node]]);
    }
    var targets = new OwnerTargets();
    String[] owners = readTexts(in);
    for (int owner = 0; owner < owners.length; owner++) {
      nodes.internOwner(known.apply(owners[owner]));
      targets.restore(owner, readInts(in));
    }
    long[] listed = new long[in.getInt()];
    for (int i = 0; i < listed.length; i++) {
      listed[i] = in.getLong();
    }
    Adjacency down = Adjacency.whole(readInts(in), readInts(in), readInts(in));
    Adjacency up = Adjacency.whole(readInts(in), readInts(in), readInts(in));
    return new GraphStore(nodes, targets, down, up, BitSet.valueOf(listed));
  }

  public static String[] readTexts(ByteBuffer in) {
    String[] texts = new String[in.getInt()];
    for (int i = 0; i < texts.length; i++) {
      byte[] bytes = new byte[in.getInt()];
      in.get(bytes);
      texts[i] = new String(bytes, StandardCharsets.UTF_8);
    }
    return texts;
  }

  public static int[] readInts(ByteBuffer in) {
    int[] values = new int[in.getInt()];
    in.asIntBuffer().get(values);
    in.position(in.position() + values.length * Integer.BYTES);
    return values;
  }
}
