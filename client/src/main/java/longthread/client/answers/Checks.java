package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** The checks of an asset with their results. */
public record Checks(List<CheckLine> checks) {
  public Checks {
    checks = checks == null ? List.of() : List.copyOf(checks);
  }

  /** A check and its results, newest first. */
  public record CheckLine(String name, @Nullable String column, List<Result> results) {
    public CheckLine {
      results = results == null ? List.of() : List.copyOf(results);
    }
  }

  /** One result. */
  public record Result(Instant at, String status, @Nullable String detail) {}
}
