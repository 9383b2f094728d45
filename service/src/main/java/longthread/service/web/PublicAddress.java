package longthread.service.web;

import jakarta.servlet.http.HttpServletRequest;
import java.net.Inet6Address;
import java.net.InetAddress;
import java.net.URI;
import java.net.UnknownHostException;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/**
 * Under which address people reach the service: the one that is configured, else that of the proxy
 * in front of it if that is trusted, else the one the connection itself shows. What a caller writes
 * into {@code Host} or {@code X-Forwarded-…} alone never ends in a link.
 */
@Component
public class PublicAddress {
  /** Set by the web server on requests whose forwarded headers came from a trusted proxy. */
  private static final String FORWARDED = "org.apache.tomcat.request.forwarded";

  private final String configured;
  private final String path;
  private final boolean isSecure;

  PublicAddress(@Value("${longthread.public-url}") String url) {
    configured = url.endsWith("/") ? url.substring(0, url.length() - 1) : url;
    if (configured.isEmpty()) {
      path = "";
      isSecure = false;
      return;
    }
    URI uri;
    try {
      uri = URI.create(configured);
    } catch (IllegalArgumentException e) {
      throw unusable(url);
    }
    boolean web = "http".equals(uri.getScheme()) || "https".equals(uri.getScheme());
    if (!web || uri.getHost() == null || uri.getQuery() != null || uri.getFragment() != null) {
      throw unusable(url);
    }
    path = uri.getRawPath();
    isSecure = "https".equals(uri.getScheme());
  }

  private static IllegalArgumentException unusable(String url) {
    return new IllegalArgumentException(
        "LONGTHREAD_PUBLIC_URL is '"
            + url
            + "'; it takes the address people use, such as https://catalog.example/lineage");
  }

  /** The address that absolute links begin with, without a slash at its end. */
  public String base(HttpServletRequest request) {
    if (!configured.isEmpty()) {
      return configured;
    }
    boolean forwarded =
        Boolean.TRUE.equals(request.getAttribute(FORWARDED))
            && request.getHeader("X-Forwarded-Host") != null;
    String host = forwarded ? request.getServerName() : host(request.getLocalAddr());
    int port = forwarded ? request.getServerPort() : request.getLocalPort();
    boolean usual = port == (request.isSecure() ? 443 : 80);
    return request.getScheme() + "://" + host + (usual ? "" : ":" + port);
  }

  private static String host(String address) {
    try {
      return InetAddress.getByName(address) instanceof Inet6Address ? "[" + address + "]" : address;
    } catch (UnknownHostException e) {
      throw new IllegalStateException("a connection has no address", e);
    }
  }

  /** The path under which the service is reached, without a slash at its end; mostly empty. */
  public String path() {
    return path;
  }

  /** Whether people reach the service over TLS only. */
  public boolean isSecure() {
    return isSecure;
  }

  /** Whether cookies of this request must never travel without TLS. */
  public boolean isSecure(HttpServletRequest request) {
    return isSecure || request.isSecure();
  }
}
