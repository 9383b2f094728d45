package longthread.service.stewardship;

import de.siegmar.fastcsv.reader.CsvParseException;
import de.siegmar.fastcsv.reader.CsvReader;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.core.json.CanonicalJson;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.Glossary;
import longthread.service.live.References;
import longthread.service.statements.Statements;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * Owners, descriptions, tags and terms of many assets as a sheet, and the changed sheet back in.
 *
 * <p>A row carries a stamp of what stood when it was written out. Where something else stands when
 * it comes back, the row is a conflict and nothing of it is changed.
 */
@Service
public class Edits {
  /**
   * The columns of a sheet of assets; {@code name}, {@code kind}, {@code system} are for reading.
   */
  static final List<String> HEADING =
      List.of(
          "ref",
          "column",
          "name",
          "kind",
          "system",
          "description",
          "owners",
          "tags",
          "terms",
          "stamp");

  private static final List<String> LISTS = List.of("owners", "tags", "terms");
  private static final String SEPARATOR = "; ";
  private static final int STAMP = 10;
  private static final int MAX_ROWS = 50_000;

  /**
   * An asset or a column as a row.
   *
   * @param column empty for the asset itself
   * @param stamp of what stood when the row was written
   */
  public record EditRow(
      String ref,
      String column,
      String name,
      String kind,
      String system,
      String description,
      List<String> owners,
      List<String> tags,
      List<String> terms,
      String stamp) {
    List<String> cells() {
      return List.of(
          ref,
          column,
          name,
          kind,
          system,
          description,
          String.join(SEPARATOR, owners),
          String.join(SEPARATOR, tags),
          String.join(SEPARATOR, terms),
          stamp);
    }
  }

  /** Which assets are written out; null or empty for any. */
  record EditFilter(
      @Nullable String system,
      @Nullable String kind,
      @Nullable String owner,
      @Nullable String label,
      @Nullable String under) {
    boolean passes(Asset asset) {
      return !asset.card().retired()
          && (blank(system) || asset.system().equals(system))
          && (blank(kind) || asset.kind().word().equals(kind))
          && (blank(owner) || asset.ownerNames().contains(owner))
          && (blank(label) || asset.labels().contains(label))
          && (blank(under) || asset.ref().startsWith(under) || asset.shown().startsWith(under));
    }

    private static boolean blank(@Nullable String text) {
      return text == null || text.isBlank();
    }
  }

  private final Catalog catalog;
  private final Glossary glossary;
  private final References references;
  private final Statements statements;

  Edits(Catalog catalog, Glossary glossary, References references, Statements statements) {
    this.catalog = catalog;
    this.glossary = glossary;
    this.references = references;
    this.statements = statements;
  }

  /** The rows of assets, by reference, and of their columns if these are wanted. */
  List<EditRow> rows(EditFilter filter, boolean columns) {
    return catalog.all().stream()
        .filter(filter::passes)
        .sorted((a, b) -> a.ref().compareTo(b.ref()))
        .flatMap(asset -> rows(asset, columns).stream())
        .toList();
  }

  private List<EditRow> rows(Asset asset, boolean columns) {
    var rows = new ArrayList<EditRow>(List.of(row(asset, "")));
    if (columns) {
      asset.card().columns().forEach(column -> rows.add(row(asset, column.path())));
    }
    return rows;
  }

  /** The row of an asset, or of one of its columns, as it stands. */
  private EditRow row(Asset asset, String path) {
    Card card = asset.card();
    Card.Column column =
        card.columns().stream().filter(c -> c.path().equals(path)).findFirst().orElse(null);
    String description = column == null ? card.description() : column.description();
    List<String> owners =
        column == null ? card.owners().stream().map(Edits::owner).toList() : List.of();
    List<Card.Tag> tags = column == null ? card.tags() : column.tags();
    List<String> ids = column == null ? card.terms() : column.terms();
    var row =
        new EditRow(
            asset.ref(),
            path,
            asset.shown(),
            asset.kind().word(),
            asset.system(),
            description == null ? "" : description,
            owners,
            tags.stream().map(Card.Tag::word).distinct().toList(),
            glossary.named(ids).stream().map(Glossary.Term::name).toList(),
            "");
    return stamped(row);
  }

  /** As it reads back to the same owner. */
  private static String owner(longthread.core.asset.Owner owner) {
    String address =
        owner.address() == null || owner.address().equals(owner.name())
            ? ""
            : " <" + owner.address() + ">";
    return (owner.what().equals("team") ? "team:" : "") + owner.name() + address;
  }

