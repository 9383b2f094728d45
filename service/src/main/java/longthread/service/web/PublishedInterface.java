package longthread.service.web;

import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.Operation;
import io.swagger.v3.oas.models.PathItem;
import io.swagger.v3.oas.models.headers.Header;
import io.swagger.v3.oas.models.media.Content;
import io.swagger.v3.oas.models.media.MediaType;
import io.swagger.v3.oas.models.media.Schema;
import io.swagger.v3.oas.models.parameters.Parameter;
import io.swagger.v3.oas.models.responses.ApiResponse;
import io.swagger.v3.oas.models.security.SecurityRequirement;
import io.swagger.v3.oas.models.servers.Server;
import io.swagger.v3.oas.models.tags.Tag;
import java.io.IOException;
import java.io.InputStream;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.springdoc.core.customizers.GlobalOpenApiCustomizer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.io.ClassPathResource;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * What the published description says of all calls alike: what their parameters mean, which problem
 * documents they answer with, the events of the open lineage standard as types.
 *
 * <p>The words stand in {@code interface/parameters.json} and {@code interface/schemas.json}.
 */
@Configuration
class PublishedInterface {
  private static final List<String> OPEN = List.of("/api/v1/session", "/api/v1/openapi.json");

  private final JsonMapper json;

  PublishedInterface(JsonMapper json) {
    this.json = json;
  }

  @Bean
  GlobalOpenApiCustomizer describeCalls(PublicAddress address) {
    return description -> {
      description.setServers(
          List.of(new Server().url(address.path() + "/").description("This service")));
      description.getPaths().keySet().removeIf(path -> path.endsWith("/")); // other spellings
      describeTypes(description);
      var groups = new TreeSet<String>();
      JsonNode words = resource("interface/parameters.json");
      description
          .getPaths()
          .forEach(
              (path, item) ->
                  item.readOperationsMap()
                      .forEach(
                          (method, operation) -> {
                            String group = group(path);
                            groups.add(group);
                            operation.setTags(List.of(group));
                            describe(operation, words);
                            addProblems(path, method, operation);
                          }));
      description.setTags(
          groups.stream()
              .map(g -> new Tag().name(g).description(words.path("groups").path(g).asString("")))
              .toList());
    };
  }

  private JsonNode resource(String name) {
    try (InputStream in = new ClassPathResource(name).getInputStream()) {
      return json.readTree(in);
    } catch (IOException e) {
      throw new IllegalStateException(name + " belongs to the service and is missing", e);
    }
  }

  /** The problem document, and the events of the standard as far as the service reads them. */
  private void describeTypes(OpenAPI description) {
    resource("interface/schemas.json")
        .properties()
        .forEach(
            type ->
                description
                    .getComponents()
                    .addSchemas(
                        type.getKey(),
                        io.swagger.v3.core.util.Json31.mapper()
                            .convertValue(plain(type.getValue()), Schema.class)));
  }

  /** The same value as maps and lists, which the description's own mapper can read. */
  private Object plain(JsonNode value) {
    return json.convertValue(value, Object.class);
  }

  /** The calls of one part of the work, named by the first word of their path. */
  private static String group(String path) {
    return switch (path.split("/")[3]) {
      case "lineage", "intake" -> "intake";
      case "search", "browse", "asset", "fold", "parts", "history", "checks", "statistics" ->
          "catalog";
      case "graph",
          "views",
          "thread",
          "reader",
          "job",
          "sql",
          "schemas",
          "export",
          "compare",
          "moments" ->
          "lineage";
      case "impact", "causes", "planned-changes", "planned-change", "snapshot" ->
          "impact and causes";
      case "runs", "run", "recall", "proof" -> "runs";
      case "session", "accounts", "groups", "grants", "keys", "audit" -> "access";
      case "workspace", "workspaces" -> "workspaces";
      case "statements", "recorded", "edits", "terms", "term", "suggestions", "rules" -> "by hand";
      case "connections", "readers" -> "sources";
      case "coverage", "blind-spots" -> "coverage";
      case "copies", "over-merged" -> "catalog";
      case "labels", "label", "leaks", "preview" -> "labels and leaks";
      case "today",
          "notices",
          "watches",
          "deliveries",
          "share-links",
          "tickets",
          "trail",
          "followed" ->
          "health and notices";
      default -> "operation";
    };
  }

