package longthread.service.storage;

import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.zip.Deflater;
import java.util.zip.DeflaterOutputStream;
import java.util.zip.InflaterInputStream;
import longthread.core.asset.Card;
import longthread.core.json.CanonicalJson;
import tools.jackson.databind.JsonNode;

/** Text as it is stored: compressed where it is kept whole, cleaned where a column shows it. */
public final class StoredText {
  private StoredText() {}

  /** A text, compressed. */
  public static byte[] packed(String text) {
    var out = new ByteArrayOutputStream();
    // Its memory is outside the heap, and freed late unless it is ended.
    var deflater = new Deflater(Deflater.BEST_SPEED);
    try (var deflated = new DeflaterOutputStream(out, deflater)) {
      deflated.write(text.getBytes(StandardCharsets.UTF_8));
    } catch (IOException e) {
      throw new UncheckedIOException("memory does not fail to be written", e);
    } finally {
      deflater.end();
    }
    return out.toByteArray();
  }

  public static String text(byte[] packed) {
    try (InputStream in = new InflaterInputStream(new ByteArrayInputStream(packed))) {
      return new String(in.readAllBytes(), StandardCharsets.UTF_8);
    } catch (IOException e) {
      throw new UncheckedIOException("a stored text is damaged", e);
    }
  }

  public static JsonNode json(byte[] packed) {
    return CanonicalJson.MAPPER.readTree(text(packed));
  }

  public static Card card(byte[] packed) {
    return CanonicalJson.MAPPER.readValue(text(packed), Card.class);
  }

  /** The text cleaned, and cut to so many characters, as an index or a list can hold it. */
  public static String clean(String text, int most) {
    String clean = clean(text);
    return clean.length() <= most ? clean : clean.substring(0, most);
  }

  /** The text without U+0000, which PostgreSQL refuses, and without halves of surrogate pairs. */
  public static String clean(String text) {
    var out = new StringBuilder(text.length());
    text.codePoints()
        .forEach(
            c -> {
              boolean half = c >= Character.MIN_SURROGATE && c <= Character.MAX_SURROGATE;
              out.appendCodePoint(c == 0 || half ? 0xFFFD : c);
            });
    return out.toString();
  }
}
