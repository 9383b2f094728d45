package longthread.core.statement;

import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.function.BiConsumer;
import longthread.core.asset.BadNameException;
import longthread.core.asset.Card;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.asset.FoldingRules;
import longthread.core.asset.Reference;
import longthread.core.event.FacetFact;
import longthread.core.event.HandFacet;
import longthread.core.json.CanonicalJson;
import longthread.core.label.MaskKind;
import longthread.core.statement.BadStatementException.Fault;
import longthread.core.statement.Statement.Change;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * Reads and checks statements: {@code {"format", "id", "at", "by", "reason", "changes"}}. A change
 * says what it sets ({@code set}), of what ({@code of} a whole reference, or {@code id}), and the
 * {@code value}, which is null where something is taken away.
 */
public final class StatementReader {
  /** How statements of this version begin. */
  public static final String FORMAT = "longthread-statement/1";

  /** The words of {@code set}. */
  public static final List<String> SETS =
      List.of(
          "description",
          "owners",
          "tags",
          "terms",
          "links",
          "join",
          "lead",
          "recorded",
          "term",
          "rule",
          "notice",
          "followed",
          "dismissed",
          "label",
          "label-rule",
          "label-stop",
          "label-policy",
          "label-mask",
          "leak-accepted");

  /** What is shown of labelled values, the most first. */
  public static final List<String> MASKS =
      Arrays.stream(MaskKind.values()).map(MaskKind::word).toList();

  /** The roles that a mask can be set for. */
  public static final List<String> MASKED_ROLES = List.of("reader", "steward", "admin");

  /** How serious a notice is, the least first. */
  public static final List<String> LEVELS = List.of("info", "warning", "stop");

  /** The flows that a person may give a link. */
  public static final List<String> FLOWS =
      List.of(
          "identity",
          "transformation",
          "aggregation",
          "conditional",
          "window",
          "join",
          "filter",
          "group-by",
          "sort");

  private static final String ANY_FORMAT = "longthread-statement/";
  private static final int MAX_CHANGES = 50_000;
  private static final int MAX_FAULTS = 100;
  static final int MAX_TEXT = 20_000;
  private static final int MAX_LIST = 1_000;
  static final int MAX_ID = 200;
  static final int MAX_NOTICE = 2_000;

  private final List<Fault> faults = new ArrayList<>();
  private final LabelValues labels = new LabelValues(this);

  private StatementReader() {}

  /** Whether a JSON value says of itself that it is a statement, of whatever version. */
  public static boolean isStatement(JsonNode node) {
    return node.path("format").stringValue("").startsWith(ANY_FORMAT);
  }

  /**
   * Returns the statement in a JSON value, in time linear in its size.
   *
   * @throws BadStatementException with all faults, at most {@value #MAX_FAULTS}
   */
  public static Statement read(JsonNode root) throws BadStatementException {
    var reader = new StatementReader();
    Statement statement = reader.statement(root);
    if (!reader.faults.isEmpty()) {
      throw new BadStatementException(reader.faults.stream().limit(MAX_FAULTS).toList());
    }
    return statement;
  }

  private Statement statement(JsonNode root) {
    if (!root.path("format").stringValue("").equals(FORMAT)) {
      fault("/format", "send " + FORMAT);
    }
    Instant at = time("/at", root.path("at"));
    String id = text("/id", root.path("id"), MAX_ID);
    String by = text("/by", root.path("by"), MAX_ID);
    String reason = root.has("reason") ? text("/reason", root.path("reason"), MAX_TEXT) : "";
    var changes = new ArrayList<Change>();
    JsonNode list = root.path("changes");
    if (!list.isArray() || list.isEmpty() || list.size() > MAX_CHANGES) {
      fault("/changes", "give a list of 1 to " + MAX_CHANGES + " changes");
    }
    for (int i = 0; i < list.size() && i < MAX_CHANGES; i++) {
      Change change = change("/changes/" + i, list.get(i));
      if (change != null) {
        changes.add(change);
      }
    }
    return new Statement(id, at, by, reason, changes);
  }

