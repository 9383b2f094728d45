package longthread.service.access;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.util.Base64;

/** The secrets that keys and session cookies carry, and how they are kept: as hashes only. */
public final class Tokens {
  private static final int TOKEN_BYTES = 32;
  private static final SecureRandom RANDOM = new SecureRandom();

  private Tokens() {}

  /** A new secret of 256 random bits. */
  public static String make() {
    byte[] bytes = new byte[TOKEN_BYTES];
    RANDOM.nextBytes(bytes);
    return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
  }

  /** What is kept of a secret; it has 256 random bits, so a fast hash gives nothing away. */
  public static byte[] hash(String token) {
    try {
      return MessageDigest.getInstance("SHA-256").digest(token.getBytes(StandardCharsets.UTF_8));
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }

  /** A short name for a text of any length. */
  static String shortHash(String text) {
    return Base64.getUrlEncoder().withoutPadding().encodeToString(hash(text)).substring(0, 16);
  }
}
