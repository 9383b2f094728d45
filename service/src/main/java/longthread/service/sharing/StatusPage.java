package longthread.service.sharing;

import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import longthread.service.health.AssetHealth;
import longthread.service.health.HealthBoard;
import longthread.service.health.Supplies;
import longthread.service.live.Asset;
import longthread.service.notices.ShownNotice;
import org.jspecify.annotations.Nullable;
import org.springframework.http.CacheControl;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.util.HtmlUtils;

/** The plain page and the badge that a link opens. */
@RestController
class StatusPage {
  private static final MediaType SVG = MediaType.parseMediaType("image/svg+xml;charset=UTF-8");
  private static final MediaType HTML = MediaType.parseMediaType("text/html;charset=UTF-8");
  private static final DateTimeFormatter TIME =
      DateTimeFormatter.ofPattern("d MMM yyyy, HH:mm 'UTC'", Locale.ENGLISH)
          .withZone(ZoneOffset.UTC);
  private static final double LETTER = 7.2; // pixels of an average letter of the badge
  private static final String BAD = "#a8322a";
  private static final String WAIT = "#7a6a2a";
  private static final String GOOD = "#3c7a4a";
  private static final String UNKNOWN = "#6d7471";

  /** What is said of an asset: the worse of its own state and of what it inherits, and notices. */
  private record Said(String words, String colour, String reason) {}

  private final ShareLinks links;
  private final HealthBoard health;
  private final Supplies supplies;
  private final Clock clock;

  StatusPage(ShareLinks links, HealthBoard health, Supplies supplies, Clock clock) {
    this.links = links;
    this.health = health;
    this.supplies = supplies;
    this.clock = clock;
  }

  @GetMapping("/shared/{token}/badge.svg")
  ResponseEntity<String> badge(@PathVariable String token) {
    Optional<Asset> asset = links.opened(token);
    if (asset.isEmpty()) {
      return answer(404, SVG, svg("state", "link ended", UNKNOWN));
    }
    Said said = said(health.of(asset.get()));
    return answer(200, SVG, svg(asset.get().shown(), said.words(), said.colour()));
  }

  @GetMapping("/shared/{token}")
  ResponseEntity<String> page(@PathVariable String token) {
    Optional<Asset> asset = links.opened(token);
    if (asset.isEmpty()) {
      String gone = "<h1>This link has ended</h1><p>Ask whoever gave it to you for a new one.</p>";
      return answer(404, HTML, html("Link ended", gone));
    }
    return answer(200, HTML, html(asset.get().shown(), body(asset.get())));
  }

  private static ResponseEntity<String> answer(int status, MediaType type, String body) {
    return ResponseEntity.status(status)
        .contentType(type)
        .cacheControl(CacheControl.noCache().cachePrivate())
        .header("Referrer-Policy", "no-referrer")
        .header("X-Robots-Tag", "noindex")
        .body(body);
  }

  // ------------------------------------------------------------------ what is said

  private static Said said(AssetHealth health) {
    for (ShownNotice notice : health.notices()) {
      if (notice.level().equals("stop")) {
        return new Said("do not use", BAD, notice.text());
      }
    }
    AssetHealth.InheritedHealth inherited = health.inherited();
    boolean ownIsBad = !health.state().equals("healthy") && !health.state().equals("unknown");
    if (ownIsBad) {
      return new Said(words(health.state()), colour(health.state()), health.reason());
    }
    if (inherited != null) {
      return new Said(
          "source " + words(inherited.state()), colour(inherited.state()), inherited.reason());
    }
    if (!health.notices().isEmpty()) {
      return new Said("see notice", WAIT, health.notices().get(0).text());
    }
    return new Said(words(health.state()), colour(health.state()), health.reason());
  }

  private static String words(String state) {
    return Map.of("healthy", "on time", "check-failed", "check failed", "unknown", "not known")
        .getOrDefault(state, state);
  }

