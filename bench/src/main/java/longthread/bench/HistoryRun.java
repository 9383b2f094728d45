package longthread.bench;

import java.net.URLEncoder;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.IntStream;

/**
 * Asks an estate what was really behind its tables and pages, what changed, and what changes would
 * do: each beside {@code GET /health} and a graph of two hops, in turns, of one caller.
 */
final class HistoryRun {
  private static final int ROUNDS = 15; // odd, so that one stands in the middle
  private static final long MINUTES_APART = 50; // of 200: a week
  private static final Pattern REFERENCE = Pattern.compile("\"ref\":\"([^\"]+)\",\"kind\":\"");
  private static final Pattern RUN = Pattern.compile("\"ref\":\"(run:[^\"]+)\"");
  private static final Pattern MOMENT =
      Pattern.compile("\"(\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\d[.\\d]*Z)\"");
  private static final Pattern PLAN = Pattern.compile("\"id\":\"([0-9a-f-]{36})\"");

  private final Calls calls;

  HistoryRun(Calls calls) {
    this.calls = calls;
  }

  void run() throws Exception {
    List<String> tables = found("table", REFERENCE);
    List<String> pages = found("dashboard", REFERENCE);
    List<String> runs = matches(RUN, calls.text("/api/v1/runs?limit=200"));
    List<String> moments = matches(MOMENT, calls.text("/api/v1/moments?ref=" + tables.get(0)));
    String moment = moments.get(moments.size() / 2);
    System.out.printf(
        "%d tables, %d dashboards, %d runs, compared with %s%n",
        tables.size(), pages.size(), runs.size(), moment.replace("%3A", ":"));
    ask("health", "/health", List.of(""));
    ask("graph of two hops", "/api/v1/graph?hops=2&ref=%s", tables);
    ask("graph as of any moment", "/api/v1/graph?hops=2&ref=%s", atMoments(tables, "&asOf="));
    ask("run-exact of a table", "/api/v1/graph?exact=run&ref=%s", tables);
    ask("run-exact of a dashboard", "/api/v1/graph?exact=run&ref=%s", pages);
    ask("run-exact of a run", "/api/v1/graph?exact=run&ref=%s", runs);
    ask("recall of a run", "/api/v1/recall?ref=%s", runs);
    ask("proof of a table", "/api/v1/proof?ref=%s", tables);
    ask("proof of a dashboard", "/api/v1/proof?ref=%s", pages);
    String compare = "/api/v1/compare?from=" + moment + "&to=now&";
    ask("compare with any moment", "/api/v1/compare?hops=2&ref=%s", atMoments(tables, "&from="));
    ask("compare two hops of a table", compare + "hops=2&ref=%s", tables);
    ask("compare all around a table", compare + "ref=%s", tables);
    ask("compare everything", compare.substring(0, compare.length() - 1), List.of(""));
    ask("moments", "/api/v1/moments?ref=%s", tables);
    plans(tables);
    ask("snapshot", "/api/v1/snapshot", List.of(""), 3);
  }

  /** Each table with another moment of the days before, so that no graph of then is kept. */
  private static List<String> atMoments(List<String> tables, String parameter) {
    Instant now = Instant.now();
    return IntStream.range(0, tables.size())
        .mapToObj(i -> tables.get(i) + parameter + now.minus(MINUTES_APART * i, ChronoUnit.MINUTES))
        .toList();
  }

  /** A planned change of a table, judged, kept, listed, and compared with what occurred. */
  private void plans(List<String> tables) throws Exception {
    var ids = new ArrayList<String>();
    for (int i = 0; i < 10; i++) {
      String body =
          "{\"format\":\"longthread-change/1\",\"title\":\"bench\",\"steps\":[{\"change\":\"values\","
              + "\"of\":\""
              + java.net.URLDecoder.decode(tables.get(i), StandardCharsets.UTF_8)
              + "\"}]}";
      String plan = posted("/api/v1/planned-changes", body);
      ids.add(first(PLAN, plan));
    }
    ask("planned changes, all", "/api/v1/planned-changes", List.of(""));
    ask("a planned change", "/api/v1/planned-change?id=%s", ids);
    for (String id : ids) {
      posted("/api/v1/planned-changes/state?to=done&id=" + id, "");
    }
    ask("what became of one", "/api/v1/planned-change?id=%s", ids);
  }

  private String posted(String path, String body) throws Exception {
    return calls.send(
        calls
            .to(path)
            .header("Content-Type", "application/json")
            .POST(HttpRequest.BodyPublishers.ofString(body))
            .build(),
        HttpResponse.BodyHandlers.ofString());
  }

  private List<String> found(String kind, Pattern pattern) throws Exception {
    return matches(pattern, calls.text("/api/v1/search?limit=200&kind=" + kind)).stream()
        .filter(ref -> !ref.startsWith("@"))
        .toList();
  }

  private static List<String> matches(Pattern pattern, String text) {
    var found = new ArrayList<String>();
    Matcher matcher = pattern.matcher(text);
    while (matcher.find()) {
      found.add(URLEncoder.encode(matcher.group(1), StandardCharsets.UTF_8));
    }
    return found;
  }

  private static String first(Pattern pattern, String text) {
    Matcher found = pattern.matcher(text);
    if (!found.find()) {
      throw new IllegalStateException(
          "nothing to ask of in " + text.substring(0, Math.min(200, text.length())));
    }
    return found.group(1);
  }

  private void ask(String what, String path, List<String> refs) throws Exception {
    ask(what, path, refs, ROUNDS);
  }

  private void ask(String what, String path, List<String> refs, int rounds) throws Exception {
    double[] times = new double[rounds];
    long bytes = 0;
    var refused = new ArrayList<Integer>();
    for (int round = -1; round < rounds; round++) { // the first warms up
      String ref = refs.get((round + 1) * refs.size() / (rounds + 1));
      long began = System.nanoTime();
      HttpResponse<byte[]> answer =
          calls.answer(
              calls.to(path.replace("%s", ref)).GET().build(),
              HttpResponse.BodyHandlers.ofByteArray());
      if (answer.statusCode() != 200) {
        refused.add(answer.statusCode());
      }
      if (round >= 0) {
        times[round] = (System.nanoTime() - began) / 1e6;
        bytes += answer.body().length;
      }
    }
    Arrays.sort(times);
    System.out.printf(
        Locale.ROOT,
        "%-28s %7.0f ms (%.0f), %d KB%s%n",
        what,
        times[rounds / 2],
        times[rounds - 1],
        bytes / rounds / 1024,
        refused.isEmpty() ? "" : ", refused " + refused);
  }
}
