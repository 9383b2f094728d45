package longthread.emitter;

/**
 * A dataset by its namespace and name.
 *
 * @param namespace such as {@code postgres://barn:5432}
 * @param name such as {@code barn.mart.payout_statement}
 */
public record Asset(String namespace, String name) {
  public Asset {
    if (namespace.isBlank() || name.isBlank()) {
      throw new IllegalArgumentException("an asset needs a namespace and a name");
    }
  }

  /**
   * Reads {@code namespace/name}: the namespace ends at the first slash behind {@code
   * scheme://authority}, else at the first slash.
   */
  public static Asset of(String reference) {
    int scheme = reference.indexOf("://");
    int cut = reference.indexOf('/', scheme < 0 ? 0 : scheme + 3);
    if (cut <= 0 || cut == reference.length() - 1) {
      throw new IllegalArgumentException(
          "'" + reference + "' has no '/' between a namespace and a name");
    }
    return new Asset(decode(reference.substring(0, cut)), decode(reference.substring(cut + 1)));
  }

  /** References encode a slash of a namespace and a few characters that part them. */
  private static String decode(String part) {
    return part.indexOf('%') < 0
        ? part
        : java.net.URLDecoder.decode(
            part.replace("+", "%2B"), java.nio.charset.StandardCharsets.UTF_8);
  }
}
