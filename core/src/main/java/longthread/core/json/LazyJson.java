package longthread.core.json;

import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * A JSON value whose tree is made when it is first asked for: of most values that emitters repeat
 * only the digest is needed, and a tree takes ten times the memory of its text. For one thread.
 */
public final class LazyJson {
  private final byte[] bytes;
  private final int start;
  private final int length;
  private @Nullable JsonNode tree;
  private @Nullable String text;

  private LazyJson(byte[] bytes, int start, int length, @Nullable JsonNode tree) {
    this.bytes = bytes;
    this.start = start;
    this.length = length;
    this.tree = tree;
  }

  /** The value that bytes spell; of a member that an object has twice the last counts. */
  public static LazyJson of(byte[] bytes, int start, int end) {
    return new LazyJson(bytes, start, end - start, null);
  }

  public static LazyJson of(JsonNode tree) {
    return new LazyJson(new byte[0], 0, 0, tree);
  }

  /** Takes time linear in the text at the first call. */
  public JsonNode tree() {
    JsonNode made = tree;
    if (made == null) {
      made = CanonicalJson.LAST_WINS.readTree(bytes, start, length);
      tree = made;
    }
    return made;
  }

  /** Its text with sorted members, see {@link CanonicalJson#text}. */
  public String text() {
    String made = text;
    if (made == null) {
      made = CanonicalJson.text(tree());
      text = made;
    }
    return made;
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof LazyJson json && tree().equals(json.tree());
  }

  @Override
  public int hashCode() {
    return tree().hashCode();
  }

  @Override
  public String toString() {
    return text();
  }
}
