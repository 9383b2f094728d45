package longthread.service.intake;

import io.micrometer.core.instrument.Gauge;
import io.micrometer.core.instrument.MeterRegistry;
import jakarta.annotation.PreDestroy;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.service.log.EventLog;
import org.apache.kafka.clients.consumer.ConsumerRecord;
import org.apache.kafka.common.TopicPartition;
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
import org.springframework.kafka.core.DefaultKafkaConsumerFactory;
import org.springframework.kafka.core.MicrometerConsumerListener;
import org.springframework.kafka.listener.BatchMessageListener;
import org.springframework.kafka.listener.ContainerProperties;
import org.springframework.kafka.listener.DefaultErrorHandler;
import org.springframework.kafka.listener.KafkaMessageListenerContainer;
import org.springframework.stereotype.Component;
import org.springframework.util.backoff.FixedBackOff;

/**
 * Takes events from topics of a Kafka cluster, one event a record, into the same log by the same
 * rules. An offset is committed only when what lies before it is durable; so a record may be read
 * twice after a crash, which the log recognises as a duplicate, and none is ever lost. A record
 * that cannot be read is refused and passed.
 *
 * <p>It runs where {@code longthread.kafka.bootstrap} is set. All replicas form one consumer group.
 */
@Component
class TopicReader {
  private static final Logger LOG = LoggerFactory.getLogger(TopicReader.class);
  private static final long RETRY_MILLIS = 1_000;
  private static final long POLL_MILLIS = 500;

  private final EventLog log;
  private final Environment environment;
  private final MeterRegistry meters;
  private final long largestEvent;
  private @Nullable KafkaMessageListenerContainer<byte[], byte[]> container;

  TopicReader(
      EventLog log,
      Environment environment,
      MeterRegistry meters,
      @Value("${longthread.intake.largest-event}") long largestEvent) {
    this.log = log;
    this.environment = environment;
    this.meters = meters;
    this.largestEvent = largestEvent;
  }

  @EventListener(ApplicationReadyEvent.class)
  void start() {
    if (setting("bootstrap", "").isBlank()) {
      return;
    }
    String[] topics =
        Arrays.stream(setting("topics", "lineage").split(","))
            .map(String::strip)
            .toArray(String[]::new);
    var properties = new ContainerProperties(topics);
    properties.setMessageListener((BatchMessageListener<byte[], byte[]>) this::keep);
    properties.setAckMode(ContainerProperties.AckMode.BATCH); // only when keep has returned
    properties.setPollTimeout(POLL_MILLIS);
    properties.setMissingTopicsFatal(false);
    var consumers = new DefaultKafkaConsumerFactory<byte[], byte[]>(settings());
    consumers.addListener(new MicrometerConsumerListener<>(meters)); // lag and rates of the client
    container = new KafkaMessageListenerContainer<>(consumers, properties);
    Gauge.builder("longthread.kafka.assigned", this, TopicReader::assigned)
        .description("Partitions of the topics that this replica reads now")
        .register(meters);
    // While the log does not take a batch, the container keeps its place in the group and retries.
    container.setCommonErrorHandler(
        new DefaultErrorHandler(new FixedBackOff(RETRY_MILLIS, FixedBackOff.UNLIMITED_ATTEMPTS)));
    container.setBeanName("topic-reader");
    container.start();
    LOG.info("events are taken from the topics {}", String.join(", ", topics));
  }

  @PreDestroy
  void stop() {
    if (container != null) {
      container.stop();
    }
  }

  private int assigned() {
    return container == null || container.getAssignedPartitions() == null
        ? 0
        : container.getAssignedPartitions().size();
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

  /** Returns once the records are durable; throws if the log does not take them now. */
  private void keep(List<ConsumerRecord<byte[], byte[]>> records) {
    var byPartition = new LinkedHashMap<TopicPartition, List<EventLog.Item>>();
    for (ConsumerRecord<byte[], byte[]> record : records) {
      if (record.value() != null) { // a null value only deletes a key of a compacted topic
        byPartition
            .computeIfAbsent(
                new TopicPartition(record.topic(), record.partition()), p -> new ArrayList<>())
            .add(log.item(record.value(), largestEvent));
      }
    }
    byPartition.forEach((partition, items) -> log.append(items, "topic " + partition));
  }
}
