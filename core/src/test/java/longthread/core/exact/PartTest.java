package longthread.core.exact;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.BitSet;
import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.json.JsonMapper;

class PartTest {
  private static Part part(String json) {
    return PartReader.read(new JsonMapper().readTree(json.replace('\'', '"')));
  }

  private static String compare(String field, String sign, String value) {
    return "{'type':'compare','left':{'type':'field','field':'"
        + field
        + "'},'right':{'type':'literal','value':'"
        + value
        + "'},'comparison':'"
        + sign
        + "'}";
  }

  private static String both(String left, String operator, String right) {
    return "{'type':'binary','left':"
        + left
        + ",'right':"
        + right
        + ",'operator':'"
        + operator
        + "'}";
  }

  /** Whether the days 1 to 6 are in a part, as 0 and 1. */
  private static String days(Part part) {
    var all = new StringBuilder();
    for (int day = 1; day <= 6; day++) {
      all.append(part.overlap(Part.where("day", "" + day)).isEmpty() ? 0 : 1);
    }
    return all.toString();
  }

  @ParameterizedTest
  @CsvSource({
    "EQUAL,001000",
    "NOT_EQUAL,110111",
    "LESS_THAN,110000",
    "LESS_EQUAL_THAN,111000",
    "GREATER_THAN,000111",
    "GREATER_EQUAL_THAN,001111"
  })
  void comparisons_bound_a_field(String sign, String expected) {
    assertThat(days(part(compare("Day", sign, "3")))).isEqualTo(expected);
  }

  @Test
  void conditions_are_joined() {
    String from = compare("day", "GREATER_EQUAL_THAN", "2");
    String until = compare("day", "LESS_THAN", "4");
    String five = compare("day", "EQUAL", "5");
    assertThat(days(part(both(from, "AND", until)))).isEqualTo("011000");
    assertThat(days(part(both(both(from, "AND", until), "OR", five)))).isEqualTo("011010");
    assertThat(part(both(from, "AND", until)).exact()).isTrue();
  }

  @Test
  void a_literal_may_stand_on_the_left() {
    Part part =
        part(
            "{'type':'compare','left':{'type':'literal','value':3},'right':{'type':'field',"
                + "'field':'day'},'comparison':'LESS_THAN'}");
    assertThat(days(part)).isEqualTo("000111");
  }

  @Test
  void partitions_and_addresses_are_boxes() {
    Part part =
        part(
            "{'type':'partition','partitions':[{'identifier':'x','dimensions':{'day':1,'region':"
                + "'north'}},{'identifier':'y','dimensions':{'day':2}}]}");
    assertThat(part.boxes()).hasSize(2);
    assertThat(part.overlap(Part.where("region", "south"))).hasSize(1);
    assertThat(part("{'type':'location','locations':['a','b']}").boxes()).hasSize(2);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "{'type':'regex','pattern':'x'}",
        "{'type':'compare','comparison':'LIKE','left':{'field':'a'},'right':{'value':'b'}}",
        "{'type':'compare','comparison':'EQUAL','left':{'field':'a'},'right':{'field':'b'}}",
        "{'type':'location','locations':[]}",
        "{'type':'partition','partitions':[{}]}",
        "{'type':'binary','operator':'XOR','left':{},'right':{}}",
      })
  void what_is_not_understood_is_never_taken_for_the_whole(String json) {
    assertThat(part(json).exact()).isFalse();
  }

  @Test
  void a_part_is_said_in_short_words() {
    assertThat(Part.WHOLE.words()).isEmpty();
    assertThat(Part.SOMETHING.words()).isEqualTo("a part that was not reported");
    assertThat(Part.ofPartition("day=2031-05-01/hour=3").words())
        .isEqualTo("day = 2031-05-01 and hour = 3");
    Part days = Part.where("day", "1").or(Part.where("day", "2"));
    assertThat(days.words()).isEqualTo("day = 1, 2");
    for (int day = 3; day < 10; day++) {
      days = days.or(Part.where("day", "" + day));
    }
    assertThat(days.words()).isEqualTo("day = 1 … 9 (9 values)");
    assertThat(part(compare("day", "LESS_THAN", "3")).words()).isEqualTo("day < 3");
    assertThat(Part.ofPartition("20310501").words()).isEqualTo("partition = 20310501");
  }

  @Test
  void numbers_are_compared_by_size_and_days_as_texts() {
    assertThat(Part.VALUES.compare("9", "10")).isNegative();
    assertThat(Part.VALUES.compare("2031-05-09", "2031-05-10")).isNegative();
    assertThat(Part.VALUES.compare("b", "a")).isPositive();
  }

  @Property(tries = 300)
  void a_piece_is_in_a_part_if_its_value_is(
      @ForAll @IntRange(min = 1, max = 9) int low,
      @ForAll @IntRange(min = 1, max = 9) int high,
      @ForAll @IntRange(min = 1, max = 9) int other,
      @ForAll boolean included) {
    Part range = Part.where("day", new Part.Range("" + low, included, "" + high, !included));
    boolean empty = low > high || low == high; // one end is always left out
    Part value = Part.where("day", "" + other);
    Cells cells = java.util.Objects.requireNonNull(Cells.of(List.of(range, value, Part.WHOLE)));
    if (empty) {
      return;
    }
    boolean inside =
        (included ? other >= low : other > low) && (included ? other < high : other <= high);
    BitSet both = cells.of(range);
    both.and(cells.of(value));
    assertThat(!both.isEmpty()).isEqualTo(inside);
    assertThat(cells.of(Part.WHOLE).cardinality()).isEqualTo(cells.count());
  }
}
