package longthread.core.json;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class CanonicalJsonTest {
  private static JsonNode json(String text) {
    return CanonicalJson.MAPPER.readTree(text);
  }

  @Test
  void members_are_sorted_at_every_depth_and_lists_keep_their_order() {
    assertThat(CanonicalJson.text(json("{\"b\":[{\"d\":1,\"c\":2},3],\"a\":null}")))
        .isEqualTo("{\"a\":null,\"b\":[{\"c\":2,\"d\":1},3]}");
    assertThat(CanonicalJson.text(json("{\"o\":{},\"l\":[]}"))).isEqualTo("{\"l\":[],\"o\":{}}");
  }

  @Test
  void numbers_stay_as_they_were_spelled() {
    assertThat(CanonicalJson.text(json("[1.50,1.5,100,12345678901234567890,0.1]")))
        .isEqualTo("[1.50,1.5,100,12345678901234567890,0.1]");
  }

  @Test
  void the_digest_is_the_well_known_one() {
    assertThat(CanonicalJson.digest(""))
        .isEqualTo("e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
  }

  @Property
  void any_text_reads_back(@ForAll("texts") List<String> texts) {
    var node = CanonicalJson.MAPPER.createObjectNode();
    texts.forEach(text -> node.put(text, text));
    assertThat(json(CanonicalJson.text(node))).isEqualTo(node);
  }

  @Property
  void the_order_of_members_makes_no_difference(@ForAll("texts") List<String> keys) {
    var one = CanonicalJson.MAPPER.createObjectNode();
    keys.forEach(key -> one.put(key, 1));
    var reversed = new java.util.ArrayList<>(keys);
    Collections.reverse(reversed);
    var other = CanonicalJson.MAPPER.createObjectNode();
    reversed.forEach(key -> other.put(key, 1));
    assertThat(CanonicalJson.text(one)).isEqualTo(CanonicalJson.text(other));
  }

  @Property(tries = 200)
  void different_values_have_different_texts(
      @ForAll("texts") List<String> a, @ForAll("texts") List<String> b) {
    Map<String, String> first = new TreeMap<>();
    a.forEach(text -> first.put(text, text));
    Map<String, String> second = new TreeMap<>();
    b.forEach(text -> second.put(text, text));
    var one = CanonicalJson.MAPPER.createObjectNode();
    first.forEach(one::put);
    var other = CanonicalJson.MAPPER.createObjectNode();
    second.forEach(other::put);
    assertThat(CanonicalJson.text(one).equals(CanonicalJson.text(other)))
        .isEqualTo(first.equals(second));
  }

  @Provide
  Arbitrary<List<String>> texts() {
    return Arbitraries.strings()
        .withChars("ab\"\\/\n\t\u0000\u001f\u00e9\u2028{}[]:,")
        .ofMaxLength(6)
        .list()
        .ofMaxSize(5);
  }
}
