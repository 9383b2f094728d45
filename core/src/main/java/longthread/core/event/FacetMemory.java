package longthread.core.event;

import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.zip.CRC32C;
import longthread.core.asset.JobName;
import longthread.core.json.CanonicalJson;
import longthread.core.json.LazyJson;
import longthread.core.lineage.EncodedLineage;
import org.jspecify.annotations.Nullable;

/**
 * What was read before: emitters repeat the same facets and the same lists run after run, byte for
 * byte, so most of an event need not be read again. The least recently used is forgotten first.
 * Holds at most the given number of bytes of text, twice. Not safe for several threads.
 */
public final class FacetMemory {
  private static final float LOAD = 0.75f;
  private static final int SHAPE_SHARE = 4; // a lineage takes several times the room of its text

  /** What is kept of a facet's text: the digest of its canonical form, and what was found in it. */
  static final class Known {
    private final String digest;
    private final int length;
    private @Nullable List<JobName> jobs;

    private Known(String digest, int length) {
      this.digest = digest;
      this.length = length;
    }

    String digest() {
      return digest;
    }

    /** The jobs that the facet names, if that was noted. */
    @Nullable List<JobName> jobs() {
      return jobs;
    }

    void noteJobs(List<JobName> found) {
      jobs = List.copyOf(found);
    }
  }

  /** A facet as it was read: what is known of its text, and its value. */
  record Read(Known known, LazyJson value) {}

  /** A piece of an event's bytes, equal to any other piece of the same bytes. */
  private static final class Piece {
    private final byte[] bytes;
    private final int start;
    private final int end;
    private final int hash;

    Piece(byte[] bytes, int start, int end) {
      this.bytes = bytes;
      this.start = start;
      this.end = end;
      var sum = new CRC32C();
      sum.update(bytes, start, end - start);
      this.hash = (int) sum.getValue();
    }

    /** The same piece without the rest of its event. */
    Piece alone() {
      return new Piece(Arrays.copyOfRange(bytes, start, end), 0, end - start);
    }

    @Override
    public boolean equals(Object other) {
      return other instanceof Piece piece
          && hash == piece.hash
          && Arrays.equals(bytes, start, end, piece.bytes, piece.start, piece.end);
    }

    @Override
    public int hashCode() {
      return hash;
    }
  }

  private final long mostBytes;
  private final LinkedHashMap<Piece, Known> facets = new LinkedHashMap<>(1024, LOAD, true);
  private final LinkedHashMap<String, EncodedLineage> lineages =
      new LinkedHashMap<>(1024, LOAD, true);
  private long facetBytes;
  private long shapeBytes;

  public FacetMemory(long mostBytes) {
    this.mostBytes = mostBytes;
  }

  /** Returns the value that these bytes spell; the bytes must not change while it is in use. */
  Read facet(byte[] bytes, int start, int end) {
    var piece = new Piece(bytes, start, end);
    LazyJson value = LazyJson.of(bytes, start, end);
    Known known = facets.get(piece);
    if (known != null) {
      return new Read(known, value);
    }
    Known fresh = new Known(CanonicalJson.digest(value.text()), end - start);
    facets.put(piece.alone(), fresh);
    facetBytes += end - start;
    for (var oldest = facets.entrySet().iterator(); facetBytes > mostBytes && oldest.hasNext(); ) {
      facetBytes -= oldest.next().getValue().length;
      oldest.remove();
    }
    return new Read(fresh, value);
  }

  @Nullable EncodedLineage lineage(String key) {
    return lineages.get(key);
  }

  EncodedLineage remember(String key, EncodedLineage reported) {
    lineages.put(key, reported);
    shapeBytes += key.length() + reported.text().length();
    for (var oldest = lineages.entrySet().iterator();
        shapeBytes > mostBytes / SHAPE_SHARE && oldest.hasNext(); ) {
      Map.Entry<String, EncodedLineage> entry = oldest.next();
      shapeBytes -= entry.getKey().length() + entry.getValue().text().length();
      oldest.remove();
    }
    return reported;
  }
}
