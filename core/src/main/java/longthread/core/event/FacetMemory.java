package longthread.core.event;

import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.zip.CRC32C;
import longthread.core.json.CanonicalJson;
import longthread.core.lineage.EncodedLineage;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * What was read before: emitters repeat the same facets and the same lists run after run, byte for
 * byte, so most of an event need not be read again. The least recently used is forgotten first.
 * Holds at most the given number of bytes of text, and about six times that in trees. Not safe for
 * several threads.
 */
public final class FacetMemory {
  private static final float LOAD = 0.75f;

  /** A facet's value and the digest of its canonical text. */
  record Known(JsonNode value, String digest, int length) {}

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

  /** Returns the value that these bytes spell. */
  Known facet(byte[] bytes, int start, int end) {
    var piece = new Piece(bytes, start, end);
    Known known = facets.get(piece);
    if (known != null) {
      return known;
    }
    JsonNode value = CanonicalJson.LAST_WINS.readTree(bytes, start, end - start);
    Known fresh = new Known(value, CanonicalJson.digest(CanonicalJson.text(value)), end - start);
    facets.put(piece.alone(), fresh);
    facetBytes += end - start;
    for (var oldest = facets.entrySet().iterator(); facetBytes > mostBytes && oldest.hasNext(); ) {
      facetBytes -= oldest.next().getValue().length();
      oldest.remove();
    }
    return fresh;
  }

  @Nullable EncodedLineage lineage(String key) {
    return lineages.get(key);
  }

  EncodedLineage remember(String key, EncodedLineage reported) {
    lineages.put(key, reported);
    shapeBytes += key.length() + reported.text().length();
    for (var oldest = lineages.entrySet().iterator();
        shapeBytes > mostBytes && oldest.hasNext(); ) {
      Map.Entry<String, EncodedLineage> entry = oldest.next();
      shapeBytes -= entry.getKey().length() + entry.getValue().text().length();
      oldest.remove();
    }
    return reported;
  }
}
