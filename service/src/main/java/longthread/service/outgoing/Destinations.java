package longthread.service.outgoing;

import java.math.BigInteger;
import java.net.Inet4Address;
import java.net.InetAddress;
import java.net.URI;
import java.net.UnknownHostException;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.jspecify.annotations.Nullable;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/**
 * Which machines the service may call: public addresses, and those that the setting {@code
 * longthread.outgoing.allowed} lists. Loopback, private, link-local, shared, documentation,
 * multicast and reserved addresses are refused unless they are listed.
 *
 * <p>An entry is a host name, an address or a range such as {@code 10.1.0.0/16}, each with a port
 * behind it where only that one may be called: {@code tray.example:8443}, {@code [fd00::1]:443}.
 *
 * @see "RFC 6890, Special-Purpose IP Address Registries"
 */
@Component
public final class Destinations {
  private static final List<Range> SPECIAL =
      List.of(
              "0.0.0.0/8",
              "10.0.0.0/8",
              "100.64.0.0/10",
              "127.0.0.0/8",
              "169.254.0.0/16",
              "172.16.0.0/12",
              "192.0.0.0/24",
              "192.0.2.0/24",
              "192.88.99.0/24",
              "192.168.0.0/16",
              "198.18.0.0/15",
              "198.51.100.0/24",
              "203.0.113.0/24",
              "224.0.0.0/3",
              "::/96",
              "64:ff9b::/96",
              "64:ff9b:1::/48",
              "100::/64",
              "2001::/23",
              "2001:db8::/32",
              "2002::/16",
              "fc00::/7",
              "fe80::/10",
              "fec0::/10",
              "ff00::/8")
          .stream()
          .map(Range::of)
          .toList();

  /** The addresses whose first {@code bits} bits are those of {@code first}. */
  private record Range(byte[] first, int bits) {
    static Range of(String text) {
      String[] parts = text.split("/", 2);
      try {
        byte[] first = InetAddress.getByName(parts[0]).getAddress();
        return new Range(first, parts.length == 1 ? first.length * 8 : Integer.parseInt(parts[1]));
      } catch (UnknownHostException | NumberFormatException e) {
        throw new IllegalArgumentException("'" + text + "' is not a range of addresses", e);
      }
    }

    boolean holds(InetAddress address) {
      byte[] own = address.getAddress();
      if (own.length != first.length) {
        return false;
      }
      int rest = own.length * 8 - bits;
      return new BigInteger(1, own)
          .shiftRight(rest)
          .equals(new BigInteger(1, first).shiftRight(rest));
    }
  }

  /**
   * An entry of the setting.
   *
   * @param host in lower case; empty for a range
   * @param port 0 for all
   */
  private record Allowed(String host, @Nullable Range range, int port) {}

  private final List<Allowed> allowed = new ArrayList<>();

  Destinations(@Value("${longthread.outgoing.allowed:}") List<String> entries) {
    entries.stream().map(String::strip).filter(one -> !one.isEmpty()).forEach(this::allow);
  }

  private void allow(String entry) {
    String host = entry;
    int port = 0;
    int colon = entry.lastIndexOf(':');
    boolean hasPort = colon > 0 && (entry.indexOf(':') == colon || entry.charAt(colon - 1) == ']');
    if (hasPort) {
      host = entry.substring(0, colon);
      try {
        port = Integer.parseInt(entry.substring(colon + 1));
      } catch (NumberFormatException e) {
        throw new IllegalArgumentException(
            "longthread.outgoing.allowed: '" + entry + "' has no port behind the colon", e);
      }
    }
    host = bare(host);
    boolean isAddress = host.indexOf(':') >= 0 || host.matches("[0-9.]+(/[0-9]+)?");
    allowed.add(isAddress ? new Allowed("", Range.of(host), port) : new Allowed(host, null, port));
  }

  private static String bare(String host) {
    String plain = host.replace("[", "").replace("]", "").toLowerCase(Locale.ROOT);
    return plain.endsWith(".") ? plain.substring(0, plain.length() - 1) : plain;
  }

  /** Whether a name that resolved to an address may be called at a port. */
  boolean mayCall(String host, InetAddress address, int port) {
    InetAddress plain = unmapped(address);
    String name = bare(host);
    for (Allowed one : allowed) {
      boolean same = one.range() == null ? one.host().equals(name) : one.range().holds(plain);
      if (same && (one.port() == 0 || one.port() == port)) {
        return true;
      }
    }
    return SPECIAL.stream().noneMatch(range -> range.holds(plain));
  }

  /** Java hands out mapped addresses as what they map already; other forms are looked through. */
  private static InetAddress unmapped(InetAddress address) {
    byte[] bytes = address.getAddress();
    boolean mapped = !(address instanceof Inet4Address);
    for (int i = 0; i < 12 && mapped; i++) {
      mapped = bytes[i] == (i < 10 ? 0 : (byte) 0xff);
    }
    try {
      return mapped
          ? InetAddress.getByAddress(java.util.Arrays.copyOfRange(bytes, 12, 16))
          : address;
    } catch (UnknownHostException e) {
      throw new IllegalStateException("four bytes are an address", e);
    }
  }

  /**
   * Why an address cannot be one to call, as far as that shows before it is called; null if it can.
   *
   * <p>A name is resolved again at each call: what is allowed now may be refused then.
   */
  public @Nullable String fault(String address) {
    URI uri;
    try {
      uri = URI.create(address);
    } catch (IllegalArgumentException e) {
      return "it is not an address; give one that begins with https:// or http://";
    }
    boolean web =
        "http".equalsIgnoreCase(uri.getScheme()) || "https".equalsIgnoreCase(uri.getScheme());
    if (!web || uri.getHost() == null || uri.getUserInfo() != null) {
      return "give one that begins with https:// or http://, with a host and without a user";
    }
    if (uri.getPort() == 0 || uri.getPort() > 65_535) {
      return "port " + uri.getPort() + " cannot be called; give one from 1 to 65535";
    }
    try {
      for (InetAddress one : InetAddress.getAllByName(bare(uri.getHost()))) {
        if (!mayCall(uri.getHost(), one, portOf(uri))) {
          return "the service may not call this machine; whoever runs it can list it in"
              + " LONGTHREAD_OUTGOING_ALLOWED";
        }
      }
    } catch (UnknownHostException e) {
      return null; // it may be there when it is called
    }
    return null;
  }

  static int portOf(URI uri) {
    return uri.getPort() > 0 ? uri.getPort() : "https".equalsIgnoreCase(uri.getScheme()) ? 443 : 80;
  }
}
