package longthread.service.testing;

import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.util.concurrent.ThreadLocalRandom;

/**
 * Ports for servers that are started a while later. They lie below those that the system gives to
 * connections, of which tests make many: one of these could be taken by then.
 */
final class FreePort {
  private static final int FIRST = 20_000;
  private static final int LAST = 32_000;
  private static final int TRIES = 100;

  private FreePort() {}

  static int next() {
    for (int left = TRIES; left > 0; left--) {
      int port = ThreadLocalRandom.current().nextInt(FIRST, LAST);
      try (var socket = new ServerSocket(port, 1, InetAddress.getLoopbackAddress())) {
        return socket.getLocalPort();
      } catch (IOException e) {
        // taken; another is tried
      }
    }
    throw new IllegalStateException("no free port between " + FIRST + " and " + LAST);
  }
}
