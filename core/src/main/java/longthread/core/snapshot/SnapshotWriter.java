package longthread.core.snapshot;

import java.io.DataOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.util.List;
import java.util.zip.ZipEntry;
import java.util.zip.ZipOutputStream;
import longthread.core.graph.GraphImage;
import longthread.core.graph.LineageGraph;
import longthread.core.json.CanonicalJson;

/**
 * Writes a snapshot: a zip of {@value Snapshot#HEAD}, {@value Snapshot#ASSETS} with a JSON object a
 * line, {@value Snapshot#COLUMNS} with the columns of each of these in a line of the same number,
 * and {@value Snapshot#GRAPH}, see {@link GraphImage}. Nothing is held but the line at hand.
 */
public final class SnapshotWriter {
  private final ZipOutputStream zip;

  /**
   * @param out is left open
   */
  public SnapshotWriter(OutputStream out) {
    zip = new ZipOutputStream(out);
  }

  /**
   * Writes all of it.
   *
   * @param columns of each of the assets, in the same order
   */
  public void write(
      Snapshot.Head head,
      Iterable<SnapshotAsset> assets,
      Iterable<List<Snapshot.Column>> columns,
      LineageGraph graph)
      throws IOException {
    zip.putNextEntry(new ZipEntry(Snapshot.HEAD));
    zip.write(CanonicalJson.MAPPER.writeValueAsBytes(head));
    lines(Snapshot.ASSETS, assets);
    lines(Snapshot.COLUMNS, columns);
    zip.putNextEntry(new ZipEntry(Snapshot.GRAPH));
    var data = new DataOutputStream(zip);
    GraphImage.write(graph, data);
    data.flush();
    zip.closeEntry();
    zip.finish();
    zip.flush();
  }

  private void lines(String name, Iterable<?> objects) throws IOException {
    zip.putNextEntry(new ZipEntry(name));
    for (Object object : objects) {
      zip.write(CanonicalJson.MAPPER.writeValueAsBytes(object));
      zip.write('\n');
    }
  }
}
