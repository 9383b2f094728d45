package longthread.service.intake;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import longthread.service.log.BlockCodec;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class BatchSplitterTest {
  private static List<String> split(String body) {
    return BatchSplitter.split(body.getBytes(StandardCharsets.UTF_8)).stream()
        .map(part -> new String(part, StandardCharsets.UTF_8))
        .toList();
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '^',
      value = {
        "{\"a\":1}|{\"a\":1}",
        "[]|",
        "[ {\"a\":[1,2]} , {\"b\":\"],[\"} ]|{\"a\":[1,2]};{\"b\":\"],[\"}",
        "[{\"a\":\"\\\"]\"},7]|{\"a\":\"\\\"]\"};7",
        "[{\"a\":1},{\"b\"|{\"a\":1};{\"b\"",
      })
  void bodies_are_parted_into_events(String body, String events) {
    assertThat(String.join(";", split(body))).isEqualTo(events == null ? "" : events);
  }

  @Test
  void lines_end_in_any_way_and_blank_ones_do_not_count() {
    assertThat(split("{1}\r\n\n  \n{2}\n{3}")).containsExactly("{1}", "{2}", "{3}");
    assertThat(split("")).isEmpty();
    assertThat(split(" \n ")).isEmpty();
  }

  @Test
  void a_bad_line_is_passed_on_whole_to_be_refused_by_itself() {
    assertThat(split("{1}\n{broken\n{3}")).containsExactly("{1}", "{broken", "{3}");
  }

  @Test
  void a_block_reads_back_to_the_byte() {
    var random = new Random(3);
    for (int round = 0; round < 50; round++) {
      var entries = new ArrayList<BlockCodec.Entry>();
      for (int i = random.nextInt(20); i >= 0; i--) {
        byte[] bytes = new byte[random.nextInt(300)];
        random.nextBytes(bytes);
        entries.add(new BlockCodec.Entry(random.nextBoolean(), bytes));
      }
      List<BlockCodec.Entry> back = BlockCodec.entries(BlockCodec.block(entries));
      assertThat(back).hasSameSizeAs(entries);
      for (int i = 0; i < entries.size(); i++) {
        assertThat(back.get(i).refused()).isEqualTo(entries.get(i).refused());
        assertThat(back.get(i).bytes()).isEqualTo(entries.get(i).bytes());
      }
    }
  }
}
