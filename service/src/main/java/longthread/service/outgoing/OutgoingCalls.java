package longthread.service.outgoing;

import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.net.InetAddress;
import java.net.URI;
import java.net.UnknownHostException;
import java.time.Duration;
import java.util.Arrays;
import java.util.Map;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import org.apache.hc.client5.http.DnsResolver;
import org.apache.hc.client5.http.SystemDefaultDnsResolver;
import org.apache.hc.client5.http.classic.methods.HttpPost;
import org.apache.hc.client5.http.config.ConnectionConfig;
import org.apache.hc.client5.http.config.RequestConfig;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClients;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.core5.http.ClassicHttpResponse;
import org.apache.hc.core5.http.ContentType;
import org.apache.hc.core5.http.io.entity.ByteArrayEntity;
import org.apache.hc.core5.util.Timeout;
import org.springframework.stereotype.Component;

/** Posts to other machines, with a limit on everything that the other side decides. */
@Component
public class OutgoingCalls {
  /** For the whole exchange: connecting, sending, and all of the answer that is read. */
  public static final Duration TIME = Duration.ofSeconds(10);

  private static final int MAX_PER_RECEIVER = 4;
  private static final int MAX_TOTAL = 100;

  /**
   * What the other side answered.
   *
   * @param body empty if it was not asked for
   */
  public record Answer(int status, byte[] body) {}

  /** That the service may not call a machine; the message names no address. */
  static final class RefusedException extends UnknownHostException {
    private static final long serialVersionUID = 1;

    RefusedException() {
      super("the service may not call this machine");
    }
  }

  private final CloseableHttpClient restricted;
  private final CloseableHttpClient trusted;
  private final Destinations destinations;
  private final ScheduledExecutorService clock =
      Executors.newSingleThreadScheduledExecutor(
          work -> {
            var thread = new Thread(work, "outgoing-time");
            thread.setDaemon(true);
            return thread;
          });

  OutgoingCalls(Destinations destinations) {
    this.destinations = destinations;
    this.restricted = client(new Checked());
    this.trusted = client(SystemDefaultDnsResolver.INSTANCE);
  }

  private static CloseableHttpClient client(DnsResolver resolver) {
    Timeout limit = Timeout.ofMilliseconds(TIME.toMillis());
    return HttpClients.custom()
        .disableRedirectHandling()
        .disableAutomaticRetries()
        .disableCookieManagement()
        .disableAuthCaching()
        .disableContentCompression()
        .setConnectionManager(
            PoolingHttpClientConnectionManagerBuilder.create()
                .setDnsResolver(resolver)
                .setMaxConnPerRoute(MAX_PER_RECEIVER)
                .setMaxConnTotal(MAX_TOTAL)
                .setDefaultConnectionConfig(
                    ConnectionConfig.custom().setConnectTimeout(limit).build())
                .build())
        .setDefaultRequestConfig(
            RequestConfig.custom()
                .setConnectionRequestTimeout(limit)
                .setResponseTimeout(limit)
                .build())
        .build();
  }

  /** Resolves a name for the connection, and leaves out what may not be called. */
  private final class Checked implements DnsResolver {
    @Override
    public InetAddress[] resolve(String host) throws UnknownHostException {
      // The port is checked before; a listed machine is listed with a port of its own or with all.
      InetAddress[] all = InetAddress.getAllByName(host);
      Integer port = PORT.get();
      InetAddress[] open =
          Arrays.stream(all)
              .filter(one -> destinations.mayCall(host, one, port == null ? 0 : port))
              .toArray(InetAddress[]::new);
      if (open.length == 0) {
        throw new RefusedException();
      }
      return open;
    }

    @Override
    public String resolveCanonicalHostname(String host) {
      return host;
    }
  }

  /** The port of the call that a thread makes, for the check of the address it resolves. */
  private static final ThreadLocal<Integer> PORT = new ThreadLocal<>();

  /**
   * Posts to an address that a person entered; of the answer only the status is read.
   *
   * @throws IOException if the machine may not be called, cannot be reached, or takes too long
   */
  public int post(URI address, Map<String, String> headers, String type, byte[] body)
      throws IOException {
    PORT.set(Destinations.portOf(address));
    try {
      return exchange(restricted, address, headers, type, body, 0).status();
    } finally {
      PORT.remove();
    }
  }

  /**
   * Posts to an address of the service's own settings.
   *
   * @param most bytes of the answer; more are refused
   */
  public Answer postTrusted(URI address, String type, byte[] body, int most) throws IOException {
    return exchange(trusted, address, Map.of(), type, body, most);
  }

  private Answer exchange(
      CloseableHttpClient client,
      URI address,
      Map<String, String> headers,
      String type,
      byte[] body,
      int most)
      throws IOException {
    HttpPost post;
    try {
      post = new HttpPost(address);
    } catch (IllegalArgumentException e) {
      throw new IOException("the address cannot be called", e);
    }
    headers.forEach(post::setHeader);
    post.setEntity(new ByteArrayEntity(body, ContentType.parse(type)));
    ScheduledFuture<?> end = clock.schedule(post::abort, TIME.toMillis(), TimeUnit.MILLISECONDS);
    try {
      ClassicHttpResponse answer = client.executeOpen(null, post, null);
      byte[] read = new byte[0];
      if (most > 0 && answer.getEntity() != null) {
        read = answer.getEntity().getContent().readNBytes(most + 1);
        if (read.length > most) {
          throw new IOException("it answered with more than " + most + " bytes");
        }
      }
      return new Answer(answer.getCode(), read);
    } catch (IOException | RuntimeException e) {
      if (end.isDone()) {
        throw new IOException("it took more than " + TIME.toSeconds() + " s", e);
      }
      throw e instanceof IOException fault
          ? fault
          : new IOException("the address cannot be called", e);
    } finally {
      end.cancel(false);
      // Closing an answer would read what is left of it; this drops the connection.
      post.abort();
    }
  }

  @PreDestroy
  void end() throws IOException {
    clock.shutdownNow();
    restricted.close();
    trusted.close();
  }
}
