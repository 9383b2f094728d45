package longthread.service.intake;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;

import io.micrometer.core.instrument.simple.SimpleMeterRegistry;
import java.util.Map;
import longthread.service.log.EventLog;
import org.junit.jupiter.api.Test;
import org.springframework.core.env.MapPropertySource;
import org.springframework.core.env.StandardEnvironment;
import org.springframework.core.env.SystemEnvironmentPropertySource;

class TopicReaderTest {
  private static Map<String, Object> settings(
      Map<String, Object> variables, Map<String, Object> properties) {
    var environment = new StandardEnvironment();
    environment.getPropertySources().addFirst(new MapPropertySource("given", properties));
    environment
        .getPropertySources()
        .replace(
            "systemEnvironment",
            new SystemEnvironmentPropertySource("systemEnvironment", variables));
    return new TopicReader(mock(EventLog.class), environment, new SimpleMeterRegistry(), 1_000)
        .settings();
  }

  @Test
  void whatever_a_cluster_asks_for_is_passed_on_as_variable_or_property() {
    Map<String, Object> settings =
        settings(
            Map.of("LONGTHREAD_KAFKA_CLIENT_SECURITY_PROTOCOL", "SASL_SSL"),
            Map.of(
                "longthread.kafka.bootstrap", "k:9092",
                "longthread.kafka.client.sasl.mechanism", "PLAIN"));
    assertThat(settings)
        .containsEntry("bootstrap.servers", "k:9092")
        .containsEntry("security.protocol", "SASL_SSL")
        .containsEntry("sasl.mechanism", "PLAIN");
  }

  @Test
  void offsets_are_never_committed_by_themselves_whoever_asks_for_it() {
    assertThat(settings(Map.of("LONGTHREAD_KAFKA_CLIENT_ENABLE_AUTO_COMMIT", "true"), Map.of()))
        .containsEntry("enable.auto.commit", "false")
        .containsEntry("group.id", "longthread");
  }
}
