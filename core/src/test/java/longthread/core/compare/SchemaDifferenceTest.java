package longthread.core.compare;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.stream.Collectors;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.AlphaChars;
import net.jqwik.api.constraints.Size;
import net.jqwik.api.constraints.StringLength;
import net.jqwik.api.constraints.UniqueElements;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class SchemaDifferenceTest {
  private static Map<String, String> schema(String text) {
    var columns = new LinkedHashMap<String, String>();
    for (String column : text.isBlank() ? new String[0] : text.split(",")) {
      String[] words = column.strip().split(" ");
      columns.put(words[0], words.length > 1 ? words[1] : "");
    }
    return columns;
  }

  private static String words(Map<String, String> before, Map<String, String> after) {
    return SchemaDifference.of(before, after).stream()
        .map(c -> c.name() + " " + c.what().word() + " " + c.before() + " " + c.after())
        .collect(Collectors.joining("; "));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "a int, b text|a int, b text|''",
        "a int, b text|a int|b removed text null",
        "a int|a int, b text|b added null text",
        "a int, b text|a bigint, b text|a retyped int bigint",
        "a int, b text|a INT, b text|''",
        "a int, litres num, c text|a int, volume_l num, c text|volume_l renamed litres num",
        "a int, b text|a int, c int|c added null int; b removed text null",
        "a int, b text|c text, a int|c added null text; b removed text null",
        "a int, b text|a int, c text, d text|c added null text; d added null text; b removed text null",
        "a, b|a, c|c renamed b null",
      })
  void columns_are_added_removed_renamed_and_retyped(String before, String after, String expected) {
    assertThat(words(schema(before), schema(after))).isEqualTo(expected);
  }

  @Property(tries = 300)
  void what_is_said_to_be_different_turns_the_one_into_the_other(
      @ForAll @Size(max = 5) @UniqueElements
          java.util.List<@AlphaChars @StringLength(min = 1, max = 1) String> before,
      @ForAll @Size(max = 5) @UniqueElements
          java.util.List<@AlphaChars @StringLength(min = 1, max = 1) String> after) {
    var then = new LinkedHashMap<String, String>();
    before.forEach(name -> then.put(name, "t" + name.charAt(0) % 2));
    var now = new LinkedHashMap<String, String>();
    after.forEach(name -> now.put(name, "t" + name.charAt(0) % 3 % 2));
    var made = new LinkedHashMap<>(then);
    for (SchemaDifference.Column column : SchemaDifference.of(then, now)) {
      switch (column.what()) {
        case REMOVED -> made.remove(column.name());
        case RENAMED -> {
          made.remove(column.before());
          made.put(column.name(), column.after());
        }
        default -> made.put(column.name(), column.after());
      }
    }
    assertThat(made).isEqualTo(now);
  }
}
