package longthread.bench;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.TreeMap;
import java.util.TreeSet;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * Reads with odd parameters, encodings and values: of every path that the service publishes and of
 * some that it has not.
 */
final class DamagedReads {
  private static final int READS = 10_000;
  private static final List<String> STRANGE_PATHS =
      List.of(
          "/api/v1/nothing",
          "/api/v1/../../health",
          "/api/v1/%2e%2e/health",
          "/api/v1/search/",
          "/api/v1/search//",
          "/api/v1/;a=b");
  private static final List<String> VALUES =
      List.of(
          "",
          "-1",
          "0",
          "1e99",
          "99999999999999999999",
          "%00",
          "%",
          "%zz",
          "%c3",
          "%ff%fe",
          "a%2500",
          "mart.payout_statement",
          "@x/y",
          "run:1",
          "system:",
          "*",
          "#",
          "%23",
          "a%23",
          "\u00e9",
          "%F0%9F%A7%80",
          "null",
          "true",
          "[]",
          "{}",
          "a/b/c#d.e",
          "2026-13-40",
          "0000-00-00T00:00:00Z",
          "-999999999-01-01T00:00:00Z",
          "rename",
          "columns",
          "steps",
          "9223372036854775807",
          "-9223372036854775808",
          "1.1",
          "a.b",
          "a.-1",
          "x".repeat(3_000),
          "%2e%2e%2f",
          "'",
          "\"",
          "<script>",
          "()*+",
          "((a)*)*!",
          "\\",
          "%0d%0aX-A:b");

  private final Calls calls;

  DamagedReads(Calls calls) {
    this.calls = calls;
  }

  void run() throws IOException, InterruptedException {
    var paths = new ArrayList<String>(STRANGE_PATHS);
    var names = new TreeSet<String>();
    JsonNode published = JsonMapper.shared().readTree(calls.text("/api/v1/openapi.json"));
    for (var path : published.path("paths").properties()) {
      paths.add(path.getKey().replaceAll("\\{[^}]*}", "1"));
      for (JsonNode parameter : path.getValue().path("get").path("parameters")) {
        names.add(parameter.path("name").stringValue(""));
      }
    }
    reads(paths, List.copyOf(names));
  }

  private void reads(List<String> paths, List<String> names) {
    var random = new Random(11);
    var statuses = new TreeMap<Integer, Integer>();
    var faults = new ArrayList<String>();
    for (int i = 0; i < READS; i++) {
      var target = new StringBuilder(paths.get(random.nextInt(paths.size())));
      for (int n = random.nextInt(4), k = 0; k < n; k++) {
        target
            .append(k == 0 ? '?' : '&')
            .append(names.get(random.nextInt(names.size())))
            .append('=')
            .append(VALUES.get(random.nextInt(VALUES.size())));
      }
      if (random.nextInt(5) == 0) {
        target.insert(random.nextInt(target.length()), (char) (33 + random.nextInt(94)));
      }
      int status = calls.raw(target.toString(), random.nextInt(20) == 0 ? "" : calls.token());
      statuses.merge(status, 1, Integer::sum);
      if (status == 0 || status >= 500) {
        faults.add(status + " " + target);
      }
    }
    System.out.printf(
        "%d damaged reads: %s, of these 5xx or none: %d%n", READS, statuses, faults.size());
    faults.stream().limit(20).forEach(System.out::println);
  }
}