  private @Nullable Change change(String at, JsonNode node) {
    String set = node.path("set").stringValue("");
    JsonNode value = node.path("value");
    if (value.isMissingNode()) {
      value = CanonicalJson.MAPPER.nullNode();
    }
    return switch (set) {
      case "description" ->
          ofAsset(at, node, HandFacet.DESCRIPTION, checked(at, value, this::description));
      case "owners" -> ofAsset(at, node, HandFacet.OWNERS, checked(at, value, this::texts));
      case "tags" -> ofAsset(at, node, HandFacet.TAGS, checked(at, value, this::texts));
      case "terms" -> ofAsset(at, node, HandFacet.TERMS, checked(at, value, this::texts));
      case "links" -> ofAsset(at, node, HandFacet.LINKS, checked(at, value, this::links));
      case "lead" -> ofDataset(at, node, HandFacet.LEAD, checked(at, value, this::yes));
      case "join" -> join(at, node, checked(at, value, this::joined));
      case "recorded" -> recorded(at, node, value);
      case "term" -> registered(at, node, "term", HandFacet.TERM, value, this::term);
      case "rule" -> registered(at, node, "rule", HandFacet.RULE, value, this::rule);
      case "notice" -> registered(at, node, "notice", HandFacet.NOTICE, value, this::notice);
      case "followed" ->
          registered(at, node, "followed", HandFacet.FOLLOWED, value, this::followed);
      case "dismissed" ->
          registered(at, node, "dismissed", HandFacet.DISMISSED, value, this::dismissed);
      case "label" -> registered(at, node, set, HandFacet.LABEL, value, labels::label);
      case "label-rule" -> registered(at, node, set, HandFacet.LABEL_RULE, value, labels::rule);
      case "label-stop" -> registered(at, node, set, HandFacet.LABEL_STOP, value, labels::stop);
      case "label-policy" ->
          registered(at, node, set, HandFacet.LABEL_POLICY, value, labels::policy);
      case "label-mask" -> registered(at, node, set, HandFacet.LABEL_MASK, value, labels::mask);
      case "leak-accepted" -> registered(at, node, set, HandFacet.LEAK, value, labels::accepted);
      default -> {
        fault(at + "/set", "'" + set + "' is not one of " + String.join(", ", SETS));
        yield null;
      }
    };
  }

  private JsonNode checked(String at, JsonNode value, BiConsumer<String, JsonNode> check) {
    if (!value.isNull()) {
      check.accept(at + "/value", value);
    }
    return value;
  }

  // ------------------------------------------------------------------ what it is about

  private @Nullable Change ofAsset(String at, JsonNode node, String key, JsonNode value) {
    Reference of = reference(at + "/of", node.path("of"));
    if (of instanceof Reference.OfJob job) {
      return new Change(new FacetFact.OfJob(job.job()), key, value, List.of());
    }
    if (of instanceof Reference.OfDataset dataset) {
      String column = dataset.column() == null ? "" : dataset.column();
      if (column.equals(ColumnName.ROWS) || (key.equals(HandFacet.LINKS) && !column.isEmpty())) {
        fault(at + "/of", "this can be set of an asset" + (column.isEmpty() ? "" : ", not here"));
        return null;
      }
      if (key.equals(HandFacet.OWNERS) && !column.isEmpty()) {
        fault(at + "/of", "columns have no owners of their own; name the asset");
        return null;
      }
      return new Change(
          new FacetFact.OfDataset(dataset.dataset()),
          HandFacet.ofColumn(key, column),
          value,
          List.of(dataset.dataset()));
    }
    return null;
  }

  private @Nullable Change ofDataset(String at, JsonNode node, String key, JsonNode value) {
    DatasetName of = dataset(at + "/of", node.path("of"));
    return of == null ? null : new Change(new FacetFact.OfDataset(of), key, value, List.of(of));
  }

  private @Nullable Change join(String at, JsonNode node, JsonNode value) {
    DatasetName of = dataset(at + "/of", node.path("of"));
    DatasetName with = dataset(at + "/with", node.path("with"));
    if (of == null || with == null) {
      return null;
    }
    if (of.equals(with)) {
      fault(at + "/with", "this is the same name; give another one");
      return null;
    }
    return new Change(
        new FacetFact.OfDataset(of), HandFacet.JOIN + with.reference(), value, List.of(of, with));
  }

  private @Nullable Change registered(
      String at,
      JsonNode node,
      String kind,
      String key,
      JsonNode value,
      BiConsumer<String, JsonNode> check) {
    String id = text(at + "/id", node.path("id"), 1_500);
    checked(at, value, check);
    if (id.isEmpty()) {
      return null;
    }
    var name = new DatasetName(HandFacet.REGISTER, kind + "/" + id);
    return new Change(new FacetFact.OfDataset(name), key, value, List.of(name));
  }

