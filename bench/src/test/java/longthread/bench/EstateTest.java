package longthread.bench;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;

class EstateTest {
  @Test
  void the_same_seed_gives_the_same_estate_of_the_size_asked_for() {
    var one = new Estate(10_000, 7);
    var same = new Estate(10_000, 7);
    assertThat(one.store().current().linkCount()).isEqualTo(same.store().current().linkCount());
    assertThat(one.store().current().linkCount()).isEqualTo((int) one.links());
    assertThat(one.store().current().nodeCount()).isBetween(9_000, 15_000);
  }
}
