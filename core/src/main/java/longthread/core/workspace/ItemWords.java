package longthread.core.workspace;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import longthread.core.event.HandFacet;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** What people call the facets of workspace items, and what changed in one. */
public final class ItemWords {
  private static final Map<String, String> NAMES =
      Map.of(
          WorkspaceDescription.FACET,
          "content",
          WorkspaceEvents.ITEM,
          "description",
          WorkspaceEvents.USAGE,
          "reads",
          "longthread_view",
          "query",
          "longthread_holds",
          "charts");

  private ItemWords() {}

  /** The word for a facet; its key where it has none. */
  public static String of(String key) {
    return HandFacet.isHand(key) ? HandFacet.words(key) : NAMES.getOrDefault(key, key);
  }

  /** What is different in an item's facet from the one before. */
  public static List<String> changes(@Nullable JsonNode before, JsonNode after) {
    if (before == null) {
      return List.of("first described");
    }
    var members = new TreeSet<String>();
    before.properties().forEach(member -> members.add(member.getKey()));
    after.properties().forEach(member -> members.add(member.getKey()));
    var words = new ArrayList<String>();
    for (String member : members) {
      JsonNode old = before.path(member);
      JsonNode now = after.path(member);
      if (!old.equals(now)) {
        words.add(
            old.isString() && now.isString()
                ? member + " is “" + now.stringValue() + "” now, was “" + old.stringValue() + "”"
                : member
                    + (now.isMissingNode()
                        ? " is gone"
                        : old.isMissingNode() ? " is new" : " changed"));
      }
    }
    return words;
  }
}