  private @Nullable Change recorded(String at, JsonNode node, JsonNode value) {
    String id = text(at + "/id", node.path("id"), MAX_ID);
    Reference of = reference(at + "/of", node.path("of"));
    if (of == null || id.isEmpty()) {
      return null;
    }
    int before = faults.size();
    var named = new LinkedHashSet<DatasetName>();
    boolean job = of instanceof Reference.OfJob;
    if (!job) {
      DatasetName owner = dataset(at + "/of", node.path("of"));
      if (owner != null) {
        named.add(owner);
      }
    }
    if (!value.isObject()) {
      fault(at + "/value", "give what is recorded; to end it, add withdrawn with a time");
    } else {
      record(at + "/value", value, job, named);
    }
    if (faults.size() > before) {
      return null;
    }
    FacetFact.Subject subject =
        of instanceof Reference.OfJob ofJob
            ? new FacetFact.OfJob(ofJob.job())
            : new FacetFact.OfDataset(named.iterator().next());
    return new Change(subject, HandFacet.RECORDED + id, value, List.copyOf(named));
  }

  private void record(String at, JsonNode value, boolean job, Set<DatasetName> named) {
    only(at, value, List.of("reads", "writes", "columns", "since", "until", "withdrawn", "title"));
    time(at + "/since", value.path("since"));
    for (String end : List.of("until", "withdrawn")) {
      if (value.has(end)) {
        time(at + "/" + end, value.path(end));
      }
    }
    names(at + "/reads", value.path("reads"), named);
    names(at + "/writes", value.path("writes"), named);
    if (!job && !value.path("writes").isEmpty()) {
      fault(at + "/writes", "what is recorded of a dataset says what it is made from; leave this");
    }
    for (int i = 0; i < value.path("columns").size(); i++) {
      String here = at + "/columns/" + i;
      JsonNode link = value.path("columns").get(i);
      for (String end : List.of("from", "to")) {
        try {
          ColumnName column = ColumnName.parse(link.path(end).stringValue(""));
          named.add(column.dataset());
        } catch (BadNameException e) {
          fault(here + "/" + end, e.getMessage() + "; give namespace/name#column");
        }
      }
      flow(here + "/flow", link.path("flow").stringValue(""), link);
    }
    if (value.path("reads").isEmpty()
        && value.path("writes").isEmpty()
        && value.path("columns").isEmpty()) {
      fault(at, "this records nothing; give reads, writes or columns");
    }
  }

  private void flow(String at, String flow, JsonNode link) {
    String to = link.path("to").stringValue("");
    if (!FLOWS.contains(flow)) {
      fault(at, "'" + flow + "' is not one of " + String.join(", ", FLOWS));
    } else if (List.of("join", "filter", "group-by", "sort").contains(flow)
        && !to.endsWith("#" + ColumnName.ROWS)) {
      fault(at, "what joins, filters, groups or sorts decides the rows: give the target #*");
    }
  }

  private void names(String at, JsonNode list, Set<DatasetName> named) {
    if (!list.isMissingNode() && (!list.isArray() || list.size() > MAX_LIST)) {
      fault(at, "give a list of at most " + MAX_LIST + " references");
      return;
    }
    for (int i = 0; i < list.size(); i++) {
      DatasetName name = dataset(at + "/" + i, list.get(i));
      if (name != null) {
        named.add(name);
      }
    }
  }

  @Nullable Reference reference(String at, JsonNode node) {
    String text = node.stringValue("");
    try {
      Reference reference = Reference.parse(text);
      if (reference instanceof Reference.OfDataset of && HandFacet.isRegister(of.dataset())) {
        fault(at, "'" + text + "' is no asset");
        return null;
      }
      if (text.getBytes(StandardCharsets.UTF_8).length > 2_000) {
        fault(at, "the reference is too long");
        return null;
      }
      if (reference instanceof Reference.OfDataset || reference instanceof Reference.OfJob) {
        return reference;
      }
      fault(at, "'" + text + "' is no dataset, column or job");
    } catch (BadNameException e) {
      fault(at, e.getMessage() + "; give the whole reference");
    }
    return null;
  }

  private @Nullable DatasetName dataset(String at, JsonNode node) {
    Reference reference = reference(at, node);
    if (reference instanceof Reference.OfDataset of && of.column() == null) {
      return of.dataset();
    }
    if (reference != null) {
      fault(at, "'" + reference.text() + "' is no dataset");
    }
    return null;
  }

  // ------------------------------------------------------------------ values

  private void description(String at, JsonNode value) {
    text(at, value, MAX_TEXT);
  }

  void texts(String at, JsonNode value) {
    if (!value.isArray() || value.size() > MAX_LIST) {
      fault(at, "give a list of texts, at most " + MAX_LIST);
      return;
    }
    for (int i = 0; i < value.size(); i++) {
      text(at + "/" + i, value.get(i), MAX_ID * 5);
    }
  }

