package longthread.service.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.concurrent.CompletableFuture;
import org.junit.jupiter.api.Test;

class CallerSlotsTest {
  @Test
  void one_caller_never_takes_all_places() {
    var slots = new CallerSlots(3, 2);
    assertThat(slots.take("a")).isTrue();
    assertThat(slots.take("a")).isTrue();
    assertThat(slots.take("a")).as("the third of one").isFalse();
    assertThat(slots.take("b")).isTrue();
    assertThat(slots.take("c")).as("the fourth of all").isFalse();
    slots.giveBack("a");
    assertThat(slots.take("c")).isTrue();
    assertThat(slots.taken()).isEqualTo(3);
  }

  @Test
  void who_waits_gets_the_place_that_is_given_back_or_learns_in_time_that_there_is_none()
      throws Exception {
    var slots = new CallerSlots(1, 1);
    assertThat(slots.take("a", 0)).isTrue();
    assertThat(slots.take("b", 20)).isFalse();
    var waiting =
        CompletableFuture.supplyAsync(
            () -> {
              try {
                return slots.take("b", 20_000);
              } catch (InterruptedException e) {
                return false;
              }
            });
    slots.giveBack("a");
    assertThat(waiting.get()).isTrue();
    assertThat(slots.taken()).isEqualTo(1);
  }
}
