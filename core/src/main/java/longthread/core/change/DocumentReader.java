package longthread.core.change;

import com.networknt.schema.ExecutionContext;
import com.networknt.schema.Schema;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Objects;
import java.util.regex.Pattern;
import longthread.core.json.CanonicalJson;
import longthread.core.json.SchemaWords;
import org.yaml.snakeyaml.DumperOptions;
import org.yaml.snakeyaml.LoaderOptions;
import org.yaml.snakeyaml.Yaml;
import org.yaml.snakeyaml.constructor.SafeConstructor;
import org.yaml.snakeyaml.error.YAMLException;
import org.yaml.snakeyaml.nodes.Tag;
import org.yaml.snakeyaml.representer.Representer;
import org.yaml.snakeyaml.resolver.Resolver;
import tools.jackson.databind.JsonNode;

/**
 * Reads documents that people write, as YAML or JSON, and checks them by a JSON Schema.
 *
 * @see "YAML 1.1; JSON Schema draft 2020-12"
 */
public final class DocumentReader {
  private static final int MAX_CHARACTERS = 1 << 20;
  private static final int DEEPEST = 30;
  private static final int MAX_FAULTS = 30;

  private final String text;
  private final JsonNode whole;
  private final Schema schema;

  /** A reader by the schema that lies beside a class under a name. */
  public DocumentReader(Class<?> beside, String name) {
    try (InputStream in = beside.getResourceAsStream(name)) {
      text = new String(Objects.requireNonNull(in).readAllBytes(), StandardCharsets.UTF_8);
    } catch (IOException e) {
      throw new UncheckedIOException("the schema is part of the program", e);
    }
    whole = CanonicalJson.MAPPER.readTree(text);
    schema = SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12).getSchema(whole);
  }

  /** The JSON Schema, as text. */
  public String schema() {
    return text;
  }

  /**
   * Returns the document.
   *
   * @throws BadDocumentException with each place that is wrong
   */
  public JsonNode read(String document) throws BadDocumentException {
    JsonNode root = parsed(document);
    List<String> faults =
        schema.validate(root, DocumentReader::withFormats).stream()
            .map(
                fault -> {
                  String place = fault.getInstanceLocation().toString();
                  return (place.isEmpty() ? "" : place + ": ") + SchemaWords.of(fault, whole);
                })
            .distinct()
            .limit(MAX_FAULTS)
            .toList();
    if (!faults.isEmpty()) {
      throw new BadDocumentException(faults);
    }
    return root;
  }

  private static void withFormats(ExecutionContext context) {
    context.executionConfig(config -> config.formatAssertionsEnabled(true));
  }

  private static JsonNode parsed(String document) throws BadDocumentException {
    var options = new LoaderOptions();
    options.setAllowDuplicateKeys(false);
    options.setMaxAliasesForCollections(20);
    options.setNestingDepthLimit(DEEPEST);
    options.setCodePointLimit(MAX_CHARACTERS);
    var yaml =
        new Yaml(
            new SafeConstructor(options),
            new Representer(new DumperOptions()),
            new DumperOptions(),
            options,
            new PlainWords());
    try {
      Object value = yaml.load(document); // JSON is YAML too
      return CanonicalJson.MAPPER.valueToTree(value);
    } catch (YAMLException e) {
      throw new BadDocumentException(
          List.of("this is no YAML and no JSON: " + String.valueOf(e.getMessage()).strip()));
    }
  }

  /**
   * Leaves times as they are written, so that no time zone is lost, and takes only true and false
   * for what they are: in YAML 1.1 "on", "no" and the like are too.
   */
  private static final class PlainWords extends Resolver {
    private static final Pattern TRUE_OR_FALSE = Pattern.compile("true|false");

    @Override
    public void addImplicitResolver(Tag tag, Pattern pattern, String first, int limit) {
      if (tag.equals(Tag.BOOL)) {
        super.addImplicitResolver(tag, TRUE_OR_FALSE, "tf", limit);
      } else if (!tag.equals(Tag.TIMESTAMP)) {
        super.addImplicitResolver(tag, pattern, first, limit);
      }
    }
  }
}
