package longthread.service.intake;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import io.micrometer.core.instrument.simple.SimpleMeterRegistry;
import jakarta.servlet.http.HttpServletRequest;
import longthread.service.testing.Api;
import longthread.service.testing.RunningService;
import longthread.service.web.ProblemException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(RunningService.Extension.class)
class IntakeLimitsTest {
  private final IntakeLimits limits = new IntakeLimits(new SimpleMeterRegistry());

  private static HttpServletRequest of(String key) {
    HttpServletRequest request = mock();
    when(request.getHeader("Authorization")).thenReturn(key);
    return request;
  }

  @Test
  void bodies_share_the_memory_and_the_largest_is_let_through_alone() {
    long heap = Runtime.getRuntime().maxMemory();
    try (IntakeLimits.Post first = limits.enter(of("a"))) {
      first.hold(heap / 2);
      try (IntakeLimits.Post second = limits.enter(of("b"))) {
        assertThatThrownBy(() -> second.hold(1 << 20))
            .isInstanceOf(ProblemException.class)
            .hasMessageContaining("memory");
      }
    }
    try (IntakeLimits.Post third = limits.enter(of("b"))) {
      third.hold(heap / 2);
    }
  }

  @Test
  void one_key_leaves_places_to_others() {
    int taken = 0;
    var posts = new java.util.ArrayList<IntakeLimits.Post>();
    try {
      while (taken++ < 1_000) {
        posts.add(limits.enter(of("a")));
      }
    } catch (ProblemException e) {
      assertThat(e.retryAfter()).isNotNull();
    }
    assertThat(taken).isBetween(32, 128);
    limits.enter(of("b")).close();
    posts.forEach(IntakeLimits.Post::close);
  }

  @Test
  void a_batch_of_too_many_events_is_refused_whole(RunningService service) {
    Api.Answer answer = service.api().post("/api/v1/lineage/batch", "{}\n".repeat(60_000));
    assertThat(answer.status()).isEqualTo(413);
    assertThat(answer.detail()).contains("60000", "50000");
  }
}
