package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.junit.jupiter.api.Test;

class LabelCommandTest extends AgainstServer {
  private static final String PERSONAL =
      "{\"id\":\"personal\",\"title\":\"Personal\",\"definition\":\"Of a person.\",\"level\":3,"
          + "\"words\":[\"personal\",\"pii\"],\"set\":1,\"inherited\":2,\"perhaps\":0,"
          + "\"overAggregation\":false,\"overConditional\":true}";

  @Test
  void labels_are_listed_with_how_far_they_came() {
    answers = Map.of("/api/v1/labels", "{\"items\":[" + PERSONAL + "]}");
    Said said = run("label", "list");
    assertThat(said.code()).isZero();
    assertThat(said.out().lines().toList().get(1))
        .matches("personal +3 +1 +2 +0 +copies, decisions +personal, pii");
  }

  @Test
  void what_has_a_label_is_shown_with_where_it_came_from() {
    answers =
        Map.of(
            "/api/v1/label",
            "{\"label\":"
                + PERSONAL
                + ",\"total\":3,\"items\":[{\"name\":\"farm#iban\",\"kind\":\"table\",\"how\":\"set\","
                + "\"setBy\":\"pii by steward\",\"thread\":[],\"owners\":[{\"name\":\"Ada\"}]},"
                + "{\"name\":\"list#account\",\"kind\":\"view\",\"how\":\"inherited\","
                + "\"fromName\":\"farm#iban\",\"thread\":[{},{}],\"owners\":[]}]}");
    Said said = run("label", "show", "personal", "--how", "inherited", "--limit", "2");
    assertThat(asked.get(0).line()).contains("how=inherited").contains("limit=2");
    assertThat(said.out())
        .contains("Personal: Of a person.")
        .containsPattern("farm#iban +table +set +pii by steward +0 +Ada")
        .containsPattern("list#account +view +inherited +farm#iban +2 +-");
    assertThat(said.err()).contains("1 more");
    assertThat(run("label", "show", "personal", "--csv").out()).startsWith("\"WHAT\",\"KIND\"");
  }

  @Test
  void a_wrong_word_is_a_wrong_call() {
    Said said = run("label", "show", "personal", "--how", "given");
    assertThat(said.code()).isEqualTo(2);
    assertThat(said.err()).contains("set, inherited, perhaps");
    assertThat(asked).isEmpty();
    assertThat(run("label").code()).isEqualTo(2);
  }
}
