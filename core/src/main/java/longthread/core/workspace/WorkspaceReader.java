package longthread.core.workspace;

import com.networknt.schema.Error;
import com.networknt.schema.ExecutionContext;
import com.networknt.schema.Schema;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import longthread.core.asset.BadNameException;
import longthread.core.json.CanonicalJson;
import longthread.core.json.SchemaWords;
import longthread.core.workspace.BadWorkspaceException.Fault;
import longthread.core.workspace.WorkspaceDescription.Item;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;

/** Reads and checks workspace descriptions. */
public final class WorkspaceReader {
  /** How descriptions of this version begin. */
  public static final String FORMAT = "longthread-workspace/1";

  private static final String ANY_FORMAT = "longthread-workspace/";
  private static final String EITHER =
      "an input is either an object of a connection (connection and object) or an item";
  private static final int MAX_FAULTS = 100;
  private static final String SCHEMA_TEXT = text();
  private static final JsonNode WHOLE_SCHEMA = CanonicalJson.MAPPER.readTree(SCHEMA_TEXT);
  private static final Schema SCHEMA =
      SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12).getSchema(WHOLE_SCHEMA);

  private WorkspaceReader() {}

  /** The JSON Schema of descriptions, as text. */
  public static String schema() {
    return SCHEMA_TEXT;
  }

  private static String text() {
    try (InputStream in = WorkspaceReader.class.getResourceAsStream("workspace.json")) {
      return new String(Objects.requireNonNull(in).readAllBytes(), StandardCharsets.UTF_8);
    } catch (IOException e) {
      throw new UncheckedIOException("the schema is part of the program", e);
    }
  }

  /** Whether a JSON value says of itself that it is a description, of whatever version. */
  static boolean isDescription(JsonNode node) {
    return node.path("format").stringValue("").startsWith(ANY_FORMAT);
  }

  /**
   * Returns the description in these bytes, in time linear in their number and quadratic in the
   * number of items for their references.
   *
   * @throws BadWorkspaceException with all faults, at most {@value #MAX_FAULTS}
   */
  public static WorkspaceDescription read(byte[] bytes) throws BadWorkspaceException {
    JsonNode root;
    try {
      root = CanonicalJson.MAPPER.readTree(bytes);
    } catch (JacksonException e) {
      throw bad("", "this is no JSON: " + e.getOriginalMessage());
    }
    return read(root);
  }

  static WorkspaceDescription read(JsonNode root) throws BadWorkspaceException {
    if (isDescription(root) && !root.path("format").stringValue("").equals(FORMAT)) {
      throw bad(
          "/format",
          "'"
              + root.path("format").stringValue("")
              + "' is not a version that this service reads; send "
              + FORMAT);
    }
    List<Fault> faults = new ArrayList<>();
    for (Error error : SCHEMA.validate(root, WorkspaceReader::withFormats)) {
      faults.add(fault(error));
    }
    if (faults.isEmpty()) {
      String namespace =
          root.path("tool").stringValue("") + "://" + root.path("instance").stringValue("");
      var description =
          new WorkspaceDescription(
              root,
              namespace,
              root.path("workspace").path("id").stringValue(""),
              time(root, "/at", root.path("at"), faults));
      new References(description, faults).check();
      if (faults.isEmpty()) {
        return description;
      }
    }
    throw new BadWorkspaceException(faults.stream().distinct().limit(MAX_FAULTS).toList());
  }

  private static void withFormats(ExecutionContext context) {
    context.executionConfig(config -> config.formatAssertionsEnabled(true));
  }

  private static BadWorkspaceException bad(String pointer, String detail) {
    return new BadWorkspaceException(List.of(new Fault(pointer, detail)));
  }

  private static Fault fault(Error error) {
    String pointer = String.valueOf(error.getInstanceLocation());
    // The one choice of the schema; the library's words for it name no member.
    return new Fault(
        pointer, "oneOf".equals(error.getKeyword()) ? EITHER : SchemaWords.of(error, WHOLE_SCHEMA));
  }

  private static Instant time(JsonNode root, String pointer, JsonNode node, List<Fault> faults) {
    try {
      return OffsetDateTime.parse(node.stringValue("")).toInstant();
    } catch (DateTimeException e) {
      faults.add(new Fault(pointer, "'" + node.stringValue("") + "' is no time with an offset"));
      return Instant.EPOCH;
    }
  }

  /** Checks what a schema cannot: that what is named is there. */
  private static final class References {
    private final WorkspaceDescription description;
    private final JsonNode root;
    private final List<Fault> faults;
    private final Map<String, Set<String>> fieldsOf = new HashMap<>();

    References(WorkspaceDescription description, List<Fault> faults) {
      this.description = description;
      this.root = description.root();
      this.faults = faults;
    }

    void check() {
      unique("relays", "id");
      unique("connections", "id");
      WorkspaceDescription.ITEMS.forEach(member -> unique(member.get(0), "id"));
      each("connections", this::connection);
      each("steps", this::step);
      each("models", this::model);
      each("charts", this::chart);
      each("reports", this::page);
      each("dashboards", this::page);
      each("refreshes", this::refresh);
      each("usage", (pointer, use) -> ownItem(pointer + "/of", use.path("of")));
    }

    private interface Check {
      void of(String pointer, JsonNode node);
    }

    private void each(String member, Check check) {
      each("", root, member, check);
    }

    private static void each(String pointer, JsonNode node, String member, Check check) {
      for (int i = 0; i < node.path(member).size(); i++) {
        check.of(pointer + "/" + member + "/" + i, node.path(member).get(i));
      }
    }

    private void fault(String pointer, String detail) {
      if (faults.size() <= MAX_FAULTS) {
        faults.add(new Fault(pointer, detail));
      }
    }

    private void unique(String member, String key) {
      unique("", root, member, key);
    }

    private void unique(String at, JsonNode node, String member, String key) {
      var seen = new HashSet<String>();
      each(
          at,
          node,
          member,
          (pointer, one) -> {
            String value = one.path(key).stringValue("");
            if (!value.isEmpty() && !seen.add(value)) {
              fault(pointer + "/" + key, "'" + value + "' is there twice; each needs its own");
            }
          });
    }

    private void connection(String pointer, JsonNode connection) {
      String relay = connection.path("through").stringValue(null);
      if (relay != null) {
        oneOf(pointer + "/through", relay, "relay", ids("relays"));
      }
    }

    private Set<String> ids(String member) {
      var ids = new LinkedHashSet<String>();
      root.path(member).forEach(one -> ids.add(one.path("id").stringValue("")));
      return ids;
    }

    private void oneOf(String pointer, String value, String what, Collection<String> allowed) {
      if (!allowed.contains(value)) {
        List<String> some = allowed.stream().limit(12).toList();
        fault(
            pointer,
            "there is no "
                + what
                + " '"
                + value
                + "'; "
                + (some.isEmpty() ? "there is none" : "there are " + String.join(", ", some)));
      }
    }

    private void step(String pointer, JsonNode step) {
      if (step.has("reuses")) {
        madeItem(pointer + "/reuses", step.path("reuses"));
        for (String other : List.of("inputs", "filters", "sql")) {
          if (step.has(other)) {
            fault(pointer + "/" + other, "a step that reuses another's result has no " + other);
          }
        }
      }
      Map<String, JsonNode> inputs = inputs(pointer, step);
      unique(pointer, step, "fields", "name");
      each(pointer, step, "fields", (at, f) -> sources(at, f, "from", inputs));
      sources(pointer, step, "filters", inputs);
      writes(pointer, step, new Item("step", step));
    }

    private void model(String pointer, JsonNode model) {
      Map<String, JsonNode> inputs = inputs(pointer, model);
      Set<String> own = fields(new Item("model", model));
      unique(pointer, model, "fields", "name");
      each(
          pointer,
          model,
          "fields",
          (at, field) -> {
            sources(at, field, "from", inputs);
            if (field.has("from") && (field.has("sql") || field.has("uses"))) {
              fault(at, "a field comes from inputs or is calculated of others; give one of them");
            }
            int i = 0;
            for (JsonNode used : field.path("uses")) {
              oneOf(at + "/uses/" + i++, used.stringValue(""), "field", own);
            }
          });
      each(
          pointer,
          model,
          "relations",
          (at, relation) -> {
            source(at + "/from", relation.path("from"), inputs);
            source(at + "/to", relation.path("to"), inputs);
          });
      sources(pointer, model, "filters", inputs);
      writes(pointer, model, new Item("model", model));
    }

    private Map<String, JsonNode> inputs(String pointer, JsonNode of) {
      var inputs = new LinkedHashMap<String, JsonNode>();
      each(
          pointer,
          of,
          "inputs",
          (at, input) -> {
            if (input.has("item") && (input.has("connection") || input.has("object"))) {
              fault(at, EITHER);
            }
            if (input.has("item")) {
              madeItem(at + "/item", input.path("item"));
            } else {
              String connection = input.path("connection").stringValue("");
              oneOf(at + "/connection", connection, "connection", ids("connections"));
            }
            name(at, () -> description.input(input));
            String called = WorkspaceDescription.called(input);
            if (inputs.put(called, input) != null) {
              fault(at, "another input is called '" + called + "' too; give it a name with as");
            }
          });
      return inputs;
    }

    private void name(String pointer, Runnable make) {
      try {
        make.run();
      } catch (BadNameException e) {
        fault(pointer, String.valueOf(e.getMessage()));
      }
    }

    private void sources(String at, JsonNode of, String member, Map<String, JsonNode> inputs) {
      each(at, of, member, (pointer, source) -> source(pointer, source, inputs));
    }

    private void source(String pointer, JsonNode source, Map<String, JsonNode> inputs) {
      String called = source.path("input").stringValue(null);
      if (called == null && inputs.size() != 1) {
        fault(pointer, "say which input is meant, with input: there are " + inputs.size());
        return;
      }
      JsonNode input = called == null ? inputs.values().iterator().next() : inputs.get(called);
      if (input == null) {
        oneOf(pointer + "/input", String.valueOf(called), "input", inputs.keySet());
      } else if (input.has("item")) {
        field(pointer + "/field", input.path("item"), source.path("field"));
      }
    }

    /** A field of an item, if that is of this workspace and its fields are known. */
    private void field(String pointer, JsonNode item, JsonNode field) {
      Item made = description.item(item.stringValue(""));
      Set<String> known = made == null ? Set.of() : fields(made);
      if (!known.isEmpty()) {
        oneOf(
            pointer, field.stringValue(""), "field of " + item.stringValue("") + " called", known);
      }
    }

    /** The names of an item's fields; none if they are read out of SQL or out of another item. */
    private Set<String> fields(Item item) {
      return fieldsOf.computeIfAbsent(
          item.word(),
          word -> {
            var names = new LinkedHashSet<String>();
            for (JsonNode field : item.node().path("fields")) {
              names.add(shown(item, field));
            }
            return names;
          });
    }

    private static String shown(Item item, JsonNode field) {
      String name = field.path("name").stringValue(null);
      return item.kind().equals("chart") && name == null
          ? field.path("field").stringValue("")
          : String.valueOf(name);
    }

    private void chart(String pointer, JsonNode chart) {
      madeItem(pointer + "/of", chart.path("of"));
      var shown = new HashSet<String>();
      each(
          pointer,
          chart,
          "fields",
          (at, field) -> {
            field(at + "/field", chart.path("of"), field.path("field"));
            String name = shown(new Item("chart", chart), field);
            if (WorkspaceEvents.isShown(field) && !shown.add(name)) {
              fault(at, "the chart shows two fields called '" + name + "'; give one a name");
            }
          });
    }

    private void page(String pointer, JsonNode page) {
      int i = 0;
      for (JsonNode chart : page.path("charts")) {
        String word = chart.stringValue("");
        if (!word.contains("chart/")) {
          fault(pointer + "/charts/" + i, "'" + word + "' is no chart; write chart/ and its id");
        } else {
          ownOrOther(pointer + "/charts/" + i, word);
        }
        i++;
      }
      each(
          pointer,
          page,
          "filters",
          (at, filter) -> {
            madeItem(at + "/of", filter.path("of"));
            field(at + "/field", filter.path("of"), filter.path("field"));
          });
      writes(
          pointer, page, new Item(pointer.startsWith("/reports") ? "report" : "dashboard", page));
    }

    private void writes(String pointer, JsonNode of, Item item) {
      unique(pointer, of, "writes", "object");
      each(
          pointer,
          of,
          "writes",
          (at, target) -> {
            String connection = target.path("connection").stringValue("");
            oneOf(at + "/connection", connection, "connection", ids("connections"));
            name(at, () -> description.object(connection, target.path("object").stringValue("")));
            Set<String> known = WorkspaceEvents.fieldNames(description, item);
            each(
                at,
                target,
                "fields",
                (place, field) -> {
                  if (!known.isEmpty()) {
                    String name = field.path("field").stringValue("");
                    oneOf(place + "/field", name, "field", known);
                  }
                });
          });
    }

    /** A step or model that others build on. */
    private void madeItem(String pointer, JsonNode item) {
      String word = item.stringValue("");
      if (!word.contains("step/") && !word.contains("model/")) {
        fault(pointer, "'" + word + "' is neither a step nor a model, so nothing builds on it");
      } else {
        ownOrOther(pointer, word);
      }
    }

    /** Items of other workspaces may be described later; those of this one must be here. */
    private void ownOrOther(String pointer, String word) {
      if (word.indexOf('/') == word.lastIndexOf('/')) {
        known(pointer, word);
      }
    }

    private void ownItem(String pointer, JsonNode item) {
      known(pointer, item.stringValue(""));
    }

    private @Nullable Item known(String pointer, String word) {
      Item item = description.item(word);
      if (item == null) {
        String kind = word.substring(0, word.indexOf('/'));
        List<String> same =
            description.items().stream()
                .filter(i -> i.kind().equals(kind))
                .map(Item::word)
                .toList();
        oneOf(pointer, word, "item", same);
      }
      return item;
    }

    private void refresh(String pointer, JsonNode refresh) {
      Item item = known(pointer + "/of", refresh.path("of").stringValue(""));
      if (item != null && !WorkspaceEvents.isRefreshed(item)) {
        fault(pointer + "/of", "'" + item.word() + "' is not refreshed: it keeps no data");
      }
      Instant start = time(root, pointer + "/start", refresh.path("start"), faults);
      if (refresh.has("end")
          && time(root, pointer + "/end", refresh.path("end"), faults).isBefore(start)) {
        fault(pointer + "/end", "it ends before it starts");
      }
    }
  }
}
