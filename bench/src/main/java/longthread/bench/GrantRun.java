package longthread.bench;

import java.net.URLEncoder;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Asks the same of an estate as somebody who sees all of it, and as two whose grants cover a part:
 * one system, and that system with what has a label. Times are of one caller, in turns.
 */
final class GrantRun {
  private static final int ROUNDS = 15; // odd, so that one stands in the middle
  private static final Pattern SYSTEM = Pattern.compile("\"system\":\\{\"([^\"]+)\"");
  private static final Pattern REFERENCE =
      Pattern.compile("\"ref\":\"([^\"]+)\",\"kind\":\"table\"");

  private final Calls calls;

  GrantRun(Calls calls) {
    this.calls = calls;
  }

  void run() throws Exception {
    String system = first(SYSTEM, calls.text("/api/v1/search?kind=table&limit=1"));
    var tokens = new LinkedHashMap<String, String>();
    tokens.put("all of it", calls.token());
    tokens.put("a system", limited("system-" + System.nanoTime(), system, false));
    tokens.put("and a label", limited("label-" + System.nanoTime(), system, true));
    List<String> tables = tables(tokens.get("a system"));
    System.out.printf("grants on %s; %d tables asked of%n", system, tables.size());
    for (String ask :
        List.of(
            "search?limit=20&q=store",
            "browse",
            "asset?ref=%s",
            "graph?ref=%s",
            "impact?change=drop&ref=%s",
            "labels")) {
      print(ask, ask(ask, tokens, tables));
    }
  }

  private String limited(String name, String system, boolean byLabel) throws Exception {
    String token = calls.makeKey(name, "limited");
    grant(name, "system", system);
    if (byLabel) {
      grant(name, "label", "personal");
    }
    return token;
  }

  private void grant(String name, String scope, String value) {
    String body =
        "{'holderKind':'key','holder':'%s','role':'reader','scope':'%s','value':'%s'}"
            .formatted(name, scope, value)
            .replace('\'', '"');
    int status =
        calls.status(
            calls
                .to("/api/v1/grants")
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofString(body))
                .build());
    if (status != 200) {
      throw new IllegalStateException("a grant was answered with " + status);
    }
  }

  private List<String> tables(String token) throws Exception {
    var tables = new ArrayList<String>();
    for (String word : List.of("store", "invoice", "order", "region")) {
      Matcher found =
          REFERENCE.matcher(text("/api/v1/search?kind=table&limit=30&q=" + word, token));
      while (found.find()) {
        tables.add(URLEncoder.encode(found.group(1), StandardCharsets.UTF_8));
      }
    }
    return tables;
  }

  private Map<String, double[]> ask(String ask, Map<String, String> tokens, List<String> tables)
      throws Exception {
    var times = new LinkedHashMap<String, double[]>();
    tokens.keySet().forEach(who -> times.put(who, new double[ROUNDS]));
    for (int round = -1; round < ROUNDS; round++) { // the first warms up
      String path = "/api/v1/" + ask.formatted(tables.get((round + 1) % tables.size()));
      for (Map.Entry<String, String> who : tokens.entrySet()) {
        long began = System.nanoTime();
        text(path, who.getValue());
        if (round >= 0) {
          times.get(who.getKey())[round] = (System.nanoTime() - began) / 1e6;
        }
      }
    }
    return times;
  }

  private String text(String path, String token) throws Exception {
    return calls.send(calls.to(path, token).GET().build(), HttpResponse.BodyHandlers.ofString());
  }

  private static String first(Pattern pattern, String text) {
    Matcher found = pattern.matcher(text);
    if (!found.find()) {
      throw new IllegalStateException("the estate has no tables yet");
    }
    return found.group(1);
  }

  private static void print(String ask, Map<String, double[]> times) {
    var line = new StringBuilder(String.format(Locale.ROOT, "%-26s", ask));
    times.forEach(
        (who, of) -> {
          double[] sorted = of.clone();
          Arrays.sort(sorted);
          line.append(
              String.format(
                  Locale.ROOT, "  %s %.0f ms (%.0f)", who, sorted[ROUNDS / 2], sorted[ROUNDS - 1]));
        });
    System.out.println(line);
  }
}
