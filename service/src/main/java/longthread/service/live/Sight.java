package longthread.service.live;

import java.nio.charset.StandardCharsets;
import java.security.InvalidKeyException;
import java.security.NoSuchAlgorithmException;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Predicate;
import java.util.function.Supplier;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import longthread.core.asset.Card;
import longthread.core.asset.Kind;
import longthread.core.asset.Reference;

/**
 * What the caller of this thread may see and change: the one place that decides it.
 *
 * <p>Answers are worked out over the whole catalog, so that counts and threads are the same for
 * everybody. {@link Catalog#asset} then gives no details of what is hidden, and every reference to
 * it that leaves the service is replaced by {@link #alias}. Work that no request began sees
 * everything. An object of this class belongs to one request.
 */
public final class Sight {
  public static final String RESTRICTED = "restricted";

  private static final Sight EVERYTHING =
      new Sight(asset -> true, asset -> true, true, new byte[] {1});
  private static final ThreadLocal<Sight> CURRENT = new ThreadLocal<>();
  private static final int ALIAS_DIGITS = 12;

  private final Predicate<Asset> reads;
  private final Predicate<Asset> edits;
  private final boolean editsAll;
  private final byte[] secret;
  private final Map<String, Boolean> decided = new HashMap<>();
  private final Map<String, Asset> withheld = new HashMap<>();
  private final Set<String> names = new LinkedHashSet<>();

  /**
   * @param reads which assets the caller sees
   * @param edits which of them the caller may change
   * @param editsAll whether that is all of them, and what belongs to no asset too
   * @param secret makes aliases that nobody can compute from a name
   */
  Sight(Predicate<Asset> reads, Predicate<Asset> edits, boolean editsAll, byte[] secret) {
    this.reads = reads;
    this.edits = edits;
    this.editsAll = editsAll;
    this.secret = secret.clone();
  }

  /** What a caller sees who sees everything, and changes what {@code edits} says. */
  static Sight whole(Predicate<Asset> edits, boolean editsAll) {
    return new Sight(EVERYTHING.reads, edits, editsAll, EVERYTHING.secret);
  }

  /** What the caller of this thread may see. */
  public static Sight now() {
    Sight sight = CURRENT.get();
    return sight == null ? EVERYTHING : sight;
  }

  /** Work of a request, with what may go wrong in it. */
  public interface Work<E1 extends Exception, E2 extends Exception> {
    void run() throws E1, E2;
  }

  /** Does the work of a request whose caller sees so much. */
  public <E1 extends Exception, E2 extends Exception> void during(Work<E1, E2> work) throws E1, E2 {
    Sight before = CURRENT.get();
    CURRENT.set(this);
    try {
      work.run();
    } finally {
      restore(before);
    }
  }

  /** Works something out over all that there is, whoever asks. */
  public static <T> T everything(Supplier<T> work) {
    Sight before = CURRENT.get();
    CURRENT.remove();
    try {
      return work.get();
    } finally {
      restore(before);
    }
  }

  private static void restore(@org.jspecify.annotations.Nullable Sight before) {
    if (before == null) {
      CURRENT.remove();
    } else {
      CURRENT.set(before);
    }
  }

  /** Whether nothing is hidden. */
  public boolean isWhole() {
    return reads == EVERYTHING.reads;
  }

  /** Whether the caller may see an asset, as it is in the catalog. */
  public boolean sees(Asset asset) {
    return isWhole() || (!asset.isRestricted() && reads.test(asset));
  }

  /** As {@link #sees}, of an asset that is asked for again and again in one answer. */
  boolean seesAgain(Asset asset) {
    return isWhole() || decided.computeIfAbsent(asset.ref(), ref -> sees(asset));
  }

  /** Whether the caller may change an asset. */
  public boolean edits(Asset asset) {
    return edits.test(asset);
  }

  /** Whether the caller may change everything that people state: terms, rules, labels too. */
  public boolean editsAll() {
    return editsAll;
  }

  /** An asset as the caller may see it: without any details if it is hidden. */
  Asset seen(Asset asset) {
    return seesAgain(asset) ? asset : withheld.computeIfAbsent(asset.ref(), ref -> withhold(asset));
  }

  private Asset withhold(Asset asset) {
    names.add(asset.ref());
    names.add(asset.shown());
    names.add(asset.card().name());
    // The reference stays, by which everything is looked up; it never leaves the service as it is.
    return new Asset(asset.ref(), List.of(asset.ref()), bare(asset.ref()), RESTRICTED);
  }

  private static Card bare(String ref) {
    return new Card(
        ref,
        Kind.RESTRICTED,
        RESTRICTED,
        null,
        null,
        List.of(),
        null,
        null,
        List.of(),
        List.of(),
        List.of(),
        null,
        List.of(),
        true,
        false,
        null,
        List.of(),
        List.of(),
        null,
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        false,
        List.of());
  }

  /** The names of what was looked up and is hidden, which no text may have. */
  public Set<String> hiddenNames() {
    return Set.copyOf(names);
  }

  /**
   * What stands for a hidden asset's reference, or for one of its columns: the same for the same
   * one always, and on all replicas, so that nodes and links fit together.
   */
  public String alias(String reference) {
    int hash = reference.indexOf('#');
    String asset = hash < 0 ? reference : reference.substring(0, hash);
    String prefix = Reference.isJob(asset) ? Reference.JOB_PREFIX : "";
    String alias = prefix + RESTRICTED + "/" + digest(asset);
    return hash < 0 ? alias : alias + "#" + digest(reference);
  }

  /** Whether a text is an alias, with or without a column. */
  public static boolean isAlias(String reference) {
    String plain = Reference.isJob(reference) ? reference.substring(1) : reference;
    return plain.startsWith(RESTRICTED + "/");
  }

  private String digest(String text) {
    try {
      Mac mac = Mac.getInstance("HmacSHA256");
      mac.init(new SecretKeySpec(secret, "HmacSHA256"));
      byte[] digest = mac.doFinal(text.getBytes(StandardCharsets.UTF_8));
      return HexFormat.of().formatHex(digest).substring(0, ALIAS_DIGITS);
    } catch (NoSuchAlgorithmException | InvalidKeyException e) {
      throw new IllegalStateException("every Java has HMAC with SHA-256", e);
    }
  }
}
