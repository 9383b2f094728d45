package longthread.demo;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.LoadState;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;

/**
 * Takes the pictures of the console and of the command line that the documents show, from a running
 * demo.
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
    pages.put("today", "/today");
    pages.put("find", "/find?q=fat+readings");
    pages.put("asset", "/asset?" + ref(barn + "mart.payout_statement"));
    pages.put("graph", "/graph?" + ref(barn + "core.lab_reading") + "&hops=100");
    pages.put("column", "/graph?" + ref(barn + "mart.payout_statement#amount"));
    pages.put(
        "steps",
        "/asset?" + ref("@nightshift/collect_nightly.cost_routes") + "&tab=steps&column=km");
    pages.put(
        "impact",
        "/impact?"
            + ref("postgres://collect-db.hollinvale.example:5432/collect.public.pickup#litres")
            + "&change=rename&to=volume_l");
    pages.put(
        "causes",
        "/causes?" + ref("sightglass://hollinvale/milk-quality/report/milk-quality-daily"));
    pages.put(
        "behind", "/behind?" + ref("sightglass://hollinvale/milk-quality/report/class-audit"));
    pages.put(
        "compare",
        "/compare?"
            + ref("@nightshift/lab_intake.build_lab_reading")
            + "&from=version:1&to=version:2");
    pages.put("coverage", "/coverage");
    pages.put("leaks", "/labels");
    pages.put("preview", "/asset?" + ref(barn + "mart.payout_statement") + "&tab=preview");
    pages.put("planned-dark", "/planned?id={change}");
    pages.put("audit", "/access?tab=audit");
    pages.put("workspace", "/workspace?" + ref("sightglass://hollinvale/board-room"));
    pages.put(
        "reader", "/reader?" + ref("sightglass://hollinvale/board-room/chart/milk-and-money#paid"));
    return pages;
  }

  /** The commands that are shown as a terminal shows them. */
  static Map<String, List<String>> commands() {
    var commands = new LinkedHashMap<String, List<String>>();
    commands.put("terminal-thread", List.of("thread", "drop/readings#fat", "Ten-day payout"));
    commands.put(
        "terminal-gate",
        List.of("gate", "docs/examples/rename-litres.yaml", "--policy", "docs/examples/gate.yaml"));
    return commands;
  }

  private static boolean isWanted(String name, String wanted) {
    return wanted.isEmpty() || List.of(wanted.split(",")).contains(name);
  }

  /** Runs a command and takes a picture of what it prints. */
  private static void terminal(Page page, List<String> command, Path picture) throws Exception {
    var whole = new ArrayList<>(List.of("./longthread"));
    whole.addAll(command);
    Process process =
        new ProcessBuilder(whole).directory(checkout().toFile()).redirectErrorStream(true).start();
    String text = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
    process.waitFor();
    String typed =
        whole.stream()
            .map(word -> word.matches("[\\w./#=-]+") ? word : "'" + word + "'")
            .collect(Collectors.joining(" "));
    page.setContent(
        """
        <body style="margin:0;background:#1e2524">
        <pre style="font:13px/1.5 'DejaVu Sans Mono',monospace;color:#e4e6e1;padding:16px 20px;\
        margin:0;white-space:pre-wrap"><b style="color:#e2a03f">$ %s</b>
        %s</pre>"""
            .formatted(escaped(typed), escaped(text.stripTrailing())));
    page.locator("pre").screenshot(new Locator.ScreenshotOptions().setPath(picture));
  }

  /** The id of the change that is planned in the demo world. */
  private static String change() {
    try {
      Process process =
          new ProcessBuilder("./longthread", "change", "list", "--csv")
              .directory(checkout().toFile())
              .start();
      String list = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
      return list.substring(list.lastIndexOf(',') + 2).replace("\"", "").strip();
    } catch (java.io.IOException e) {
      throw new IllegalStateException("the command line cannot be run", e);
    }
  }

  private static Path checkout() {
    Path here = Path.of("").toAbsolutePath();
    return here.resolve("longthread").toFile().isFile() ? here : here.getParent();
  }

  private static String escaped(String text) {
    return text.replace("&", "&amp;").replace("<", "&lt;");
  }

  public static void main(String[] args) throws Exception {
    String base = args[0];
    Path folder = Path.of(args[2]);
    String wanted = args.length > 3 ? args[3] : "";
    try (var browser = new Browser()) {
      Page terminal = browser.page("dark");
      for (Map.Entry<String, List<String>> command : commands().entrySet()) {
        if (isWanted(command.getKey(), wanted)) {
          terminal(terminal, command.getValue(), folder.resolve(command.getKey() + ".png"));
        }
      }
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
        Browser.signIn(page, base, "admin", args[1]);
        pages()
            .forEach(
                (name, path) -> {
                  boolean mine = name.endsWith("-dark") == mode.equals("dark");
                  if (mine && isWanted(name, wanted)) {
                    page.navigate(base + path.replace("{change}", change()));
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
