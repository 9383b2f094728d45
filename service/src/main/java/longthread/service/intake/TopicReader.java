package longthread.service.intake;

import jakarta.annotation.PreDestroy;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import longthread.service.web.ProblemException;
import org.apache.kafka.clients.consumer.ConsumerRecord;
import org.apache.kafka.clients.consumer.ConsumerRecords;
import org.apache.kafka.clients.consumer.KafkaConsumer;
import org.apache.kafka.clients.consumer.OffsetAndMetadata;
import org.apache.kafka.common.KafkaException;
import org.apache.kafka.common.TopicPartition;
import org.apache.kafka.common.errors.InterruptException;
import org.apache.kafka.common.errors.WakeupException;
import org.apache.kafka.common.serialization.ByteArrayDeserializer;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.boot.context.properties.bind.Bindable;
import org.springframework.boot.context.properties.bind.Binder;
import org.springframework.context.event.EventListener;
import org.springframework.core.env.Environment;
import org.springframework.stereotype.Component;

/**
 * Takes events from topics of a Kafka cluster, one event a record, into the same log by the same
 * rules. An offset is committed only when what lies before it is durable; so a record may be read
 * twice after a crash, which the log tells as a duplicate, and none is ever lost. A record that
 * cannot be read is refused and passed.
 *
 * <p>It runs where {@code longthread.kafka.bootstrap} is set. All replicas form one consumer group.
 */
@Component
class TopicReader {
  private static final Logger LOG = LoggerFactory.getLogger(TopicReader.class);
  private static final Duration POLL = Duration.ofMillis(500);
  private static final long PAUSE_MILLIS = 1_000;

  private final EventLog log;
  private final Environment environment;
  private final long largestEvent;
  private final Thread thread = new Thread(this::readForEver, "topic-reader");
  private volatile @Nullable KafkaConsumer<byte[], byte[]> consumer;
  private volatile boolean stopping;

  TopicReader(
      EventLog log,
      Environment environment,
      @Value("${longthread.intake.largest-event}") long largestEvent) {
    this.log = log;
    this.environment = environment;
    this.largestEvent = largestEvent;
  }

  @EventListener(ApplicationReadyEvent.class)
  void start() {
    if (!setting("bootstrap", "").isBlank()) {
      thread.setDaemon(true);
      thread.start();
    }
  }

  @PreDestroy
  void stop() throws InterruptedException {
    stopping = true;
    KafkaConsumer<byte[], byte[]> open = consumer;
    if (open != null) {
      open.wakeup();
    }
    thread.join(5_000);
  }

  private String setting(String name, String otherwise) {
    return environment.getProperty("longthread.kafka." + name, otherwise);
  }

  /** The settings of the client that reads. */
  Map<String, Object> settings() {
    var settings = new HashMap<String, Object>();
    settings.put("auto.offset.reset", "earliest");
    settings.put("max.poll.records", "500");
    settings.put("session.timeout.ms", "10000"); // another replica goes on soon after one dies
    settings.put("heartbeat.interval.ms", "3000");
    // Whatever else a cluster asks for, such as TLS and credentials, is passed on as it is named.
    settings.putAll(
        Binder.get(environment)
            .bind("longthread.kafka.client", Bindable.mapOf(String.class, String.class))
            .orElse(Map.of()));
    settings.put("bootstrap.servers", setting("bootstrap", ""));
    settings.put("group.id", setting("group", "longthread"));
    settings.put("enable.auto.commit", "false"); // only what is durable is committed
    settings.put("key.deserializer", ByteArrayDeserializer.class.getName());
    settings.put("value.deserializer", ByteArrayDeserializer.class.getName());
    return settings;
  }

  private void readForEver() {
    List<String> topics =
        Arrays.stream(setting("topics", "lineage").split(",")).map(String::strip).toList();
    while (!stopping) {
      try (var open = new KafkaConsumer<byte[], byte[]>(settings())) {
        consumer = open;
        open.subscribe(topics);
        LOG.info("events are taken from the topics {}", topics);
        while (!stopping) {
          read(open);
        }
      } catch (WakeupException | InterruptException e) {
        LOG.debug("the topic reader stops");
      } catch (KafkaException e) {
        LOG.warn("the topics cannot be read now: {}", e.getMessage());
        pause();
      } finally {
        consumer = null;
      }
    }
  }

  private void read(KafkaConsumer<byte[], byte[]> open) {
    ConsumerRecords<byte[], byte[]> records = open.poll(POLL);
    for (TopicPartition partition : records.partitions()) {
      List<ConsumerRecord<byte[], byte[]>> some = records.records(partition);
      keep(open, partition, some);
      long next = some.get(some.size() - 1).offset() + 1;
      open.commitSync(Map.of(partition, new OffsetAndMetadata(next)));
    }
  }

  /** Returns once the records are durable, however long the database is away. */
  private void keep(
      KafkaConsumer<byte[], byte[]> open,
      TopicPartition partition,
      List<ConsumerRecord<byte[], byte[]>> records) {
    var items = new ArrayList<EventLog.Item>();
    for (ConsumerRecord<byte[], byte[]> record : records) {
      if (record.value() != null) { // a null value only deletes a key of a compacted topic
        items.add(EventLog.Item.of(record.value(), largestEvent));
      }
    }
    while (!items.isEmpty()) {
      try {
        log.append(items, "topic " + partition);
        return;
      } catch (ProblemException e) {
        if (stopping) {
          throw new WakeupException();
        }
        LOG.warn("records of {} wait: {}", partition, e.getMessage());
        // Paused, so that the group knows this member to be alive while it waits.
        open.pause(open.assignment());
        pause();
        open.poll(Duration.ZERO);
        open.resume(open.assignment());
      }
    }
  }

  private void pause() {
    try {
      Thread.sleep(PAUSE_MILLIS);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      stopping = true;
    }
  }
}