  private static EditRow stamped(EditRow row) {
    String text =
        String.join(
            "\n",
            row.description(),
            "" + new TreeSet<>(row.owners()),
            "" + new TreeSet<>(row.tags()),
            "" + new TreeSet<>(row.terms()));
    return new EditRow(
        row.ref(),
        row.column(),
        row.name(),
        row.kind(),
        row.system(),
        row.description(),
        row.owners(),
        row.tags(),
        row.terms(),
        CanonicalJson.digest(text).substring(0, STAMP));
  }

  // ------------------------------------------------------------------ back in

  /**
   * Applies a changed sheet, in one statement.
   *
   * @param body CSV with a heading, or JSON: a list of rows, or an object with {@code items}
   * @throws ProblemException with the faults of all rows; then nothing is changed
   */
  Statements.Stated apply(String by, String reason, byte[] body, boolean dryRun) {
    List<Map<String, String>> rows = read(body);
    if (rows.size() > MAX_ROWS) {
      throw ProblemException.badRequest(
          "too-many-rows", "the sheet has " + rows.size() + " rows; send at most " + MAX_ROWS);
    }
    Set<String> heading = rows.isEmpty() ? Set.of() : rows.get(0).keySet();
    if (heading.contains("definition")) {
      return statements.state(by, reason, GlossarySheet.changes(rows), dryRun);
    }
    if (heading.contains("reads")) {
      return statements.state(by, reason, RecordedSheet.changes(rows), dryRun);
    }
    return applyAssets(by, reason, rows, dryRun);
  }

  private Statements.Stated applyAssets(
      String by, String reason, List<Map<String, String>> rows, boolean dryRun) {
    ArrayNode changes = CanonicalJson.MAPPER.createArrayNode();
    var conflicts = new ArrayList<Statements.Conflict>();
    var faults = new ArrayList<String>();
    for (int i = 0; i < rows.size(); i++) {
      try {
        addChanges(rows.get(i), changes, conflicts, faults, "row " + (i + 2));
      } catch (ProblemException e) {
        faults.add("row " + (i + 2) + ": " + e.getMessage());
      }
    }
    if (!faults.isEmpty()) {
      throw ProblemException.badRequest(
              "bad-sheet",
              "nothing was changed: "
                  + faults.get(0)
                  + (faults.size() > 1 ? " (and " + (faults.size() - 1) + " more)" : ""))
          .with("faults", faults.stream().limit(100).toList());
    }
    Statements.Stated stated =
        changes.isEmpty()
            ? new Statements.Stated(null, null, dryRun, List.of(), List.of(), List.of())
            : statements.state(by, reason, changes, dryRun);
    conflicts.addAll(stated.conflicts());
    return new Statements.Stated(
        stated.id(), stated.receipt(), dryRun, stated.changes(), conflicts, stated.newNames());
  }

  private void addChanges(
      Map<String, String> cells,
      ArrayNode changes,
      List<Statements.Conflict> conflicts,
      List<String> faults,
      String where) {
    String ref = cells.getOrDefault("ref", "").strip();
    String path = cells.getOrDefault("column", "").strip();
    References.Named named = references.resolve(path.isEmpty() ? ref : ref + "#" + path);
    EditRow now = row(named.asset(), named.column() == null ? "" : named.column());
    String of = named.ref();
    var wanted = new ArrayList<ObjectNode>();
    String description = cells.get("description");
    if (description != null && !description.strip().equals(now.description().strip())) {
      wanted.add(change("description", of, description.strip()));
    }
    for (String list : LISTS) {
      String cell = cells.get(list);
      if (cell != null && !(list.equals("owners") && named.column() != null)) {
        List<String> standing = list(now, list);
        List<String> values = split(cell);
        if (!new TreeSet<>(values).equals(new TreeSet<>(standing))) {
          wanted.add(change(list, of, list.equals("tags") ? byHand(named, values) : values));
        }
      }
    }
    String stamp = cells.getOrDefault("stamp", "").strip();
    if (!wanted.isEmpty() && !stamp.isEmpty() && !stamp.equals(now.stamp())) {
      for (ObjectNode change : wanted) {
        String what = change.path("set").stringValue("");
        conflicts.add(new Statements.Conflict(of, what, null, shown(now, what), null, null));
      }
      return;
    }
    for (ObjectNode change : wanted) {
      String foreign = cannotBeTaken(named, change);
      if (foreign != null) {
        faults.add(where + ": " + foreign);
      }
      changes.add(change);
    }
  }

  private static Object shown(EditRow row, String what) {
    return what.equals("description") ? row.description() : list(row, what);
  }

