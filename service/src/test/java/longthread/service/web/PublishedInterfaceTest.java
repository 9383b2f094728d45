package longthread.service.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.json.JsonMapper;

@ExtendWith(RunningService.Extension.class)
class PublishedInterfaceTest {
  private static final JsonMapper JSON =
      JsonMapper.builder().enable(SerializationFeature.INDENT_OUTPUT).build();

  private JsonNode live;

  @BeforeEach
  void readDescription(RunningService service) {
    live = service.api().get("/api/v1/openapi.json").json();
  }

  @Test
  void it_is_the_one_the_console_is_built_from() throws IOException {
    Path file = RunningService.checkout().resolve("console/openapi.json");
    Path now = RunningService.checkout().resolve("service/target/openapi.json");
    Files.writeString(now, JSON.writeValueAsString(live));
    JsonNode built = JSON.readTree(Files.readString(file, StandardCharsets.UTF_8));
    assertThat(live.path("openapi").stringValue("")).startsWith("3.1");
    assertThat(live.equals(built)) // the two are too long to be shown
        .as("the interface changed: copy %s to %s and build anew", now, file)
        .isTrue();
  }

  @Test
  void every_call_says_what_it_does_takes_and_answers() {
    var ids = new HashSet<String>();
    var missing = new ArrayList<String>();
    live.path("paths")
        .properties()
        .forEach(
            path ->
                path.getValue()
                    .properties()
                    .forEach(
                        call -> {
                          JsonNode operation = call.getValue();
                          String id = operation.path("operationId").asString("");
                          String name = call.getKey() + " " + path.getKey();
                          if (id.isEmpty() || id.contains("_") || !ids.add(id)) {
                            missing.add(name + ": a stable id of its own, not " + id);
                          }
                          if (operation.path("summary").asString("").isEmpty()) {
                            missing.add(name + ": summary");
                          }
                          for (JsonNode parameter : operation.path("parameters")) {
                            if (parameter.path("description").asString("").isEmpty()) {
                              missing.add(name + ": what is " + parameter.path("name"));
                            }
                          }
                          JsonNode answers = operation.path("responses");
                          if (!answers.has("400")
                              || !answers.has("503")
                              || !answers.path("400").toString().contains("schemas/Problem")) {
                            missing.add(name + ": problems");
                          }
                        }));
    assertThat(missing).isEmpty();
    assertThat(ids).hasSizeGreaterThan(40).contains("getImpact", "sendEvent");
  }

  @Test
  void every_list_takes_a_limit_and_a_cursor() {
    var missing = new ArrayList<String>();
    live.path("paths")
        .properties()
        .forEach(
            path -> {
              JsonNode get = path.getValue().path("get");
              String id = get.path("operationId").asString("");
              String parameters = get.path("parameters").toString();
              if (id.startsWith("list") || id.equals("search") || id.equals("browse")) {
                if (!parameters.contains("\"limit\"") || !parameters.contains("\"cursor\"")) {
                  missing.add(id);
                }
              }
            });
    assertThat(missing).isEmpty();
  }

  @Test
  void events_have_types_with_an_example() {
    JsonNode body =
        live.path("paths").path("/api/v1/lineage").path("post").path("requestBody").path("content");
    assertThat(body.toString()).contains("#/components/schemas/Event");
    JsonNode run = live.path("components").path("schemas").path("RunEvent");
    assertThat(run.path("examples").get(0).path("eventType").asString("")).isEqualTo("COMPLETE");
    assertThat(run.path("required").toString()).contains("eventTime", "job");
  }
}
