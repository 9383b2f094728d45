package longthread.client.answers;

import java.util.List;

/** Runs, newest first. */
public record Runs(List<RunRow> runs) {
  public Runs {
    runs = runs == null ? List.of() : List.copyOf(runs);
  }
}