  private void links(String at, JsonNode value) {
    if (!value.isArray() || value.size() > MAX_LIST) {
      fault(at, "give a list of links, each with title and url");
      return;
    }
    for (int i = 0; i < value.size(); i++) {
      JsonNode link = value.get(i);
      text(at + "/" + i + "/title", link.path("title"), MAX_ID);
      if (!Card.isWebAddress(link.path("url").stringValue(""))) {
        fault(
            at + "/" + i + "/url", "give an absolute address that begins with http:// or https://");
      }
      only(at + "/" + i, link, List.of("title", "url"));
    }
  }

  private void yes(String at, JsonNode value) {
    if (!value.booleanValue(false)) {
      fault(at, "give true, or null to take it away");
    }
  }

  private void joined(String at, JsonNode value) {
    String word = value.stringValue("");
    if (!word.equals("one") && !word.equals("apart")) {
      fault(at, "'" + word + "' is not one of one, apart");
    }
  }

  private void term(String at, JsonNode value) {
    only(at, value, List.of("name", "definition", "parent", "owners", "synonyms"));
    text(at + "/name", value.path("name"), MAX_ID);
    if (value.has("definition")) {
      text(at + "/definition", value.path("definition"), MAX_TEXT);
    }
    if (value.has("parent")) {
      text(at + "/parent", value.path("parent"), MAX_ID);
    }
    for (String list : List.of("owners", "synonyms")) {
      if (value.has(list)) {
        texts(at + "/" + list, value.path(list));
      }
    }
  }

  private void rule(String at, JsonNode value) {
    only(at, value, List.of("rule", "note"));
    try {
      FoldingRules.of(List.of(text(at + "/rule", value.path("rule"), MAX_TEXT)), List.of());
    } catch (IllegalArgumentException e) {
      fault(at + "/rule", String.valueOf(e.getMessage()));
    }
  }

  private void notice(String at, JsonNode value) {
    only(
        at,
        value,
        List.of("on", "level", "text", "from", "until", "ticket", "author", "lifted", "lifter"));
    reference(at + "/on", value.path("on"));
    String level = value.path("level").stringValue("");
    if (!LEVELS.contains(level)) {
      fault(at + "/level", "'" + level + "' is not one of " + String.join(", ", LEVELS));
    }
    text(at + "/text", value.path("text"), MAX_NOTICE);
    for (String moment : List.of("from", "until", "lifted")) {
      if (value.has(moment)) {
        time(at + "/" + moment, value.path(moment));
      }
    }
    if (value.has("ticket") && !Card.isWebAddress(value.path("ticket").stringValue(""))) {
      fault(at + "/ticket", "give an absolute address that begins with http:// or https://");
    }
    for (String person : List.of("author", "lifter")) {
      if (value.has(person)) {
        text(at + "/" + person, value.path(person), MAX_ID);
      }
    }
  }

  private void followed(String at, JsonNode value) {
    only(at, value, List.of("from", "to", "hops", "note"));
    reference(at + "/from", value.path("from"));
    reference(at + "/to", value.path("to"));
    if (!value.path("hops").isArray() || value.path("hops").size() > MAX_LIST) {
      fault(at + "/hops", "give the links of the thread, at most " + MAX_LIST);
    }
    for (int i = 0; i < value.path("hops").size(); i++) {
      text(at + "/hops/" + i, value.path("hops").get(i), MAX_TEXT);
    }
    if (value.has("note")) {
      text(at + "/note", value.path("note"), MAX_NOTICE);
    }
  }

  private void dismissed(String at, JsonNode value) {
    only(at, value, List.of("until", "what"));
    if (value.has("until")) {
      time(at + "/until", value.path("until"));
    }
  }

  void only(String at, JsonNode value, List<String> members) {
    if (!(value instanceof ObjectNode object)) {
      fault(at, "give an object with " + String.join(", ", members));
      return;
    }
    for (var member : object.properties()) {
      if (!members.contains(member.getKey())) {
        fault(
            at + "/" + member.getKey(),
            "there is no such member; there are " + String.join(", ", members));
      }
    }
  }

  String text(String at, JsonNode node, int longest) {
    String text = node.stringValue("");
    if (text.isBlank() || text.length() > longest) {
      fault(at, "give a text of 1 to " + longest + " characters");
    }
    return text.strip();
  }

  Instant time(String at, JsonNode node) {
    try {
      return OffsetDateTime.parse(node.stringValue("")).toInstant();
    } catch (DateTimeException e) {
      fault(at, "'" + node.stringValue("") + "' is no time with an offset");
      return Instant.EPOCH;
    }
  }

  void fault(String pointer, String detail) {
    faults.add(new Fault(pointer, detail));
  }
}
