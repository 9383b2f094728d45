package longthread.core.exact;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.UUID;
import longthread.core.history.RunState;
import org.jspecify.annotations.Nullable;

/** Runs for tests, with minutes for times and letters for names. */
final class Runs implements RunLog {
  private static final Instant ZERO = Instant.parse("2031-05-01T00:00:00Z");

  private final List<Execution> all;
  private final List<String[]> views = new ArrayList<>();

  Runs(Collection<Execution> all) {
    this.all = List.copyOf(all);
  }

  /** The asset {@code view} shows the asset {@code shown} as it is. */
  Runs view(String view, String shown) {
    views.add(new String[] {view, shown});
    return this;
  }

  static Instant minute(int minute) {
    return ZERO.plusSeconds(60L * minute);
  }

  static Builder run(String name, int start, int end) {
    return new Builder(name, start, end);
  }

  static String name(Execution run) {
    return run.job().substring(1);
  }

  /** A run in the making; it completed unless said otherwise. */
  static final class Builder {
    private final String name;
    private final int start;
    private final int end;
    private RunState state = RunState.COMPLETED;
    private final List<Execution.Read> reads = new ArrayList<>();
    private final List<Execution.Write> writes = new ArrayList<>();

    private Builder(String name, int start, int end) {
      this.name = name;
      this.start = start;
      this.end = end;
    }

    Builder state(RunState other) {
      state = other;
      return this;
    }

    Builder reads(String asset, Part part) {
      return reads(asset, part, null);
    }

    Builder reads(String asset, Part part, @Nullable String version) {
      reads.add(new Execution.Read(asset, part, version));
      return this;
    }

    Builder writes(String asset, WriteMode mode, Part part) {
      return writes(asset, mode, part, null, null);
    }

    Builder writes(
        String asset, WriteMode mode, Part part, @Nullable String version, @Nullable Long rows) {
      writes.add(new Execution.Write(asset, part, mode, version, rows));
      return this;
    }

    Execution done() {
      boolean ended = state != RunState.RUNNING && state != RunState.UNKNOWN;
      return new Execution(
          UUID.nameUUIDFromBytes(name.getBytes(java.nio.charset.StandardCharsets.UTF_8)),
          "@" + name,
          minute(start),
          ended ? minute(end) : null,
          state,
          1,
          reads,
          writes);
    }
  }

  @Override
  public List<Execution> writing(String asset, Reading reading) {
    return all.stream()
        .filter(run -> run.writes().stream().anyMatch(w -> w.asset().equals(asset)))
        .toList();
  }

  @Override
  public List<Execution> reading(String asset, Instant after) {
    return all.stream()
        .filter(run -> run.reads().stream().anyMatch(r -> r.asset().equals(asset)))
        .toList();
  }

  @Override
  public List<String> shownBy(String asset, Instant at) {
    return views.stream().filter(v -> v[0].equals(asset)).map(v -> v[1]).toList();
  }

  @Override
  public List<String> showing(String asset, Instant at) {
    return views.stream().filter(v -> v[1].equals(asset)).map(v -> v[0]).toList();
  }

  @Override
  public boolean isCut(String asset) {
    return false;
  }
}
