package longthread.service.testing;

import java.io.IOException;
import java.net.CookieManager;
import java.net.HttpCookie;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;

/** A browser's side of the interface: cookies are kept, changes carry the token of the console. */
public final class Browser {
  private final String base;
  private final CookieManager cookies = new CookieManager();
  private final HttpClient http = HttpClient.newBuilder().cookieHandler(cookies).build();

  public Browser(String base) {
    this.base = base;
    get("/api/v1/session"); // gives the token
  }

  public Api.Answer get(String path) {
    return send(HttpRequest.newBuilder(URI.create(base + path)).GET());
  }

  /** Sends a change with a body written with single quotes. */
  public Api.Answer send(String method, String path, String body) {
    return send(
        HttpRequest.newBuilder(URI.create(base + path))
            .header("Content-Type", "application/json")
            .header("X-XSRF-TOKEN", cookie("XSRF-TOKEN"))
            .method(method, HttpRequest.BodyPublishers.ofString(body.replace('\'', '"'))));
  }

  public Api.Answer signIn(String name, String password) {
    return send("POST", "/api/v1/session", "{'name':'" + name + "','password':'" + password + "'}");
  }

  private Api.Answer send(HttpRequest.Builder request) {
    try {
      HttpResponse<String> answer =
          http.send(request.build(), HttpResponse.BodyHandlers.ofString());
      return new Api.Answer(answer.statusCode(), answer.body(), answer.headers());
    } catch (IOException e) {
      throw new IllegalStateException(e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new IllegalStateException(e);
    }
  }

  /** The value of a cookie; empty if there is none. */
  public String cookie(String name) {
    return cookies.getCookieStore().getCookies().stream()
        .filter(cookie -> cookie.getName().equals(name))
        .map(HttpCookie::getValue)
        .findFirst()
        .orElse("");
  }
}
