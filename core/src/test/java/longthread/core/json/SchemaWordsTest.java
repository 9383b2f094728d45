package longthread.core.json;

import static org.assertj.core.api.Assertions.assertThat;

import com.networknt.schema.Schema;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

class SchemaWordsTest {
  private static final JsonNode SCHEMA =
      CanonicalJson.MAPPER.readTree(
          """
          {"type": "object", "required": ["title"], "additionalProperties": false,
           "properties": {
             "title": {"type": "string", "minLength": 1, "maxLength": 5},
             "kind": {"enum": ["table", "view"]},
             "format": {"const": "form/1"},
             "day": {"type": "string", "format": "date"},
             "at": {"type": "string", "format": "date-time"},
             "count": {"type": "integer", "minimum": 3},
             "both": {"type": ["string", "number"]},
             "steps": {"type": "array", "minItems": 2, "items": {"$ref": "#/$defs/step"}}},
           "$defs": {"step": {"type": "object", "additionalProperties": false,
             "properties": {"of": {"type": "string"}, "to": {"type": "string"}}}}}
          """);
  private static final Schema READER =
      SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12).getSchema(SCHEMA);

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      value = {
        "null|it is empty; a set of names and values is expected",
        "['a']|'[\"a\"]' is a list; a set of names and values is expected",
        "{}|'title' is missing",
        "{'title':''}|it is empty",
        "{'title':'longer'}|it is too long; 5 at most are taken",
        "{'title':'t','kind':'veiw'}|'veiw' is not known here; it is one of table, view",
        "{'title':'t','kind':7}|'7' is not known here; it is one of table, view",
        "{'title':'t','format':'form/2'}|'form/2' is not known here; it is 'form/1'",
        "{'title':'t','day':'tomorrow'}|'tomorrow' is no day as 2031-05-31",
        "{'title':'t','at':'2031-05-31'}|'2031-05-31' is no time with an offset, as 2031-05-31T06:00:00+02:00",
        "{'title':'t','count':'3'}|'3' is text; a whole number is expected",
        "{'title':'t','count':null}|it is empty; a whole number is expected",
        "{'title':'t','both':true}|'true' is true or false; text or a number is expected",
        "{'title':'t','steps':[{}]}|it is too short; 2 at least are needed",
        "{'title':'t','steps':[{},{'form':'x'}]}|'form' is not known here; there are of, to",
        "{'title':'t','Kind':'view'}|'Kind' is not known here; there are title, kind, format, day, at, count, both, steps",
      })
  void a_fault_is_said_in_words(String document, String expected) {
    JsonNode root = CanonicalJson.MAPPER.readTree(document.replace('\'', '"'));
    assertThat(
            READER.validate(
                root, context -> context.executionConfig(c -> c.formatAssertionsEnabled(true))))
        .extracting(error -> SchemaWords.of(error, SCHEMA))
        .containsExactly(expected);
  }

  @ParameterizedTest
  @CsvSource({"1", "2"})
  void what_has_no_words_here_is_said_by_the_library(int count) {
    JsonNode root = CanonicalJson.MAPPER.readTree("{\"title\":\"t\",\"count\":" + count + "}");
    assertThat(READER.validate(root))
        .extracting(error -> SchemaWords.of(error, SCHEMA))
        .singleElement()
        .asString()
        .contains("3");
  }
}
