package longthread.core.label;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.nio.charset.StandardCharsets;
import java.security.InvalidKeyException;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import org.jspecify.annotations.Nullable;

/** Replaces values by what may be shown of them. */
public final class Mask {
  private static final String DOT = "•";
  private static final String HIDDEN = DOT.repeat(5);
  private static final int MAX_LAST = 4;
  private static final int SHOWN_OF = 4; // at most one letter of so many is shown
  private static final int HASH_LETTERS = 12;
  private static final Pattern NUMBER = Pattern.compile("[+-]?\\d{1,30}(?:\\.\\d{1,30})?");
  private static final Pattern DATE = Pattern.compile("(\\d{4})-\\d\\d-\\d\\d(?:[ T].*)?");

  private final byte[] salt;

  /**
   * Makes masks of one house.
   *
   * @param salt a secret of at least 16 bytes: without it, nobody can try out which value a hash
   *     stands for
   */
  public Mask(byte[] salt) {
    if (salt.length < 16) {
      throw new IllegalArgumentException("a salt has at least 16 bytes; this has " + salt.length);
    }
    this.salt = salt.clone();
  }

  /** What is shown of a value; null, where there is no value, stays null. */
  public @Nullable String of(@Nullable String value, MaskKind kind) {
    if (value == null) {
      return null;
    }
    return switch (kind) {
      case SHOWN -> value;
      case GENERALISED -> general(value);
      case PARTIAL -> last(value);
      case HASHED -> hash(value);
      case HIDDEN -> HIDDEN;
    };
  }

  /** The last letters, at most four and at most a quarter of all. */
  private static String last(String value) {
    int letters = value.codePointCount(0, value.length());
    int shown = Math.min(MAX_LAST, letters / SHOWN_OF);
    return HIDDEN + value.substring(value.offsetByCodePoints(value.length(), -shown));
  }

  /** HMAC-SHA-256 (RFC 2104), cut to 48 bits: enough to tell the values of a page apart. */
  private String hash(String value) {
    try {
      Mac mac = Mac.getInstance("HmacSHA256");
      mac.init(new SecretKeySpec(salt, "HmacSHA256"));
      byte[] digest = mac.doFinal(value.getBytes(StandardCharsets.UTF_8));
      return "#" + HexFormat.of().formatHex(digest).substring(0, HASH_LETTERS);
    } catch (NoSuchAlgorithmException | InvalidKeyException e) {
      throw new IllegalStateException("every Java has HMAC-SHA-256", e);
    }
  }

  private static String general(String value) {
    Matcher date = DATE.matcher(value.strip());
    if (date.matches()) {
      return date.group(1);
    }
    if (NUMBER.matcher(value.strip()).matches()) {
      return step(new BigDecimal(value.strip()));
    }
    return value.isBlank() ? HIDDEN : value.strip().substring(0, first(value.strip())) + HIDDEN;
  }

  private static int first(String text) {
    return text.offsetByCodePoints(0, 1);
  }

  /** The step of one leading digit that a number is in: 3,482 is {@code 3000 to 4000}. */
  private static String step(BigDecimal number) {
    if (number.signum() == 0) {
      return "0";
    }
    int digits = number.precision() - number.scale();
    BigDecimal width = BigDecimal.ONE.scaleByPowerOfTen(digits - 1);
    BigDecimal from = number.divide(width, 0, RoundingMode.FLOOR).multiply(width);
    return from.toPlainString() + " to " + from.add(width).toPlainString();
  }
}
