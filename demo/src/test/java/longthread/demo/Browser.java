package longthread.demo;

import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.BrowserType;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Playwright;
import com.microsoft.playwright.options.AriaRole;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;

/** Debian's Chromium without a window, driven as a person would use it. */
final class Browser implements AutoCloseable {
  private static final List<String> FLAGS =
      List.of(
          "--headless",
          "--no-sandbox",
          "--disable-gpu",
          "--disable-quic",
          "--no-first-run",
          "--disable-background-networking",
          "--disable-component-update",
          "--disable-sync");

  /** Machines are shared and may be slow; a test that passes does not wait for long. */
  private static final double PATIENCE_MILLIS = 60_000;

  private final Playwright playwright;
  private final com.microsoft.playwright.Browser browser;

  Browser() {
    com.microsoft.playwright.assertions.PlaywrightAssertions.setDefaultAssertionTimeout(
        PATIENCE_MILLIS);
    playwright =
        Playwright.create(
            new Playwright.CreateOptions().setEnv(Map.of("PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD", "1")));
    browser =
        playwright
            .chromium()
            .launch(
                new BrowserType.LaunchOptions()
                    .setExecutablePath(Path.of("/usr/bin/chromium"))
                    .setArgs(FLAGS));
  }

  /** A page of its own, with nothing remembered from others. */
  Page page(String mode) {
    BrowserContext context =
        browser.newContext(
            new com.microsoft.playwright.Browser.NewContextOptions()
                .setViewportSize(1280, 800)
                .setAcceptDownloads(true)
                .setColorScheme(
                    mode.equals("dark")
                        ? com.microsoft.playwright.options.ColorScheme.DARK
                        : com.microsoft.playwright.options.ColorScheme.LIGHT));
    context.setDefaultTimeout(PATIENCE_MILLIS);
    return context.newPage();
  }

  static void signIn(Page page, String base, String name, String password) {
    page.navigate(base + "/");
    page.getByLabel("Name").fill(name);
    page.getByLabel("Password").fill(password);
    page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Sign in")).click();
    page.getByRole(AriaRole.NAVIGATION).waitFor();
  }

  @Override
  public void close() {
    browser.close();
    playwright.close();
  }
}
