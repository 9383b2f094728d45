package longthread.client;

import java.util.List;
import java.util.function.Predicate;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;

/** The one option by which a finding becomes exit code 1, for pipelines. */
final class FailOn {
  @Option(
      names = "--fail-on",
      paramLabel = "WORD",
      split = ",",
      description = "End with exit code 1 if the answer has this; several are given with commas.")
  private List<String> words = List.of();

  /** Checks the words before the service is called. */
  void check(CommandSpec spec, String... allowed) {
    words.forEach(word -> ClosedWords.check(spec, "--fail-on", word, List.of(allowed)));
  }

  /** The exit code: that of a finding if any of the words given is found. */
  int exitCode(Predicate<String> isFound) {
    return words.stream().anyMatch(isFound) ? ServiceException.FINDING : 0;
  }
}
