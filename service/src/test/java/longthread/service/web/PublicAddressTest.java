package longthread.service.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Browser;
import longthread.service.testing.ChildService;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import longthread.service.testing.TestPostgres;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** Links, cookies and pages of a service that is reached through a proxy. */
@ExtendWith(RunningService.Extension.class)
class PublicAddressTest {
  private static void addLineage(Api api) {
    api.event(
        Events.run(
            "COMPLETE",
            "2026-05-01T02:00:00Z",
            UUID.randomUUID(),
            "pub",
            "copy",
            Events.copies("pub", "from_here", "to_there", "a")));
  }

  /** As it comes over the wire, with headers that the usual client does not send. */
  private static String raw(String base, String path, String... headers) throws IOException {
    URI uri = URI.create(base);
    try (var socket = new Socket(uri.getHost(), uri.getPort())) {
      socket.setSoTimeout(20_000);
      String request =
          "GET "
              + path
              + " HTTP/1.1\r\nConnection: close\r\nAccept: text/csv, */*\r\nAuthorization: Bearer "
              + RunningService.TOKEN
              + "\r\n"
              + String.join("\r\n", headers)
              + "\r\n\r\n";
      socket.getOutputStream().write(request.getBytes(StandardCharsets.UTF_8));
      return new String(socket.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
    }
  }

  private static final String SHEET = "/api/v1/impact?ref=pub/from_here%23a&change=drop";

  @Test
  void what_a_caller_says_of_the_host_is_in_no_link(RunningService service) throws IOException {
    addLineage(service.api());
    String sheet =
        raw(
            service.base(),
            SHEET,
            "Host: evil.example",
            "X-Forwarded-Host: worse.example",
            "X-Forwarded-Proto: https",
            "Forwarded: host=worst.example");
    assertThat(sheet).contains(service.base() + "/asset?ref=").doesNotContain("example");
  }

  @Test
  void a_configured_address_is_in_links_cookies_and_pages_and_its_path_may_stay_on()
      throws IOException {
    try (var postgres = new TestPostgres()) {
      postgres.createDatabase("public");
      try (var service =
          new ChildService(
              postgres,
              "public",
              "--longthread.public-url=https://catalog.example/lineage/",
              "--longthread.trusted-proxies=127.0.0.9")) {
        addLineage(service.api());
        for (String prefix : new String[] {"", "/lineage"}) {
          assertThat(raw(service.base(), prefix + SHEET, "Host: h"))
              .startsWith("HTTP/1.1 200")
              .contains("https://catalog.example/lineage/asset?ref=");
          for (String page : new String[] {"/", "/asset?ref=a", "/index.html"}) {
            assertThat(raw(service.base(), prefix + page, "Host: h", "Accept: text/html"))
                .as(prefix + page)
                .contains("<base href=\"/lineage/\"");
          }
          String session = raw(service.base(), prefix + "/api/v1/session", "Host: h", "X: y");
          assertThat(session).startsWith("HTTP/1.1 200");
        }
        Api.Answer in = new Browser(service.base()).signIn("admin", RunningService.PASSWORD);
        // A browser never sends back over a bare connection what it got as secure.
        assertThat(in.status()).isEqualTo(403);
        assertThat(
                new Api(service.base(), "")
                    .get("/api/v1/session")
                    .headers()
                    .allValues("Set-Cookie"))
            .allMatch(c -> c.contains("Secure") && c.contains("Path=/lineage"));
      }
    }
  }

  @Test
  void forwarded_headers_count_from_a_trusted_proxy_only() throws IOException {
    try (var postgres = new TestPostgres()) {
      postgres.createDatabase("proxied");
      try (var service =
          new ChildService(postgres, "proxied", "--longthread.trusted-proxies=127.0.0.1,::1")) {
        addLineage(service.api());
        assertThat(
                raw(
                    service.base(),
                    SHEET,
                    "Host: h",
                    "X-Forwarded-For: 10.1.2.3",
                    "X-Forwarded-Host: catalog.example",
                    "X-Forwarded-Proto: https"))
            .contains("https://catalog.example/asset?ref=");
      }
    }
  }

  @Test
  void an_address_that_cannot_be_one_stops_the_start_with_its_reason() {
    for (String url : new String[] {"catalog.example", "ftp://h/", "https:///x", "https://h/?a"}) {
      assertThatThrownBy(() -> new PublicAddress(url))
          .as(url)
          .hasMessageContaining("LONGTHREAD_PUBLIC_URL is '" + url);
    }
  }
}
