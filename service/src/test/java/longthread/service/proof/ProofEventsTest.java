package longthread.service.proof;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.util.Set;
import org.junit.jupiter.api.Test;

class ProofEventsTest {
  private static final String RUN = "0b1c2d3e-0000-4000-8000-00000000abcd";

  private static boolean mayName(String event) {
    return ProofEvents.mayName(event.getBytes(StandardCharsets.UTF_8), Set.of(RUN));
  }

  @Test
  void events_of_a_run_are_found_however_their_id_is_spelled() {
    assertThat(mayName("{\"run\":{\"runId\":\"" + RUN + "\"}}")).isTrue();
    assertThat(mayName("{\"run\" : {\n \"runId\" :\t\"" + RUN.toUpperCase() + "\"}}")).isTrue();
    assertThat(mayName("{\"run\":{\"runId\":\"\\u0030" + RUN.substring(1) + "\"}}")).isTrue();
    assertThat(mayName("{\"run\":{\"\\u0072unId\":\"" + RUN + "\"}}")).isTrue();
    assertThat(mayName("{\"parent\":{\"runId\":\"other\"},\"run\":{\"runId\":\"" + RUN + "\"}}"))
        .isTrue();
  }

  @Test
  void events_of_others_are_not_parsed() {
    assertThat(mayName("{\"run\":{\"runId\":\"" + RUN.replace('b', 'c') + "\"}}")).isFalse();
    assertThat(mayName("{\"run\":{\"runId\":\"short\"}}")).isFalse();
    assertThat(mayName("{\"run\":{\"runId\"")).isFalse();
    assertThat(mayName("{\"note\":\"" + RUN + "\"}")).isFalse();
    assertThat(mayName("\u00e9 \ud83d\udc04")).isFalse();
  }
}
