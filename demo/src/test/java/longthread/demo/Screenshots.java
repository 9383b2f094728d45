package longthread.demo;

import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.LoadState;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;

/**
 * Takes the pictures of the console that the documents show, from a running demo.
 *
 * <p>Arguments: the console's address, the administrator's password, the folder to write to, and
 * optionally the names of the only pictures wanted.
 */
final class Screenshots {
  private Screenshots() {}

  private static String ref(String text) {
    return "ref=" + URLEncoder.encode(text, StandardCharsets.UTF_8);
  }

  static Map<String, String> pages() {
    String barn = "postgres://barn.hollinvale.example:5432/barn.";
    var pages = new LinkedHashMap<String, String>();
    pages.put("find", "/find?q=fat+readings");
    pages.put("asset", "/asset?" + ref(barn + "mart.payout_statement"));
    pages.put("graph", "/graph?" + ref(barn + "core.lab_reading") + "&hops=100");
    pages.put("graph-steps", "/graph?" + ref(barn + "core.lab_reading") + "&detail=steps&hops=3");
    pages.put("column", "/graph?" + ref(barn + "mart.payout_statement#amount"));
    pages.put("job", "/asset?" + ref("@nightshift/payout_tenday.build_payout"));
    pages.put(
        "steps",
        "/asset?" + ref("@nightshift/collect_nightly.cost_routes") + "&tab=steps&column=km");
    pages.put("writers", "/asset?" + ref(barn + "mart.route_cost"));
    pages.put("km", "/graph?" + ref(barn + "mart.route_cost#km"));
    pages.put("runs", "/runs");
    pages.put(
        "impact",
        "/impact?"
            + ref("postgres://collect-db.hollinvale.example:5432/collect.public.pickup#litres")
            + "&change=rename&to=volume_l");
    pages.put(
        "causes",
        "/causes?" + ref("sightglass://hollinvale/milk-quality/report/milk-quality-daily"));
    pages.put("intake", "/intake");
    pages.put("event", "/intake?event=235.0");
    pages.put("refused", "/intake?tab=refused");
    pages.put("emitters", "/intake?tab=emitters");
    pages.put("parts", "/asset?" + ref("s3://hollinvale-lake/landed/pickup") + "&tab=parts");
    pages.put("history", "/asset?" + ref(barn + "core.lab_reading") + "&tab=history");
    pages.put("checks", "/asset?" + ref(barn + "core.lab_reading") + "&tab=checks");
    pages.put("stream", "/asset?" + ref("@tankflow/tank_hourly") + "&tab=runs");
    pages.put("column-dark", pages.get("column"));
    return pages;
  }

  public static void main(String[] args) {
    String base = args[0];
    Path folder = Path.of(args[2]);
    String wanted = args.length > 3 ? args[3] : "";
    try (var browser = new Browser()) {
      for (String mode : new String[] {"light", "dark"}) {
        Page page = browser.page(mode);
        page.onConsoleMessage(
            message -> {
              if (message.type().equals("error")) {
                System.err.println("console: " + message.text());
              }
            });
        page.navigate(base + "/");
        page.getByLabel("Password").waitFor();
        if (mode.equals("light") && (wanted.isEmpty() || wanted.contains("sign-in"))) {
          page.screenshot(new Page.ScreenshotOptions().setPath(folder.resolve("sign-in.png")));
        }
        Browser.signIn(page, base, "admin", args[1]);
        pages()
            .forEach(
                (name, path) -> {
                  boolean mine = name.endsWith("-dark") == mode.equals("dark");
                  if (mine
                      && (wanted.isEmpty() || ("," + wanted + ",").contains("," + name + ","))) {
                    page.navigate(base + path);
                    page.waitForLoadState(LoadState.NETWORKIDLE);
                    page.waitForTimeout(900);
                    page.screenshot(
                        new Page.ScreenshotOptions().setPath(folder.resolve(name + ".png")));
                  }
                });
      }
    }
  }
}
