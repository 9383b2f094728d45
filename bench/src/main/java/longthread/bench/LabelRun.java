package longthread.bench;

import java.net.http.HttpRequest;
import java.util.Arrays;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Sets a label on one column of an estate and takes it away again, and measures how long it takes
 * until all that it reaches has it; then what is asked of labels. Times are of one caller, each
 * beside {@code GET /health} in the same run.
 */
final class LabelRun {
  private static final int ROUNDS = 9; // odd, so that one stands in the middle
  private static final Pattern TOTAL = Pattern.compile("\"total\":(\\d+)");

  private final Calls calls;
  private final String column;

  /**
   * @param column the reference of the column on which the label is set
   */
  LabelRun(Calls calls, String column) {
    this.calls = calls;
    this.column = column;
  }

  void run() throws Exception {
    System.out.printf("label set on %s%n", column);
    String places = "api/v1/label?id=personal&limit=1";
    var seen = new double[ROUNDS];
    var gone = new double[ROUNDS];
    for (int i = 0; i < ROUNDS; i++) {
      state("{'set':'tags','of':'" + column + "','value':['personal']}");
      seen[i] = millis(places);
      state("{'set':'tags','of':'" + column + "','value':null}");
      gone[i] = millis(places);
    }
    state(
        "{'set':'tags','of':'"
            + column
            + "','value':['personal']},{'set':'label-policy','id':'bench','value':{'label':"
            + "'personal','allowed':false,'kinds':['report','dashboard']}}");
    Matcher total = TOTAL.matcher(calls.text("/" + places));
    System.out.printf("%s columns and pages have it%n", total.find() ? total.group(1) : "no");
    print("health", times("health"));
    print("all that it reaches has it", seen);
    print("it is gone from there", gone);
    print("what has it, a page", times("api/v1/label?id=personal&limit=100"));
    print("labels, counted by system", times("api/v1/labels"));
    print("leaks, a page", times("api/v1/leaks?limit=100"));
    print("search, by label", times("api/v1/search?label=personal&limit=20"));
    print("proposals, a page", times("api/v1/labels/suggestions"));
    print("coverage", times("api/v1/labels/coverage"));
    state(
        "{'set':'tags','of':'"
            + column
            + "','value':null},{'set':'label-policy','id':'bench','value':null}");
  }

  private void state(String changes) {
    int status =
        calls.status(
            calls
                .to("/api/v1/statements")
                .header("Content-Type", "application/json")
                .header("Prefer", "wait=10")
                .POST(
                    HttpRequest.BodyPublishers.ofString(
                        ("{'changes':[" + changes + "]}").replace('\'', '"')))
                .build());
    if (status != 200) {
      throw new IllegalStateException("a statement was answered with " + status);
    }
  }

  private double[] times(String path) throws Exception {
    var times = new double[ROUNDS];
    for (int i = 0; i < ROUNDS; i++) {
      times[i] = millis(path);
    }
    return times;
  }

  private double millis(String path) throws Exception {
    long began = System.nanoTime();
    calls.text("/" + path);
    return (System.nanoTime() - began) / 1e6;
  }

  private static void print(String what, double[] times) {
    double[] sorted = times.clone();
    Arrays.sort(sorted);
    System.out.printf(
        Locale.ROOT,
        "%-28s median %8.1f ms, longest %8.1f ms%n",
        what,
        sorted[ROUNDS / 2],
        sorted[ROUNDS - 1]);
  }
}
