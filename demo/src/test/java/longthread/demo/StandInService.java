package longthread.demo;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;

/**
 * What the launcher takes for the service in its own tests: ready at once, or ended before it is.
 * It has its settings from the environment, as the service has.
 */
final class StandInService {
  private StandInService() {}

  public static void main(String[] args) throws IOException {
    if (System.getProperty("spring.context.exit") != null) {
      return; // the run in which classes are noted for fast starts
    }
    if (System.getenv("LONGTHREAD_ADDRESS") == null) {
      System.err.println("APPLICATION FAILED: the stand-in is set to fail");
      System.exit(3);
    }
    var at =
        new InetSocketAddress(
            System.getenv("LONGTHREAD_ADDRESS"),
            Integer.parseInt(System.getenv("LONGTHREAD_PORT")));
    HttpServer server = HttpServer.create(at, 0);
    server.createContext(
        "/",
        exchange -> {
          exchange.sendResponseHeaders(200, -1);
          exchange.close();
        });
    server.createContext("/end", exchange -> Runtime.getRuntime().halt(9));
    server.createContext(
        "/memory",
        exchange -> {
          byte[] much = new byte[Integer.MAX_VALUE - 16]; // more than the heap has
          exchange.sendResponseHeaders(much.length > 0 ? 200 : 500, -1);
        });
    server.start();
  }
}