  private static String colour(String state) {
    return switch (state) {
      case "healthy" -> GOOD;
      case "unknown" -> UNKNOWN;
      case "failed", "check-failed", "overdue" -> BAD;
      default -> WAIT;
    };
  }

  private String body(Asset asset) {
    AssetHealth how = health.of(asset);
    Said said = said(how);
    var body = new StringBuilder();
    body.append("<h1>").append(escaped(asset.shown())).append("</h1>");
    body.append("<p class=\"state\" style=\"color:")
        .append(said.colour())
        .append("\">")
        .append(escaped(upper(said.words())))
        .append("</p><p>")
        .append(escaped(said.reason()))
        .append("</p>");
    for (ShownNotice notice : how.notices()) {
      body.append("<p class=\"notice\"><strong>Notice</strong> by ")
          .append(escaped(notice.by()))
          .append(notice.until() == null ? "" : ", until " + TIME.format(notice.until()))
          .append(": ")
          .append(escaped(notice.text()))
          .append("</p>");
    }
    var rows = new ArrayList<String>();
    row(rows, "Last written", time(how.writtenAt()));
    row(rows, "Next expected", time(how.expectedAt()));
    Supplies.Oldest oldest = supplies.oldest(asset);
    row(rows, "Oldest data in it is of", oldest == null ? null : time(oldest.takenAt()));
    String owners = String.join(", ", asset.ownerNames());
    row(rows, "Ask", owners.isEmpty() ? null : owners);
    body.append("<dl>").append(String.join("", rows)).append("</dl>");
    body.append("<p class=\"quiet\">As of ").append(TIME.format(clock.instant())).append("</p>");
    return body.toString();
  }

  private static String upper(String words) {
    return words.substring(0, 1).toUpperCase(Locale.ROOT) + words.substring(1);
  }

  private static @Nullable String time(@Nullable Instant at) {
    return at == null ? null : TIME.format(at);
  }

  private static void row(ArrayList<String> rows, String what, @Nullable String value) {
    if (value != null) {
      rows.add("<dt>" + what + "</dt><dd>" + escaped(value) + "</dd>");
    }
  }

  private static String escaped(String text) {
    return HtmlUtils.htmlEscape(text, "UTF-8");
  }

  private static String html(String title, String body) {
    return "<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><title>"
        + escaped(title)
        + "</title><meta name=\"viewport\" content=\"width=device-width\"><style>body{font:16px/1.5"
        + " system-ui,sans-serif;max-width:640px;margin:48px auto;padding:0 16px;color:#23302e}"
        + "h1{font-size:22px;margin:0}.state{font-size:32px;font-weight:600;margin:8px 0}"
        + ".notice{border-left:4px solid #7a6a2a;padding-left:12px}.quiet{color:#6d7471}"
        + "dl{display:grid;grid-template-columns:auto 1fr;gap:4px 16px}dt{color:#6d7471}"
        + "dd{margin:0}</style></head><body>"
        + body
        + "</body></html>";
  }

  /** The name, and behind it the state in its colour; a bar of that colour before both. */
  private static String svg(String name, String state, String colour) {
    int stateAt = (int) (name.length() * LETTER) + 26;
    int width = stateAt + (int) (state.length() * LETTER) + 14;
    String label = escaped(name + ": " + state);
    return ("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"%1$d\" height=\"26\" role=\"img\""
            + " aria-label=\"%2$s\"><title>%2$s</title>"
            + "<rect x=\"0.5\" y=\"0.5\" width=\"%3$d\" height=\"25\" fill=\"#fffdf8\""
            + " stroke=\"#ddd6c8\"/><rect width=\"5\" height=\"26\" fill=\"%4$s\"/>"
            + "<g font-family=\"system-ui,sans-serif\" font-size=\"13\">"
            + "<text x=\"14\" y=\"17.5\" fill=\"#23302e\">%5$s</text>"
            + "<text x=\"%6$d\" y=\"17.5\" fill=\"%4$s\" font-weight=\"600\">%7$s</text></g></svg>")
        .formatted(width, label, width - 1, colour, escaped(name), stateAt, escaped(state));
  }
}