  private static void describe(Operation operation, JsonNode words) {
    if (operation.getParameters() == null) {
      return;
    }
    for (Parameter parameter : operation.getParameters()) {
      JsonNode own = words.path("calls").path(operation.getOperationId()).path(parameter.getName());
      JsonNode said = own.isMissingNode() ? words.path("all").path(parameter.getName()) : own;
      if (said.isMissingNode()) {
        throw new IllegalStateException(
            "interface/parameters.json does not say what '"
                + parameter.getName()
                + "' of "
                + operation.getOperationId()
                + " is");
      }
      parameter.setDescription(said.path("what").asString(""));
      describeValues(parameter, said);
    }
  }

  private static void describeValues(Parameter parameter, JsonNode said) {
    Schema<?> schema = parameter.getSchema();
    boolean isNumber =
        schema != null && schema.getTypes() != null && schema.getTypes().contains("integer");
    if (said.has("example")) {
      String example = said.path("example").asString("");
      parameter.setExample(isNumber ? Integer.valueOf(example) : example);
    }
    if (said.has("words")) {
      var all = new ArrayList<String>();
      said.path("words").forEach(word -> all.add(word.asString("")));
      // A schema of its own: parameters of one type share theirs.
      var own = new Schema<String>();
      own.setTypes(Set.of("string"));
      own.setEnum(all);
      own.setDefault(schema == null ? null : (String) schema.getDefault());
      parameter.setSchema(own);
    }
  }

  private static void addProblems(String path, PathItem.HttpMethod method, Operation operation) {
    var problems = new TreeMap<String, String>();
    boolean isOpen = OPEN.contains(path);
    boolean changes = method != PathItem.HttpMethod.GET;
    problems.put("400", "A parameter or the body cannot be used");
    if (!isOpen || changes) {
      problems.put("401", "No valid key or session came with the request");
      problems.put("403", "The key or account may not do that");
    }
    if (has(operation, "ref")
        || has(operation, "from")
        || path.contains("{")
        || has(operation, "id")) {
      problems.put("404", "Nothing has that name or number; nearest names are listed");
    }
    if (has(operation, "ref") || has(operation, "from")) {
      problems.put("409", "The name is that of several; they are listed as candidates");
    }
    if (has(operation, "cursor")) {
      problems.put("410", "The cursor has expired");
    }
    if (operation.getRequestBody() != null || path.startsWith("/api/v1/lineage")) {
      problems.put("408", "The body arrives too slowly");
      problems.put("413", "The body is too large");
      problems.put("415", "The body is of a media type that the call does not take");
    }
    if (path.startsWith("/api/v1/session")) {
      problems.put("429", "Too many sign-ins failed; Retry-After says when to try again");
    }
    problems.put("503", "The service is busy, or its database unreachable; try again later");
    var type = new Schema<>();
    type.set$ref("#/components/schemas/Problem");
    problems.forEach(
        (status, what) -> {
          var answer =
              new ApiResponse()
                  .description(what)
                  .content(
                      new Content()
                          .addMediaType("application/problem+json", new MediaType().schema(type)));
          if (status.equals("503") || status.equals("429")) {
            answer.addHeaderObject(
                "Retry-After",
                new Header()
                    .description("After how many seconds to try again")
                    .schema(new Schema<Integer>().type("integer").types(Set.of("integer"))));
          }
          operation.getResponses().putIfAbsent(status, answer);
        });
    operation
        .getResponses()
        .forEach(
            (status, answer) -> {
              if (status.startsWith("2") && "OK".equals(answer.getDescription())) {
                answer.setDescription(operation.getSummary());
              }
            });
    if (isOpen) {
      operation.setSecurity(List.of());
    } else if (operation.getSecurity() == null) {
      operation.setSecurity(List.of(new SecurityRequirement().addList("key")));
    }
  }

  private static boolean has(Operation operation, String parameter) {
    return operation.getParameters() != null
        && operation.getParameters().stream().anyMatch(p -> p.getName().equals(parameter));
  }
}
