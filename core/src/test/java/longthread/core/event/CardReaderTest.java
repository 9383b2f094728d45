package longthread.core.event;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.asset.Kind;
import longthread.core.json.CanonicalJson;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

class CardReaderTest {
  private static final DatasetName TABLE = new DatasetName("postgres://h:1", "db.core.orders");

  /** Facets written as {@code key: json} with single quotes. */
  private static Map<String, JsonNode> facets(String... facets) {
    var map = new HashMap<String, JsonNode>();
    for (String facet : facets) {
      int colon = facet.indexOf(':');
      map.put(
          facet.substring(0, colon),
          CanonicalJson.MAPPER.readTree(facet.substring(colon + 1).replace('\'', '"')));
    }
    return map;
  }

  private static Card table(String... facets) {
    return CardReader.dataset(TABLE, facets(facets), null, true, false);
  }

  @Test
  void an_address_that_is_no_web_address_is_no_link() {
    for (String url :
        List.of(
            "javascript:alert(1)",
            "data:text/html,x",
            "vbscript:x",
            "//evil.example/x",
            "/api/v1/keys",
            " https://t/1",
            "https:///x",
            "jAvAsCrIpT:x",
            "ftp://t/1")) {
      assertThat(table("longthread_page:{'title':'Orders','url':'" + url + "'}").url())
          .as(url)
          .isNull();
    }
    assertThat(table("longthread_page:{'title':'Orders','url':'HTTPS://t/1?a=b#c'}").url())
        .isEqualTo("HTTPS://t/1?a=b#c");
  }

  @Test
  void a_table_is_browsed_by_its_name_and_called_by_its_schema_and_name() {
    Card card = table();
    assertThat(card.kind()).isEqualTo(Kind.TABLE);
    assertThat(card.container()).containsExactly("db", "core");
    assertThat(card.name()).isEqualTo("orders");
    assertThat(card.shown()).isEqualTo("core.orders");
  }

  @Test
  void a_title_a_place_and_an_address_come_from_its_page() {
    Card card = table("longthread_page:{'title':'Orders','container':'Shop','url':'https://t/1'}");
    assertThat(card.shown()).isEqualTo("Orders");
    assertThat(card.container()).containsExactly("Shop");
    assertThat(card.url()).isEqualTo("https://t/1");
  }

  @Test
  void a_hierarchy_says_where_it_is_browsed() {
    Card card =
        table(
            "hierarchy:{'hierarchy':[{'type':'DB','name':'x'},{'type':'S','name':'y'},{'type':'T','name':'orders'}]}");
    assertThat(card.container()).containsExactly("x", "y");
  }

  @Test
  void nested_fields_become_dotted_columns_and_dots_in_names_stay_apart() {
    Card card =
        table(
            "schema:{'fields':[{'name':'a.b','type':'int'},{'name':'s','type':'struct','fields':[{'name':'x','description':'inner'}]},{'type':'nameless'}]}",
            "tags:{'tags':[{'key':'personal','value':'true','field':'s.x'},{'key':'tier','value':'gold'}]}");
    assertThat(card.columns()).extracting(Card.Column::path).containsExactly("a%2Eb", "s", "s.x");
    assertThat(card.columns().get(2).tags()).extracting(Card.Tag::word).containsExactly("personal");
    assertThat(card.tags()).extracting(Card.Tag::word).containsExactly("tier:gold");
  }

  @Test
  void a_deleted_facet_says_nothing() {
    assertThat(table("documentation:{'_deleted':true,'description':'old'}").description()).isNull();
  }

  @Test
  void facets_of_unexpected_forms_do_no_harm() {
    Card card =
        table(
            "schema:{'fields':7}",
            "tags:'odd'",
            "ownership:{'owners':[7,{'name':''}]}",
            "symlinks:{'identifiers':[{'namespace':'n'}]}",
            "documentation:{'description':7}");
    assertThat(card.columns()).isEmpty();
    assertThat(card.owners()).isEmpty();
    assertThat(card.symlinks()).isEmpty();
    assertThat(card.description()).isNull();
  }

  @Test
  void symlinks_tell_a_catalogs_table_from_a_place() {
    Card card =
        table(
            "symlinks:{'identifiers':[{'namespace':'hive://m','name':'a.b','type':'TABLE'},{'namespace':'s3://x','name':'p','type':'LOCATION'}]}");
    assertThat(card.symlinks())
        .containsExactly(
            new Card.Symlink("hive://m/a.b", true), new Card.Symlink("s3://x/p", false));
  }

  @Test
  void a_task_stands_in_its_pipeline_with_its_code() {
    Card card =
        CardReader.job(
            new JobName("n", "flow.task"),
            facets(
                "sql:{'query':'select 1','dialect':'postgres'}",
                "sourceCodeLocation:{'type':'git','url':'https://g/1'}"),
            true,
            false);
    assertThat(card.kind()).isEqualTo(Kind.JOB);
    assertThat(card.container()).isEqualTo(List.of("flow"));
    assertThat(card.shown()).isEqualTo("flow.task");
    assertThat(card.code()).isEqualTo(new Card.Code("select 1", "sql", "postgres", "https://g/1"));
    assertThat(card.url()).isEqualTo("https://g/1");
  }

  @Test
  void whoever_starts_other_runs_is_a_pipeline() {
    assertThat(CardReader.job(new JobName("n", "flow"), Map.of(), true, true).kind())
        .isEqualTo(Kind.PIPELINE);
    assertThat(
            CardReader.job(
                    new JobName("n", "flow"), facets("jobType:{'jobType':'DAG'}"), true, false)
                .kind())
        .isEqualTo(Kind.PIPELINE);
  }

  @ParameterizedTest
  @CsvSource(
      nullValues = "-",
      value = {
        "postgres://h, -, TABLE",
        "postgres://h, VIEW, VIEW",
        "postgres://h, MATERIALIZED_VIEW, VIEW",
        "n, EXTERNAL_TABLE, TABLE",
        "kafka://h:1, -, TOPIC",
        "n, STREAM, TOPIC",
        "s3://b, -, FILE",
        "file, -, FILE",
        "n, -, DATASET",
        "n, report, REPORT",
        "n, JOB, DATASET",
        "n, whatever, DATASET",
      })
  void the_kind_comes_from_the_type_else_from_the_namespace(
      String namespace, String type, Kind kind) {
    assertThat(Kind.ofDataset(new DatasetName(namespace, "x"), type)).isEqualTo(kind);
  }

  @Test
  void a_card_reads_back_from_its_stored_form() {
    Card card =
        table(
            "schema:{'fields':[{'name':'a','type':'int'}]}",
            "ownership:{'owners':[{'name':'team:x <a@b.c>'}]}");
    String stored = CanonicalJson.MAPPER.writeValueAsString(card);
    assertThat(CanonicalJson.MAPPER.readValue(stored, Card.class)).isEqualTo(card);
  }
}
