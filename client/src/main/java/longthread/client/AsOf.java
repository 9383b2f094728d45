package longthread.client;

import java.util.Map;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** The moment as of which a question is asked. */
final class AsOf {
  @Option(
      names = "--as-of",
      paramLabel = "TIME",
      description = "As it stood then: 2031-05-01T02:00:00Z, or a day, at its end.")
  private @Nullable String asOf;

  void addTo(Map<String, @Nullable Object> parameters) {
    parameters.put("asOf", Json.until(asOf));
  }
}
