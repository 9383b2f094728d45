package longthread.client;

import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import longthread.core.impact.BadStepException;
import longthread.core.impact.Impact;
import longthread.core.snapshot.BadSnapshotException;
import longthread.core.snapshot.Snapshot;
import longthread.core.snapshot.SnapshotAsset;
import longthread.core.snapshot.UnknownNameException;
import org.jspecify.annotations.Nullable;

/** Says what changes do by a snapshot, without a service. */
final class SnapshotJudge implements GateJudge {
  private final Snapshot snapshot;
  private final Path file;

  private SnapshotJudge(Snapshot snapshot, Path file) {
    this.snapshot = snapshot;
    this.file = file;
  }

  /** Reads a snapshot. */
  static SnapshotJudge of(Path file) throws IOException, BadSnapshotException {
    try (InputStream in = new BufferedInputStream(Files.newInputStream(file))) {
      return new SnapshotJudge(Snapshot.read(in), file);
    }
  }

  @Override
  public @Nullable String known(String name) {
    try {
      return snapshot.resolve(name).full();
    } catch (UnknownNameException e) {
      if (e.isAmbiguous()) {
        throw notFound(e);
      }
      return null;
    }
  }

  private static ServiceException notFound(UnknownNameException e) {
    return new ServiceException(ServiceException.NOT_FOUND, String.valueOf(e.getMessage()));
  }

  @Override
  public Answer judge(List<GateReport.Step> steps) throws NoLineageException {
    try {
      Snapshot.Judged judged =
          snapshot.judge(
              steps.stream()
                  .map(
                      step ->
                          new Snapshot.Step(
                              step.change(), step.ref(), step.to().isEmpty() ? null : step.to()))
                  .toList());
      var items = new ArrayList<Touched>();
      judged.items().forEach(item -> items.add(touched(item)));
      return new Answer(judged.refs(), items, items.size());
    } catch (UnknownNameException e) {
      throw notFound(e);
    } catch (BadStepException e) {
      if (e.reason() == BadStepException.Reason.NO_LINEAGE) {
        throw new NoLineageException(String.valueOf(e.getMessage()));
      }
      throw new ServiceException(ServiceException.REFUSED, String.valueOf(e.getMessage()));
    }
  }

  private Touched touched(Impact.Item item) {
    SnapshotAsset asset = snapshot.asset(item.ref());
    return new Touched(
        item.ref(),
        asset == null ? "dataset" : asset.kind(),
        asset == null ? item.ref() : asset.shown(),
        snapshot.systemOf(item.ref()),
        item.headline().word(),
        item.certainty().word(),
        item.hops(),
        asset == null ? List.of() : asset.owners(),
        asset == null ? List.of() : asset.labels(),
        snapshot.thread(item),
        snapshot.head().console()
            + "/asset?ref="
            + URLEncoder.encode(item.ref(), StandardCharsets.UTF_8));
  }

  @Override
  public boolean isRead(String asset) {
    return snapshot.isRead(asset);
  }

  @Override
  public List<String> notes() {
    return List.of(
        "judged by the snapshot "
            + file.getFileName()
            + ", taken "
            + Printer.time(snapshot.head().takenAt())
            + "; what came in later is not in it");
  }
}
