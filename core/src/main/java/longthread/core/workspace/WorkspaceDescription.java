package longthread.core.workspace;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.json.CanonicalJson;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * A description that was found to be sound.
 *
 * @param root the description as it was sent
 * @param namespace of all items: {@code tool://instance}
 * @param id of the workspace in its tool
 * @param at when the workspace was like this
 */
public record WorkspaceDescription(JsonNode root, String namespace, String id, Instant at) {
  /** The members that hold items, with the kind of each. */
  static final List<List<String>> ITEMS =
      List.of(
          List.of("steps", "step"),
          List.of("models", "model"),
          List.of("charts", "chart"),
          List.of("reports", "report"),
          List.of("dashboards", "dashboard"));

  /** The facet of the workspace itself, which holds all but what changes at every refresh. */
  public static final String FACET = "longthread_workspace";

  /** One thing in a workspace. */
  public record Item(String kind, JsonNode node) {
    public String id() {
      return node.path("id").stringValue("");
    }

    public String title() {
      return node.path("title").stringValue("");
    }

    /** As descriptions name it. */
    public String word() {
      return kind + "/" + id();
    }
  }

  /** The name under which facts about the workspace as a whole are kept; it is no asset. */
  public DatasetName name() {
    return new DatasetName(namespace, id);
  }

  /** What stays the same from one refresh to the next if nobody changes the workspace. */
  public JsonNode content() {
    ObjectNode content = ((ObjectNode) root).deepCopy();
    content.remove(List.of("at", "refreshes", "usage", "producer", "format"));
    return content;
  }

  /** All items of a description or of its content, in the order of the kinds. */
  public static List<Item> items(JsonNode content) {
    var items = new ArrayList<Item>();
    for (List<String> member : ITEMS) {
      content.path(member.get(0)).forEach(node -> items.add(new Item(member.get(1), node)));
    }
    return items;
  }

  public List<Item> items() {
    return items(root);
  }

  /** The dataset that an item is, by {@code kind/id} or {@code workspace/kind/id}. */
  public DatasetName dataset(String item) {
    return new DatasetName(namespace, path(item));
  }

  /** The job that makes an item: a step, or the refresh of a model. */
  public JobName job(String item) {
    return new JobName(namespace, path(item));
  }

  /** The job by which an item writes an object of a connection. */
  JobName writer(Item item, JsonNode target) {
    return new JobName(
        namespace, path(item.word()) + "/writes/" + target.path("object").stringValue(""));
  }

  private String path(String item) {
    return item.chars().filter(c -> c == '/').count() > 1 ? item : id + "/" + item;
  }

  /** What an input is: an item, or an object that a connection reaches. */
  public DatasetName input(JsonNode input) {
    return input.has("item")
        ? dataset(input.path("item").stringValue(""))
        : object(input.path("connection").stringValue(""), input.path("object").stringValue(""));
  }

  /**
   * The catalog's name of an object, by the connection's naming rule. Without a rule it gets a name
   * of the workspace's own, which matches nothing.
   */
  DatasetName object(String connection, String object) {
    JsonNode rule = connection(connection).path("names");
    if (rule.isMissingNode()) {
      return new DatasetName(namespace, id + "/source/" + connection + "/" + object);
    }
    String schema = rule.path("defaultSchema").stringValue(null);
    String whole = schema == null || object.contains(".") ? object : schema + "." + object;
    String spelled =
        switch (rule.path("case").stringValue("as-is")) {
          case "lower" -> whole.toLowerCase(Locale.ROOT);
          case "upper" -> whole.toUpperCase(Locale.ROOT);
          default -> whole;
        };
    return new DatasetName(
        rule.path("namespace").stringValue(""),
        rule.path("name").stringValue("{object}").replace("{object}", spelled));
  }

  JsonNode connection(String wanted) {
    for (JsonNode connection : root.path("connections")) {
      if (connection.path("id").stringValue("").equals(wanted)) {
        return connection;
      }
    }
    return CanonicalJson.MAPPER.missingNode();
  }

  /** An item of this workspace by {@code kind/id}; null if there is none. */
  @Nullable Item item(String word) {
    for (Item item : items()) {
      if (item.word().equals(word)) {
        return item;
      }
    }
    return null;
  }

  /** What fields call an input: its own word for it, else the last part of its name. */
  static String called(JsonNode input) {
    String as = input.path("as").stringValue(null);
    if (as != null) {
      return as;
    }
    String name = input.path(input.has("item") ? "item" : "object").stringValue("");
    return name.substring(Math.max(name.lastIndexOf('/'), name.lastIndexOf('.')) + 1);
  }

  /** Whether a refresh of the model copies its inputs. */
  static boolean keepsCopy(JsonNode model) {
    return model.path("keeps").stringValue("copy").equals("copy");
  }

  /**
   * Whether a workspace's content still has what an item's facet stands for.
   *
   * @param content the value of {@link #FACET}
   * @param item the value of {@link WorkspaceEvents#ITEM}
   */
  public static boolean holds(JsonNode content, JsonNode item) {
    String word = item.path("kind").stringValue("") + "/" + item.path("id").stringValue("");
    for (Item held : items(content)) {
      if (held.word().equals(word)) {
        return switch (item.path("role").stringValue("")) {
          case "refresh" -> keepsCopy(held.node());
          case "step" -> !held.node().has("reuses");
          case "writes" -> writes(held.node(), item.path("object").stringValue(""));
          default -> true;
        };
      }
    }
    return false;
  }

  private static boolean writes(JsonNode item, String object) {
    for (JsonNode target : item.path("writes")) {
      if (target.path("object").stringValue("").equals(object)) {
        return true;
      }
    }
    return false;
  }
}
