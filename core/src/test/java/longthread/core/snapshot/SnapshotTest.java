package longthread.core.snapshot;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.zip.ZipEntry;
import java.util.zip.ZipOutputStream;
import longthread.core.graph.Graphs;
import longthread.core.graph.LineageGraph;
import longthread.core.impact.BadStepException;
import longthread.core.impact.Impact;
import org.junit.jupiter.api.Test;

class SnapshotTest {
  private static final Instant TAKEN = Instant.parse("2026-05-01T02:00:00Z");

  private static final LineageGraph GRAPH =
      Graphs.graph(
          "pg/db.core.farm#name IDENTITY pg/db.mart.pay#farm by @etl/pay.build",
          "pg/db.core.farm#size IDENTITY pg/db.mart.pay#size by @etl/pay.build",
          "pg/db.mart.pay#farm IDENTITY bi/Payout#farm by @bi/payout",
          "pg/db.old.farm#name IDENTITY pg/db.mart.old#farm by @etl/old.build",
          "pg/db.mart.pay#size IDENTITY only/linked#size by @etl/more");

  private static SnapshotAsset asset(String ref, String kind, String system, String... outputs) {
    return new SnapshotAsset(
        ref,
        List.of(ref),
        kind,
        ref,
        system,
        List.of("Payout office"),
        List.of("personal"),
        ref.contains("old"),
        List.of(outputs));
  }

  private static byte[] written(int form) throws IOException {
    List<SnapshotAsset> assets =
        List.of(
            asset("pg/db.core.farm", "table", "Barn"),
            asset("pg/db.old.farm", "table", "Barn"),
            asset("pg/db.mart.pay", "table", "Barn"),
            asset("pg/db.mart.old", "table", "Barn"),
            asset("pg/db.alone.table", "table", "Barn"),
            asset("bi/Payout", "report", "Sightglass"),
            asset("@etl/pay.build", "job", "Furrow", "pg/db.mart.pay"));
    List<List<Snapshot.Column>> columns =
        List.of(
            List.of(new Snapshot.Column("name", "text"), new Snapshot.Column("size", "bigint")),
            List.of(new Snapshot.Column("name", null)),
            List.of(),
            List.of(),
            List.of(new Snapshot.Column("x", "int")),
            List.of(),
            List.of());
    var bytes = new ByteArrayOutputStream();
    new SnapshotWriter(bytes)
        .write(new Snapshot.Head(form, TAKEN, 7, "http://console"), assets, columns, GRAPH);
    return bytes.toByteArray();
  }

  private static Snapshot read(byte[] bytes) throws BadSnapshotException {
    return Snapshot.read(new ByteArrayInputStream(bytes));
  }

  private static List<String> judged(Snapshot snapshot, String change, String of, String to)
      throws Exception {
    return snapshot.judge(List.of(new Snapshot.Step(change, of, to))).items().stream()
        .map(Impact.Item::toString)
        .toList();
  }

  @Test
  void what_was_written_judges_changes() throws Exception {
    Snapshot snapshot = read(written(Snapshot.FORM));
    assertThat(snapshot.head().takenAt()).isEqualTo(TAKEN);
    assertThat(judged(snapshot, "drop", "core.farm#NAME", null))
        .contains("@etl/pay.build {BREAKS=CERTAIN}")
        .anyMatch(item -> item.startsWith("pg/db.mart.pay {GOES_STALE=CERTAIN"));
    assertThat(judged(snapshot, "delay", "@etl/pay.build", null))
        .anyMatch(item -> item.startsWith("pg/db.mart.pay {GOES_STALE=CERTAIN"));
    assertThat(judged(snapshot, "delay", "system:furrow", null))
        .isEqualTo(judged(snapshot, "delay", "@etl/pay.build", null));
    assertThat(judged(snapshot, "retype", "core.farm#size", "int"))
        .as("narrower, so that it may break")
        .isNotEqualTo(judged(snapshot, "retype", "core.farm#size", "bigint"));
    assertThat(judged(snapshot, "drop", "only/linked#size", null)).isEmpty();
  }

  @Test
  void names_mean_what_they_mean_to_the_service() throws Exception {
    Snapshot snapshot = read(written(Snapshot.FORM));
    assertThat(snapshot.resolve("farm").full())
        .as("the live one of two")
        .isEqualTo("pg/db.core.farm");
    assertThat(snapshot.resolve(" Core.Farm#Size ").full()).isEqualTo("pg/db.core.farm#size");
    assertThat(snapshot.resolve("pay#farm").full())
        .as("a column that only links know")
        .isEqualTo("pg/db.mart.pay#farm");
    assertThatThrownBy(() -> snapshot.resolve("nothing")).isInstanceOf(UnknownNameException.class);
    assertThatThrownBy(() -> snapshot.resolve("core.farm#wool"))
        .hasMessageContaining("no column 'wool'");
    assertThatThrownBy(
            () -> snapshot.judge(List.of(new Snapshot.Step("drop", "alone.table", null))))
        .isInstanceOf(BadStepException.class)
        .hasMessageContaining("feeds nothing");
    assertThatThrownBy(() -> snapshot.judge(List.of(new Snapshot.Step("lose", "farm", null))))
        .hasMessageContaining("'lose' is not a change");
    assertThat(snapshot.isRead("pg/db.core.farm")).isTrue();
    assertThat(snapshot.isRead("bi/Payout")).isFalse();
  }

  @Test
  void what_is_damaged_or_of_another_form_is_refused() throws Exception {
    assertThatThrownBy(() -> read(written(Snapshot.FORM + 1)))
        .isInstanceOf(BadSnapshotException.class)
        .hasMessageContaining("of form 2");
    assertThatThrownBy(() -> read("no zip at all".getBytes(StandardCharsets.UTF_8)))
        .hasMessageContaining("it is no snapshot");
    var foreign = new ByteArrayOutputStream();
    try (var zip = new ZipOutputStream(foreign)) {
      zip.putNextEntry(new ZipEntry("letter.txt"));
    }
    assertThatThrownBy(() -> read(foreign.toByteArray())).hasMessageContaining("no snapshot");
    byte[] whole = written(Snapshot.FORM);
    for (int length = 1; length < whole.length - 400; length += 97) {
      byte[] cut = Arrays.copyOf(whole, length);
      assertThatThrownBy(() -> read(cut))
          .as("cut after " + length)
          .isInstanceOf(BadSnapshotException.class);
    }
  }
}
