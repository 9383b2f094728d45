package longthread.service.intake;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.UUID;
import java.util.function.BooleanSupplier;
import java.util.zip.GZIPOutputStream;
import longthread.service.testing.Api;
import longthread.service.testing.ChildService;
import longthread.service.testing.Events;
import longthread.service.testing.TestPostgres;
import org.apache.kafka.clients.admin.Admin;
import org.apache.kafka.clients.producer.KafkaProducer;
import org.apache.kafka.clients.producer.ProducerRecord;
import org.apache.kafka.common.serialization.ByteArraySerializer;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.springframework.kafka.test.EmbeddedKafkaKraftBroker;
import tools.jackson.databind.JsonNode;

/** Events that come as files and over a topic: the same log, the same rules. */
class OtherWaysInTest {
  private static String event(String name) {
    return Events.dataset("2026-03-01T00:00:00Z", "ways", name, Events.schema("a"))
        .replace('\'', '"');
  }

  private static void await(String what, BooleanSupplier condition) throws InterruptedException {
    for (int tries = 0; tries < 300; tries++) {
      if (condition.getAsBoolean()) {
        return;
      }
      Thread.sleep(100);
    }
    throw new AssertionError(what + " did not come about");
  }

  private static boolean has(Api api, String name) {
    return api.get("/api/v1/asset", "ref", "ways/" + name).status() == 200;
  }

  @Test
  void files_and_topics_are_taken_once_each_with_what_was_refused_told(@TempDir Path folder)
      throws IOException, InterruptedException {
    var broker = new EmbeddedKafkaKraftBroker(1, 2, "lineage");
    broker.afterPropertiesSet();
    try (var postgres = new TestPostgres()) {
      postgres.createDatabase("ways");
      String[] settings = {
        "--longthread.files.folder=" + folder,
        "--longthread.files.every=300ms",
        "--longthread.files.rest=1s",
        "--longthread.kafka.bootstrap=" + broker.getBrokersAsString()
      };
      try (var service = new ChildService(postgres, "ways", settings)) {
        files(folder, service.api());
        topic(broker.getBrokersAsString(), service.api());
      }
      // Another start takes nothing twice.
      try (var again = new ChildService(postgres, "ways", settings)) {
        send(broker.getBrokersAsString(), event("afterwards"));
        await("the event after the restart", () -> has(again.api(), "afterwards"));
        JsonNode intake = again.api().get("/api/v1/intake").json();
        assertThat(intake.path("duplicates").longValue()).isZero();
        assertThat(again.api().get("/api/v1/intake/files").json().path("files")).hasSize(3);
      }
    } finally {
      broker.destroy();
    }
  }

  private static void files(Path folder, Api api) throws IOException, InterruptedException {
    Files.writeString(folder.resolve("night.ndjson"), event("f1") + "\n\nnot json\n" + event("f2"));
    Files.writeString(folder.resolve("half.tmp"), "not looked at");
    try (OutputStream out =
        new GZIPOutputStream(Files.newOutputStream(folder.resolve("list.json.gz")))) {
      out.write(("[" + event("f3") + "," + event("f4") + "]").getBytes(StandardCharsets.UTF_8));
    }
    Path secret = Files.createTempDirectory("outside").resolve("secret.json");
    Files.writeString(secret, "only for the service");
    Files.createSymbolicLink(folder.resolve("link.json"), secret);
    Files.createSymbolicLink(folder.resolve("way-out"), secret.getParent());
    Files.createDirectory(folder.resolve("checks"));
    Files.writeString(
        folder.resolve("checks/pickup_20260301.json"),
        "{\"checked\":{\"namespace\":\"ways\",\"name\":\"f1\"},\"at\":\"2026-03-01T04:00:00Z\","
            + "\"checks\":[{\"name\":\"litres are given\",\"success\":false,\"column\":\"a\"}]}");
    await("all files", () -> has(api, "f4") && has(api, "f2"));
    await(
        "the check",
        () -> api.get("/api/v1/checks", "ref", "ways/f1").body().contains("litres are given"));
    String check = api.get("/api/v1/checks", "ref", "ways/f1").body();
    assertThat(check).contains("\"status\":\"fail\"").contains("@files/pickup");
    JsonNode files = api.get("/api/v1/intake/files").json();
    assertThat(files.path("files")).hasSize(3);
    JsonNode refused =
        api.get("/api/v1/intake/refused", "source", "file night.ndjson").json().path("refusals");
    assertThat(refused).hasSize(1);
    assertThat(api.get("/api/v1/intake/refused").body()).doesNotContain("link.json", "secret");
    assertThat(refused.path(0).path("problem").stringValue()).isEqualTo("not-json");
  }

  private static void send(String brokers, String... values) {
    Map<String, Object> settings =
        Map.of(
            "bootstrap.servers",
            brokers,
            "key.serializer",
            ByteArraySerializer.class,
            "value.serializer",
            ByteArraySerializer.class);
    try (var producer = new KafkaProducer<byte[], byte[]>(settings)) {
      for (String value : values) {
        byte[] key = UUID.randomUUID().toString().getBytes(StandardCharsets.UTF_8);
        producer.send(new ProducerRecord<>("lineage", key, value.getBytes(StandardCharsets.UTF_8)));
      }
    }
  }

  private static void topic(String brokers, Api api) throws InterruptedException {
    String[] values = new String[60];
    for (int i = 0; i < values.length; i++) {
      values[i] = i == 30 ? "poison" : event("k" + i);
    }
    send(brokers, values);
    await("all records", () -> has(api, "k59") && has(api, "k0") && has(api, "k31"));
    await(
        "the poison's refusal",
        () ->
            api.get("/api/v1/intake/refused")
                .json()
                .path("refusals")
                .toString()
                .contains("topic "));
    try (Admin admin = Admin.create(Map.<String, Object>of("bootstrap.servers", brokers))) {
      await(
          "committed offsets",
          () -> {
            try {
              long committed =
                  admin
                      .listConsumerGroupOffsets("longthread")
                      .partitionsToOffsetAndMetadata()
                      .get()
                      .values()
                      .stream()
                      .mapToLong(offset -> offset.offset())
                      .sum();
              return committed == 60;
            } catch (java.util.concurrent.ExecutionException | InterruptedException e) {
              return false;
            }
          });
    }
  }
}