  private static List<String> list(EditRow row, String list) {
    return switch (list) {
      case "owners" -> row.owners();
      case "tags" -> row.tags();
      default -> row.terms();
    };
  }

  /** Of the tags of a cell those that people set: the others stay where they come from. */
  private List<String> byHand(References.Named named, List<String> values) {
    var others = new LinkedHashSet<String>();
    tags(named).stream()
        .filter(tag -> !"by hand".equals(tag.source()))
        .forEach(tag -> others.add(tag.word()));
    return values.stream().filter(value -> !others.contains(value)).toList();
  }

  private static List<Card.Tag> tags(References.Named named) {
    Card card = named.asset().card();
    return named.column() == null
        ? card.tags()
        : card.columns().stream()
            .filter(column -> column.path().equals(named.column()))
            .findFirst()
            .map(Card.Column::tags)
            .orElse(List.of());
  }

  /** Why a value cannot be emptied here: it was not set by hand. */
  private @Nullable String cannotBeTaken(References.Named named, ObjectNode change) {
    String what = change.path("set").stringValue("");
    if (!change.path("value").isNull() || what.equals("terms")) {
      return null;
    }
    String column = named.column() == null ? "" : named.column();
    boolean isByHand =
        what.equals("tags")
            ? tags(named).stream().anyMatch(tag -> "by hand".equals(tag.source()))
            : named.asset().card().values().stream()
                .anyMatch(
                    v ->
                        v.what().equals(what)
                            && v.column().equals(column)
                            && v.source() == Card.Source.HAND);
    return isByHand
        ? null
        : "the "
            + what
            + " of "
            + named.ref()
            + " comes from its source and cannot be emptied here; write what is to stand instead";
  }

  private static ObjectNode change(String set, String of, Object value) {
    ObjectNode change = CanonicalJson.MAPPER.createObjectNode();
    change.put("set", set).put("of", of);
    boolean empty = value instanceof List<?> list ? list.isEmpty() : value.toString().isEmpty();
    if (empty) {
      change.putNull("value");
    } else {
      change.set("value", CanonicalJson.MAPPER.valueToTree(value));
    }
    return change;
  }

  static List<String> split(String cell) {
    var values = new ArrayList<String>();
    for (String value : cell.split("[;\\n]")) {
      if (!value.isBlank()) {
        values.add(value.strip());
      }
    }
    return values;
  }

  /** The rows of a sheet, each by its heading; lists in one cell are parted by semicolons. */
  static List<Map<String, String>> read(byte[] body) {
    String text = new String(body, StandardCharsets.UTF_8);
    if (text.startsWith("\uFEFF")) {
      text = text.substring(1);
    }
    String start = text.stripLeading();
    return start.startsWith("[") || start.startsWith("{") ? readJson(start) : readCsv(text);
  }

  private static List<Map<String, String>> readJson(String text) {
    JsonNode root;
    try {
      root = CanonicalJson.MAPPER.readTree(text);
    } catch (JacksonException e) {
      throw ProblemException.badRequest(
          "not-json", "the sheet is no JSON: " + e.getOriginalMessage());
    }
    var rows = new ArrayList<Map<String, String>>();
    for (JsonNode item : root.isArray() ? root : root.path("items")) {
      var row = new LinkedHashMap<String, String>();
      for (var member : item.properties()) {
        JsonNode value = member.getValue();
        if (value.isArray()) {
          var words = new ArrayList<String>();
          value.forEach(word -> words.add(word.asString("")));
          row.put(member.getKey(), String.join(SEPARATOR, words));
        } else {
          row.put(member.getKey(), value.isNull() ? "" : value.asString(""));
        }
      }
      rows.add(row);
    }
    return rows;
  }

  private static List<Map<String, String>> readCsv(String text) {
    var rows = new ArrayList<Map<String, String>>();
    try (var reader = CsvReader.builder().ofNamedCsvRecord(text)) {
      reader.forEach(
          record -> {
            var row = new LinkedHashMap<String, String>();
            record.getFieldsAsMap().forEach((name, cell) -> row.put(name.strip(), harmless(cell)));
            rows.add(row);
          });
    } catch (CsvParseException e) {
      throw ProblemException.badRequest("not-csv", "the sheet cannot be read: " + e.getMessage());
    } catch (java.io.IOException e) {
      throw new java.io.UncheckedIOException("text in memory", e);
    }
    return rows;
  }

  /** A cell without the mark that keeps a spreadsheet from reading it as a formula. */
  private static String harmless(String cell) {
    return cell.length() > 1 && cell.charAt(0) == '\'' && "=+-@".indexOf(cell.charAt(1)) >= 0
        ? cell.substring(1)
        : cell;
  }
}
