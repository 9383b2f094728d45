package longthread.service.catalog;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import longthread.core.event.CanonicalJson;
import longthread.core.event.FacetFact;
import longthread.core.history.Fingerprint;
import longthread.service.web.Pages;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** What changed of an asset and when, the results of its checks over time, and its figures. */
@RestController
class HistoryController {
  private static final int MOST = 2_000;

  /**
   * A change.
   *
   * @param kind schema, life, version, renamed, or the key of the facet that changed
   * @param words what changed, a line each
   */
  record Entry(Instant at, String kind, String part, List<String> words) {}

  record History(String ref, List<Entry> changes, @Nullable String cursor) {}

  /** A check with its results, the newest first. */
  record CheckLine(
      String name,
      @Nullable String column,
      @Nullable String dataset,
      String job,
      String status,
      @Nullable String severity,
      @Nullable String content,
      @Nullable String contentType,
      List<Result> results) {}

  record Result(
      Instant at,
      String status,
      @Nullable String expected,
      @Nullable String actual,
      @Nullable String detail,
      String run) {}

  record Checks(String ref, List<CheckLine> checks) {}

  /**
   * The figures of one moment.
   *
   * @param told by whom: read, written or dataset
   */
  record Figure(
      Instant at,
      String told,
      @Nullable String run,
      @Nullable Long rows,
      @Nullable Long bytes,
      @Nullable Long files,
      Map<String, Object> columns) {}

  record Figures(String ref, List<Figure> figures) {}

  private final References references;
  private final Catalog catalog;
  private final RunReader runs;
  private final JdbcTemplate jdbc;
  private final Pages pages;

  HistoryController(
      References references, Catalog catalog, RunReader runs, JdbcTemplate jdbc, Pages pages) {
    this.references = references;
    this.catalog = catalog;
    this.runs = runs;
    this.jdbc = jdbc;
    this.pages = pages;
  }

  @GetMapping("/api/v1/history")
  History history(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Asset asset = references.resolve(ref).asset();
    int most = Pages.limit(limit);
    Pages.Page<Entry> page =
        cursor != null ? pages.next(cursor, most) : pages.first(entries(asset), most);
    return new History(asset.ref(), page.items(), page.cursor());
  }

  private List<Entry> entries(Asset asset) {
    boolean job = asset.ref().startsWith("@");
    var entries = new ArrayList<Entry>();
    var before = new LinkedHashMap<String, JsonNode>();
    jdbc.query(
        "select s.ref, f.key, f.at_s, f.at_n, b.body from facet f join facet_body b using (digest)"
            + " join "
            + (job ? "job" : "dataset")
            + " s on s.id = f.subject_id where f.subject_kind = ? and s.ref = any(?) and not f.far"
            + " order by f.at_s, f.at_n, f.digest",
        row -> {
          String part = row.getString(1);
          String key = row.getString(2);
          JsonNode value = StoredText.json(row.getBytes(5));
          JsonNode old = before.put(part + "\n" + key, value);
          if (!same(key, value, old) && !FacetFact.tellsNothing(key, value)) {
            Instant at = Instant.ofEpochSecond(row.getLong(3), row.getInt(4));
            entries.add(entry(at, part, key, old, value));
          } else if (old != null) {
            before.put(part + "\n" + key, old);
          }
        },
        job ? 2 : 1,
        asset.parts().toArray(String[]::new));
    if (job) {
      jdbc.query(
          "select v.number, v.first_run, v.changes from job_version v join job j on j.id ="
              + " v.job_id where j.ref = ?",
          row -> {
            var words = new ArrayList<>(List.of((String[]) row.getArray(3).getArray()));
            words.add(0, "version " + row.getInt(1));
            entries.add(new Entry(row.getTimestamp(2).toInstant(), "version", asset.ref(), words));
          },
          asset.ref());
    }
    asset
        .card()
        .formerly()
        .forEach(
            former ->
                entries.add(
                    new Entry(
                        former.until(),
                        "renamed",
                        former.ref(),
                        List.of("was called " + former.ref() + " before"))));
    entries.sort(Comparator.comparing(Entry::at).reversed());
    return entries.size() > MOST ? entries.subList(0, MOST) : entries;
  }

  /** Program text is the same if only its dates, comments or spacing differ. */
  private static boolean same(String key, JsonNode value, @Nullable JsonNode old) {
    String text = key.equals("sql") ? "query" : key.equals("sourceCode") ? "sourceCode" : "";
    if (old != null && value.path(text).isString() && old.path(text).isString()) {
      return Fingerprint.of(value.path(text).stringValue())
          .equals(Fingerprint.of(old.path(text).stringValue()));
    }
    return value.equals(old);
  }

  private static Entry entry(
      Instant at, String part, String key, @Nullable JsonNode old, JsonNode value) {
    if (value.path("_deleted").booleanValue(false)) {
      return new Entry(at, key, part, List.of(key + " was taken away"));
    }
    if (key.equals("schema")) {
      return new Entry(at, "schema", part, schemaWords(old, value));
    }
    if (key.equals("lifecycleStateChange")) {
      String word = value.path("lifecycleStateChange").stringValue("changed");
      String from = value.path("previousIdentifier").path("name").stringValue("");
      return new Entry(
          at, "life", part, List.of(from.isEmpty() ? word : word + ", before " + from));
    }
    return new Entry(at, key, part, List.of(key + (old == null ? " first told" : " changed")));
  }

