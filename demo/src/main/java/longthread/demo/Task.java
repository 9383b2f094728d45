package longthread.demo;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A task of a pipeline: its program text, and above it in comment lines what an orchestrator's own
 * definition would hold.
 *
 * @param name {@code pipeline.task}
 * @param does what sort of work it is: unload, fetch, load, sql or check
 * @param map each output column with its sources, as {@code dataset#column FLOW [masked]}, reported
 *     to the catalog only of tasks that are not SQL, for the others it is what must be read out of
 *     it
 * @param parts of datasets that are touched by days, which part: {@code day}, {@code days} from the
 *     beginning of the period on, or {@code period}; {@code replaced} for one that is written anew
 */
record Task(
    String name,
    String does,
    LocalTime at,
    String about,
    @Nullable String owner,
    @Nullable String after,
    List<String> reads,
    List<String> writes,
    Map<String, List<Source>> map,
    List<Source> rows,
    List<String> checks,
    @Nullable String guard,
    Map<String, String> parts,
    String text) {
  static final List<String> ALL =
      List.of(
          "collect_nightly.land_pickup",
          "collect_nightly.land_farm",
          "collect_nightly.load_pickup",
          "collect_nightly.load_farm",
          "collect_nightly.build_pickup",
          "collect_nightly.build_farm",
          "collect_nightly.cost_routes",
          "collect_nightly.cost_hired",
          "lab_intake.land_readings",
          "lab_intake.load_readings",
          "lab_intake.build_lab_reading",
          "payout_tenday.build_payout",
          "quality_daily.check_readings",
          "quality_daily.build_milk_quality");

  private static final List<String> CHANGED = List.of("lab_intake.build_lab_reading");

  /** Where a value or a row comes from, and how. */
  record Source(String dataset, String column, String flow, boolean masked) {
    static Source parse(String text) {
      String[] words = text.strip().split("\\s+");
      int hash = words[0].indexOf('#');
      return new Source(
          words[0].substring(0, hash),
          words[0].substring(hash + 1),
          words[1],
          words.length > 2 && words[2].equals("masked"));
    }

    static List<Source> list(String text) {
      var sources = new ArrayList<Source>();
      for (String part : text.split(",")) {
        if (!part.isBlank()) {
          sources.add(parse(part));
        }
      }
      return sources;
    }
  }

  String pipeline() {
    return name.substring(0, name.indexOf('.'));
  }

  static List<Task> all() {
    return ALL.stream().map(name -> parse(name, resource("tasks/" + name + ".sql"))).toList();
  }

  /** The tasks with the code that some of them had until a few nights ago. */
  static List<Task> before() {
    return ALL.stream()
        .map(
            name ->
                parse(
                    name,
                    resource((CHANGED.contains(name) ? "before/" : "tasks/") + name + ".sql")))
        .toList();
  }

  /** Whether its work is SQL that can be read, so that it reports nothing more of its columns. */
  boolean isSql() {
    return !does.equals("fetch");
  }

  /** The same task writing another dataset. */
  Task writing(String dataset) {
    var same = new LinkedHashMap<>(parts);
    same.put(dataset, parts.getOrDefault(writes.get(0), ""));
    return new Task(
        name,
        does,
        at,
        about,
        owner,
        after,
        reads,
        List.of(dataset),
        map,
        rows,
        checks,
        guard,
        same,
        text);
  }

  static String resource(String path) {
    try (InputStream in = Task.class.getResourceAsStream("/world/" + path)) {
      if (in == null) {
        throw new IllegalStateException("the demo world lacks its file " + path);
      }
      return new String(in.readAllBytes(), StandardCharsets.UTF_8);
    } catch (IOException e) {
      throw new IllegalStateException("the demo world's file " + path + " cannot be read", e);
    }
  }

  static Task parse(String name, String file) {
    var header = new LinkedHashMap<String, String>();
    var map = new LinkedHashMap<String, List<Source>>();
    var checks = new ArrayList<String>();
    var parts = new LinkedHashMap<String, String>();
    var text = new StringBuilder();
    for (String line : file.split("\n")) {
      if (!line.startsWith("-- ")) {
        text.append(line).append('\n');
        continue;
      }
      int colon = line.indexOf(':');
      String key = line.substring(3, colon);
      String value = line.substring(colon + 1).strip();
      switch (key) {
        case "map" -> {
          int equals = value.indexOf('=');
          map.put(value.substring(0, equals).strip(), Source.list(value.substring(equals + 1)));
        }
        case "check" -> checks.add(value);
        case "part" -> {
          String[] words = value.split("\\s+");
          parts.put(words[0], words[1]);
        }
        default -> header.put(key, value);
      }
    }
    return new Task(
        name,
        header.get("does"),
        LocalTime.parse(header.get("at")),
        header.get("about"),
        header.get("owner"),
        header.get("after"),
        words(header.get("reads")),
        words(header.get("writes")),
        map,
        Source.list(header.getOrDefault("rows", "")),
        checks,
        header.get("guard"),
        parts,
        text.toString().strip());
  }

  private static List<String> words(@Nullable String list) {
    return list == null || list.isBlank() ? List.of() : List.of(list.split("\\s*,\\s*"));
  }
}
