package longthread.service.web;

import jakarta.annotation.PostConstruct;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.time.Duration;
import java.util.Arrays;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.apache.catalina.LifecycleException;
import org.apache.catalina.connector.Connector;
import org.apache.catalina.core.StandardHost;
import org.apache.catalina.valves.RemoteIpValve;
import org.apache.catalina.valves.rewrite.RewriteValve;
import org.apache.coyote.http11.Http11NioProtocol;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.tomcat.servlet.TomcatServletWebServerFactory;
import org.springframework.boot.web.server.WebServerFactoryCustomizer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/**
 * How the web server behaves before a request reaches the service's own code: limits of
 * connections, trusted proxies, the path it is reached under, the port kept for its state.
 */
@Configuration
class WebServer {
  private static final int HEALTH_THREADS = 4;

  private final Set<String> proxies;
  private final int perAddress;
  private final Duration headerTime;
  private final int healthPort;

  WebServer(
      @Value("${longthread.trusted-proxies}") String proxies,
      @Value("${longthread.connections-per-address}") int perAddress,
      @Value("${longthread.header-time}") Duration headerTime,
      @Value("${longthread.health-port}") int healthPort) {
    this.proxies =
        Arrays.stream(proxies.split(","))
            .map(String::strip)
            .filter(address -> !address.isEmpty())
            .map(WebServer::address)
            .collect(Collectors.toSet());
    this.perAddress = perAddress;
    this.headerTime = headerTime;
    this.healthPort = healthPort;
  }

  /** An address as connections show it. */
  private static String address(String text) {
    try {
      if (text.chars().allMatch(c -> c == '.' || c == ':' || Character.digit(c, 16) >= 0)) {
        return InetAddress.getByName(text).getHostAddress();
      }
    } catch (UnknownHostException e) {
      // said below, like a name that would have to be looked up
    }
    throw new IllegalArgumentException(
        "LONGTHREAD_TRUSTED_PROXIES holds '"
            + text
            + "'; it takes addresses separated by commas, such as 10.0.0.5,::1");
  }

  @PostConstruct
  void boundLog() {
    RepeatedFaultFilter.install();
  }

  @Bean
  WebServerFactoryCustomizer<TomcatServletWebServerFactory> boundedServer(PublicAddress address) {
    return factory -> {
      factory.setProtocol(BoundedHttp.class.getName());
      factory.addConnectorCustomizers(
          connector -> {
            if (connector.getProtocolHandler() instanceof BoundedHttp http) {
              http.bound(perAddress, proxies, headerTime);
            }
          });
      factory.addContextCustomizers(
          context -> {
            if (context.getParent() instanceof StandardHost host) {
              host.setErrorReportValveClass(ProblemValve.class.getName());
            }
          });
      if (!proxies.isEmpty()) {
        factory.addEngineValves(forwardedHeaders());
      }
      if (!address.path().isEmpty()) {
        factory.addEngineValves(withoutPath(address.path()));
      }
      if (healthPort >= 0) {
        Connector health = healthConnector(factory);
        factory.addAdditionalConnectors(health);
        factory.addEngineValves(new HealthPortValve(health));
      }
      factory.addEngineValves(new UnreadBodyValve());
    };
  }

  /** Believes what proxies forward, if they are trusted. */
  private RemoteIpValve forwardedHeaders() {
    var valve = new RemoteIpValve();
    valve.setInternalProxies(proxies.stream().map(Pattern::quote).collect(Collectors.joining("|")));
    valve.setProtocolHeader("X-Forwarded-Proto");
    valve.setHostHeader("X-Forwarded-Host");
    valve.setPortHeader("X-Forwarded-Port");
    return valve;
  }

  /** Takes the public path off a request whose proxy left it on. */
  private static RewriteValve withoutPath(String path) {
    var valve =
        new RewriteValve() {
          @Override
          protected void startInternal() throws LifecycleException {
            super.startInternal();
            String quoted = "^" + path.replaceAll("[^A-Za-z0-9/_~%-]", "\\\\$0");
            try {
              setConfiguration(
                  "RewriteRule " + quoted + "/?$ / [L]\nRewriteRule " + quoted + "/(.*)$ /$1 [L]");
            } catch (Exception e) {
              throw new LifecycleException("the public path cannot be taken off requests", e);
            }
          }
        };
    return valve;
  }

  /** State and metrics have threads of their own, so that nothing else can keep them waiting. */
  private Connector healthConnector(TomcatServletWebServerFactory factory) {
    var connector = new Connector(Http11NioProtocol.class.getName());
    connector.setPort(healthPort);
    connector.setThrowOnFailure(true);
    if (connector.getProtocolHandler() instanceof Http11NioProtocol http) {
      http.setMaxThreads(HEALTH_THREADS);
      http.setMinSpareThreads(1);
      http.setConnectionTimeout(5_000);
      if (factory.getAddress() != null) {
        http.setAddress(factory.getAddress());
      }
    }
    return connector;
  }
}
