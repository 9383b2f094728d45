package longthread.core.json;

import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.StreamReadConstraints;
import tools.jackson.core.StreamReadFeature;
import tools.jackson.core.io.JsonStringEncoder;
import tools.jackson.core.json.JsonFactory;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.cfg.JsonNodeFeature;
import tools.jackson.databind.json.JsonMapper;

/** JSON values as text that is equal when the values are: members sorted, numbers as spelled. */
public final class CanonicalJson {
  /** How deep an event may nest. */
  public static final int DEEPEST = 200;

  /** Reads strictly: no repeated members, no trailing text, numbers to the last digit. */
  public static final JsonMapper MAPPER = mapper(true);

  /** Reads as strictly, but of a member that an object has twice the last value counts. */
  public static final JsonMapper LAST_WINS = mapper(false);

  private static JsonMapper mapper(boolean distinctMembers) {
    return JsonMapper.builder(
            JsonFactory.builder()
                .streamReadConstraints(
                    StreamReadConstraints.builder()
                        .maxNestingDepth(DEEPEST)
                        .maxNumberLength(1_000)
                        .maxStringLength(50_000_000)
                        .build())
                .configure(StreamReadFeature.STRICT_DUPLICATE_DETECTION, distinctMembers)
                .build())
        .enable(DeserializationFeature.USE_BIG_DECIMAL_FOR_FLOATS)
        .enable(DeserializationFeature.FAIL_ON_TRAILING_TOKENS)
        .disable(JsonNodeFeature.STRIP_TRAILING_BIGDECIMAL_ZEROES)
        .build();
  }

  private static final int MAX_DIGITS = 18;

  private CanonicalJson() {}

  /** The value's text with the members of every object in order of their names. */
  public static String text(JsonNode value) {
    var text = new StringBuilder();
    write(value, text);
    return text.toString();
  }

  private static void write(JsonNode value, StringBuilder text) {
    if (value.isObject()) {
      var sorted = new TreeMap<String, JsonNode>();
      value.properties().forEach(member -> sorted.put(member.getKey(), member.getValue()));
      String separator = "{";
      for (var member : sorted.entrySet()) {
        text.append(separator);
        quote(member.getKey(), text);
        text.append(':');
        write(member.getValue(), text);
        separator = ",";
      }
      text.append(sorted.isEmpty() ? "{}" : "}");
    } else if (value.isArray()) {
      String separator = "[";
      for (JsonNode element : value) {
        text.append(separator);
        write(element, text);
        separator = ",";
      }
      text.append(value.isEmpty() ? "[]" : "]");
    } else if (value.isString()) {
      quote(value.stringValue(), text);
    } else if (value.isBigDecimal()) {
      BigDecimal number = value.decimalValue();
      text.append(number.toString());
    } else {
      text.append(MAPPER.writeValueAsString(value));
    }
  }

  private static void quote(String string, StringBuilder text) {
    text.append('"');
    JsonStringEncoder.getInstance().quoteAsString(string, text);
    text.append('"');
  }

  /** A number as a whole one, rounded down; null if it is none, or too large to be counted. */
  public static @Nullable Long whole(JsonNode number) {
    if (!number.isNumber()) {
      return null;
    }
    BigDecimal exact = number.decimalValue();
    return (long) exact.precision() - exact.scale() > MAX_DIGITS ? null : exact.longValue();
  }

  /** SHA-256 of a text in UTF-8, in hex. */
  public static String digest(String text) {
    return digest(text.getBytes(StandardCharsets.UTF_8));
  }

  /** SHA-256 of bytes, in hex. */
  public static String digest(byte[] bytes) {
    try {
      return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(bytes));
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }
}
