package longthread.client;

import java.util.Map;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** Where the service is, and who calls it. */
final class Connection {
  @Option(
      names = "--url",
      paramLabel = "URL",
      description = "Address of the service; else LONGTHREAD_URL, else the demo of this checkout.")
  private @Nullable String url;

  @Option(
      names = "--token",
      paramLabel = "KEY",
      description = "The bearer key; else LONGTHREAD_TOKEN.")
  private @Nullable String token;

  ServiceClient service() {
    Map<String, String> environment = Main.environment();
    String address = url != null ? url : environment.getOrDefault("LONGTHREAD_URL", "");
    if (address.isEmpty()) {
      throw new ServiceException(
          ServiceException.NOT_REACHABLE,
          "no service is named; start one with ./longthread demo, or name it with --url or"
              + " LONGTHREAD_URL");
    }
    return new ServiceClient(
        address, token != null ? token : environment.getOrDefault("LONGTHREAD_TOKEN", ""));
  }
}
