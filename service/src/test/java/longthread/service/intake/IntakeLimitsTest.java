package longthread.service.intake;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import io.micrometer.core.instrument.simple.SimpleMeterRegistry;
import jakarta.servlet.http.HttpServletRequest;
import java.util.ArrayList;
import java.util.concurrent.CompletableFuture;
import longthread.service.testing.Api;
import longthread.service.testing.RunningService;
import longthread.service.web.ProblemException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(RunningService.Extension.class)
class IntakeLimitsTest {
  private static final long MAX_BYTES = 100 << 20;

  private final IntakeLimits limits = new IntakeLimits(new SimpleMeterRegistry(), MAX_BYTES);

  private static HttpServletRequest of(String key) {
    HttpServletRequest request = mock();
    when(request.getHeader("Authorization")).thenReturn(key);
    return request;
  }

  @Test
  void bodies_share_the_memory() {
    var posts = new ArrayList<IntakeLimits.Post>();
    assertThatThrownBy(
            () -> {
              for (long held = 0; held <= MAX_BYTES; held += 4 << 20) {
                IntakeLimits.Post post = limits.enter(of("a" + held)); // counted twice
                posts.add(post);
                post.hold(4 << 20);
              }
            })
        .isInstanceOf(ProblemException.class)
        .hasMessageContaining("memory");
    posts.forEach(IntakeLimits.Post::close);
    try (IntakeLimits.Post next = limits.enter(of("b"))) {
      next.hold(4 << 20);
    }
  }

  @Test
  void large_bodies_take_turns() throws Exception {
    IntakeLimits.Post first = limits.enter(of("a"));
    first.hold(9 << 20);
    first.hold(100 << 20);
    var second =
        CompletableFuture.supplyAsync(
            () -> {
              try (IntakeLimits.Post post = limits.enter(of("b"))) {
                post.hold(9 << 20);
                return "had its turn";
              }
            });
    try (IntakeLimits.Post small = limits.enter(of("c"))) {
      small.hold(1 << 20); // does not wait for them
    }
    assertThat(second).isNotDone();
    first.close();
    assertThat(second.get()).isEqualTo("had its turn");
  }

  @Test
  void one_key_leaves_places_to_others() {
    int taken = 0;
    var posts = new ArrayList<IntakeLimits.Post>();
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
