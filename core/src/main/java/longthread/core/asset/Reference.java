package longthread.core.asset;

import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/**
 * The text that names one thing exactly, and reads back to the same thing.
 *
 * <p>{@code namespace/name} is a dataset, {@code @namespace/name} a job, {@code run:<uuid>} a run,
 * {@code system:<name>} a system; {@code #column} behind a dataset is a column and {@code #*} its
 * rows. The namespace ends at the first slash behind {@code scheme://authority}, else at the first
 * slash; whatever would make that ambiguous is percent-encoded.
 */
public sealed interface Reference {
  String JOB_PREFIX = "@";
  String RUN_PREFIX = "run:";
  String SYSTEM_PREFIX = "system:";

  /** The reference of the asset that a reference is of, its column left off. */
  static String assetOf(String reference) {
    int hash = reference.indexOf('#');
    return hash < 0 ? reference : reference.substring(0, hash);
  }

  /** The reference as text; parsing it gives an equal reference. */
  String text();

  /** A dataset, or one of its columns when {@code column} is given. */
  record OfDataset(DatasetName dataset, @Nullable String column) implements Reference {
    @Override
    public String text() {
      return column == null ? dataset.reference() : dataset.reference() + "#" + column;
    }
  }

  /** A job. */
  record OfJob(JobName job) implements Reference {
    @Override
    public String text() {
      return job.reference();
    }
  }

  /** A run, whatever job it belongs to. */
  record OfRun(UUID run) implements Reference {
    @Override
    public String text() {
      return RUN_PREFIX + run;
    }
  }

  /** A system, by its name. */
  record OfSystem(String system) implements Reference {
    @Override
    public String text() {
      return SYSTEM_PREFIX + system;
    }
  }

  /** Whether a whole reference names a job; the text is not checked further. */
  static boolean isJob(String reference) {
    return reference.startsWith(JOB_PREFIX);
  }

  /** Whether a whole reference names a system; the text is not checked further. */
  static boolean isSystem(String reference) {
    return reference.startsWith(SYSTEM_PREFIX);
  }

  /**
   * Reads a whole reference, not a short form.
   *
   * @throws BadNameException if the text is no reference
   */
  static Reference parse(String text) {
    if (text.startsWith(RUN_PREFIX)) {
      try {
        return new OfRun(UUID.fromString(text.substring(RUN_PREFIX.length())));
      } catch (IllegalArgumentException e) {
        throw new BadNameException("'" + text + "' does not end in a run's UUID");
      }
    }
    if (isSystem(text)) {
      return new OfSystem(decode(text.substring(SYSTEM_PREFIX.length())));
    }
    boolean job = isJob(text);
    String rest = job ? text.substring(1) : text;
    int hash = rest.indexOf('#');
    String path = hash < 0 ? rest : rest.substring(0, hash);
    int cut = endOfNamespace(path);
    if (cut < 0 || cut == path.length() - 1) {
      throw new BadNameException("'" + text + "' has no '/' between a namespace and a name");
    }
    String namespace = decode(path.substring(0, cut));
    String name = decode(path.substring(cut + 1));
    if (job) {
      if (hash >= 0) {
        throw new BadNameException("'" + text + "' names a column of a job; jobs have none");
      }
      return new OfJob(new JobName(namespace, name));
    }
    String column = hash < 0 ? null : rest.substring(hash + 1);
    if (column != null && column.isEmpty()) {
      throw new BadNameException("'" + text + "' has nothing behind '#'");
    }
    return new OfDataset(new DatasetName(namespace, name), column);
  }

  /** Behind the {@code ://} of a text that begins with a scheme (RFC 3986, 3.1); else 0. */
  private static int endOfScheme(String text) {
    int colon = text.indexOf("://");
    for (int at = 0; at < colon; at++) {
      char c = text.charAt(at);
      boolean letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
      boolean further = (c >= '0' && c <= '9') || c == '+' || c == '.' || c == '-';
      if (!letter && (at == 0 || !further)) {
        return 0;
      }
    }
    return colon <= 0 ? 0 : colon + 3;
  }

  /** Where the namespace of an encoded pair ends, or -1. */
  private static int endOfNamespace(String path) {
    return path.indexOf('/', endOfScheme(path));
  }

  /** The pair as {@code namespace/name}, encoded so that it reads back to the same pair. */
  static String encode(String namespace, String name) {
    int plain = endOfScheme(namespace);
    var text = new StringBuilder(namespace.length() + name.length() + 1);
    text.append(namespace, 0, plain);
    encodeInto(text, namespace.substring(plain), "/");
    boolean startsLikeAnotherKind =
        namespace.startsWith(JOB_PREFIX)
            || namespace.startsWith(RUN_PREFIX)
            || namespace.startsWith(SYSTEM_PREFIX);
    if (startsLikeAnotherKind) {
      text.replace(0, 1, percent(namespace.charAt(0)));
    }
    if (namespace.endsWith(":") && endOfScheme(namespace + "//") > 0) {
      text.replace(text.length() - 1, text.length(), "%3A");
    }
    text.append('/');
    encodeInto(text, name, "");
    return text.toString();
  }

  /** One segment of a column's path as it stands in a reference. */
  public static String encodeSegment(String segment) {
    if (segment.equals(ColumnName.ROWS)) {
      return "%2A";
    }
    var text = new StringBuilder(segment.length());
    encodeInto(text, segment, ".");
    return text.toString();
  }

  private static void encodeInto(StringBuilder text, String part, String also) {
    for (int at = 0; at < part.length(); at++) {
      char c = part.charAt(at);
      if (c == '%' || c == '#' || c < ' ' || c == 0x7f || also.indexOf(c) >= 0) {
        text.append(percent(c));
      } else {
        text.append(c);
      }
    }
  }

  private static String percent(char c) {
    return String.format("%%%02X", (int) c);
  }

  /** Undoes the percent-encoding of a part. */
  static String decode(String part) {
    if (part.indexOf('%') < 0) {
      return part;
    }
    byte[] bytes = part.getBytes(StandardCharsets.UTF_8);
    var out = ByteBuffer.allocate(bytes.length);
    for (int at = 0; at < bytes.length; at++) {
      if (bytes[at] == '%') {
        int value = at + 2 < bytes.length ? hex(bytes[at + 1]) * 16 + hex(bytes[at + 2]) : -1;
        if (value < 0) {
          throw new BadNameException("'" + part + "' has a % that two hex digits do not follow");
        }
        out.put((byte) value);
        at += 2;
      } else {
        out.put(bytes[at]);
      }
    }
    try {
      return StandardCharsets.UTF_8.newDecoder().decode(out.flip()).toString();
    } catch (CharacterCodingException e) {
      throw new BadNameException("'" + part + "' does not decode to UTF-8 text");
    }
  }

  private static int hex(byte digit) {
    int value = Character.digit(digit, 16);
    return value < 0 ? -1_000 : value;
  }
}
