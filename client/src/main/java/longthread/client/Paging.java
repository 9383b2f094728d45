package longthread.client;

import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** How much of a list to print. */
final class Paging {
  @Option(
      names = "--limit",
      paramLabel = "N",
      description = "How many to list; a screenful without it.")
  private @Nullable Integer limit;

  int orElse(int usual) {
    return limit == null ? usual : limit;
  }
}
