package longthread.bench;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.Socket;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.zip.GZIPOutputStream;

/** Calls of a running service as its callers make them, and what its process takes. */
final class Calls {
  private final URI base;
  private final String token;
  private final Path pidFile;
  private final HttpClient http =
      HttpClient.newBuilder()
          .version(HttpClient.Version.HTTP_1_1)
          .connectTimeout(Duration.ofSeconds(10))
          .build();

  Calls(URI base, String token, Path pidFile) {
    this.base = base;
    this.token = token;
    this.pidFile = pidFile;
  }

  URI base() {
    return base;
  }

  String token() {
    return token;
  }

  String text(String path) throws IOException, InterruptedException {
    return http.send(to(path).GET().build(), HttpResponse.BodyHandlers.ofString()).body();
  }

  /** A key of its own for those who look on, as other programs have it. */
  String makeKey() throws IOException, InterruptedException {
    return makeKey("watch-" + System.nanoTime(), "steward");
  }

  /** Makes a key of a name and role; returns its token. */
  String makeKey(String name, String role) throws IOException, InterruptedException {
    String body = "{\"name\":\"" + name + "\",\"role\":\"" + role + "\"}";
    String answer =
        http.send(
                to("/api/v1/keys")
                    .header("Content-Type", "application/json")
                    .POST(HttpRequest.BodyPublishers.ofString(body))
                    .build(),
                HttpResponse.BodyHandlers.ofString())
            .body();
    return answer.replaceAll(".*\"token\":\"([^\"]*)\".*", "$1");
  }

  HttpRequest.Builder to(String path) {
    return to(path, token);
  }

  HttpRequest.Builder to(String path, String key) {
    return HttpRequest.newBuilder(URI.create(base + path))
        .timeout(Duration.ofSeconds(120))
        .header("Authorization", "Bearer " + key);
  }

  <T> T send(HttpRequest request, HttpResponse.BodyHandler<T> as)
      throws IOException, InterruptedException {
    return http.send(request, as).body();
  }

  /** The answer with its status. */
  <T> HttpResponse<T> answer(HttpRequest request, HttpResponse.BodyHandler<T> as)
      throws IOException, InterruptedException {
    return http.send(request, as);
  }

  int status(HttpRequest request) {
    try {
      return http.send(request, HttpResponse.BodyHandlers.discarding()).statusCode();
    } catch (IOException e) {
      return 0;
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      return 0;
    }
  }

  int post(byte[] body, boolean packed) {
    HttpRequest.Builder request = to("/api/v1/lineage");
    if (packed) {
      request.header("Content-Encoding", "gzip");
    }
    return status(request.POST(HttpRequest.BodyPublishers.ofByteArray(body)).build());
  }

  static byte[] packed(byte[] body) {
    var out = new ByteArrayOutputStream();
    try (var gzip = new GZIPOutputStream(out)) {
      gzip.write(body);
    } catch (IOException e) {
      throw new UncheckedIOException("memory does not fail to be written", e);
    }
    return out.toByteArray();
  }

  /** A request line as it is, which a client library would not send. */
  int raw(String target, String key) {
    try (var socket = new Socket(base.getHost(), base.getPort())) {
      socket.setSoTimeout(30_000);
      socket
          .getOutputStream()
          .write(
              ("GET "
                      + target
                      + " HTTP/1.1\r\nHost: h\r\nConnection: close\r\n"
                      + (key.isEmpty() ? "" : "Authorization: Bearer " + key + "\r\n")
                      + "\r\n")
                  .getBytes(StandardCharsets.UTF_8));
      String answer = new String(socket.getInputStream().readNBytes(12), StandardCharsets.US_ASCII);
      return answer.length() == 12 ? Integer.parseInt(answer.substring(9)) : 0;
    } catch (IOException e) {
      return 0;
    }
  }

  /** The memory of the service's process that is in use, in MiB. */
  long resident() throws IOException {
    String pid = Files.readString(pidFile).strip();
    for (String line : Files.readAllLines(Path.of("/proc", pid, "status"))) {
      if (line.startsWith("VmRSS:")) {
        return Long.parseLong(line.replaceAll("\\D", "")) / 1_024;
      }
    }
    return 0;
  }
}