  private static List<String> schemaWords(@Nullable JsonNode old, JsonNode value) {
    Map<String, String> now = fields(value);
    if (old == null) {
      return List.of("first told, with " + now.size() + " columns");
    }
    Map<String, String> then = fields(old);
    var words = new ArrayList<String>();
    now.forEach(
        (name, type) -> {
          if (!then.containsKey(name)) {
            words.add("column " + name + " is new" + (type.isEmpty() ? "" : ", " + type));
          } else if (!Objects.equals(type, then.get(name))) {
            words.add("column " + name + " is " + type + " now, was " + then.get(name));
          }
        });
    then.keySet().stream()
        .filter(name -> !now.containsKey(name))
        .forEach(name -> words.add("column " + name + " is gone"));
    return words.isEmpty() ? List.of("descriptions or order changed") : words;
  }

  private static Map<String, String> fields(JsonNode schema) {
    var fields = new LinkedHashMap<String, String>();
    fields(schema.path("fields"), "", fields);
    return fields;
  }

  private static void fields(JsonNode list, String before, Map<String, String> fields) {
    for (JsonNode field : list) {
      String name = before + field.path("name").stringValue("");
      fields.put(name, field.path("type").stringValue(""));
      fields(field.path("fields"), name + ".", fields);
    }
  }

  @GetMapping("/api/v1/checks")
  Checks checks(@RequestParam String ref) {
    Asset asset = references.resolve(ref).asset();
    boolean job = asset.ref().startsWith("@");
    var lines = new LinkedHashMap<String, List<RunReader.CheckRow>>();
    for (RunReader.CheckRow row :
        job ? runs.checksOf(asset.ref(), MOST) : runs.checks(asset.parts(), null, MOST)) {
      lines
          .computeIfAbsent(
              row.name() + "\n" + row.column() + "\n" + row.dataset(), k -> new ArrayList<>())
          .add(row);
    }
    return new Checks(
        asset.ref(),
        lines.values().stream()
            .map(
                rows -> {
                  RunReader.CheckRow newest = rows.get(0);
                  return new CheckLine(
                      newest.name(),
                      newest.column(),
                      newest.dataset() == null ? null : catalog.leadOf(newest.dataset()),
                      newest.job(),
                      newest.status(),
                      newest.severity(),
                      newest.content(),
                      newest.contentType(),
                      rows.stream()
                          .map(
                              r ->
                                  new Result(
                                      r.at(),
                                      r.status(),
                                      r.expected(),
                                      r.actual(),
                                      r.detail(),
                                      r.run()))
                          .toList());
                })
            .toList());
  }

  /** The amounts and measures that runs and describers told of a dataset, newest first. */
  @GetMapping("/api/v1/figures")
  Figures figures(@RequestParam String ref) {
    Asset asset = references.resolve(ref).asset();
    String[] parts = asset.parts().toArray(String[]::new);
    var figures = new ArrayList<Figure>();
    jdbc.query(
        "select f.role, f.run_id, f.at_s, f.at_n, b.body from run_facet f join facet_body b"
            + " using (digest) join dataset d on d.id = f.dataset_id where d.ref = any(?)"
            + " and f.key in ('inputStatistics', 'outputStatistics', 'dataQualityMetrics')"
            + " and not f.far order by f.at_s desc, f.at_n desc limit 500",
        row -> {
          figures.add(
              figure(
                  Instant.ofEpochSecond(row.getLong(3), row.getInt(4)),
                  row.getInt(1) == 1 ? "read" : "written",
                  "run:" + row.getString(2),
                  StoredText.json(row.getBytes(5))));
        },
        (Object) parts);
    jdbc.query(
        "select f.at_s, f.at_n, b.body from facet f join facet_body b using (digest)"
            + " join dataset d on d.id = f.subject_id where f.subject_kind = 1"
            + " and f.key = 'dataQualityMetrics' and not f.far and d.ref = any(?)"
            + " order by f.at_s desc, f.at_n desc limit 500",
        row -> {
          figures.add(
              figure(
                  Instant.ofEpochSecond(row.getLong(1), row.getInt(2)),
                  "dataset",
                  null,
                  StoredText.json(row.getBytes(3))));
        },
        (Object) parts);
    figures.sort(Comparator.comparing(Figure::at).reversed());
    return new Figures(asset.ref(), figures);
  }

  private static Figure figure(Instant at, String told, @Nullable String run, JsonNode value) {
    var columns = new LinkedHashMap<String, Object>();
    value
        .path("columnMetrics")
        .properties()
        .forEach(column -> columns.put(column.getKey(), column.getValue()));
    JsonNode bytes = value.has("size") ? value.path("size") : value.path("bytes");
    return new Figure(
        at,
        told,
        run,
        CanonicalJson.whole(value.path("rowCount")),
        CanonicalJson.whole(bytes),
        CanonicalJson.whole(value.path("fileCount")),
        columns);
  }
}
