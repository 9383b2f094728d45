package longthread.client;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;

@Command(
    name = "snapshot",
    description = "Take the catalog as one file, by which the gate judges without the service.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread snapshot nightly.zip",
      "  longthread gate change.yaml --snapshot nightly.zip"
    })
final class SnapshotCommand extends Output implements Callable<Integer> {
  @Parameters(paramLabel = "FILE", description = "Where to write; replaced when it is whole.")
  private @Nullable Path file;

  @Override
  public Integer call() {
    Path target = Objects.requireNonNull(file).toAbsolutePath();
    Path fresh = target.resolveSibling(target.getFileName() + ".new");
    try {
      Files.write(fresh, service().bytes("/api/v1/snapshot", Map.of(), "application/zip"));
      Files.move(fresh, target, StandardCopyOption.REPLACE_EXISTING);
      note("written to " + file + ", " + Files.size(target) / 1024 + " KB");
    } catch (IOException e) {
      throw new ParameterException(
          spec.commandLine(), "Cannot write " + file + ": " + FileWords.why(e));
    }
    return 0;
  }
}
