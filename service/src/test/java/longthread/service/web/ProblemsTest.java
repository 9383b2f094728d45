package longthread.service.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import jakarta.servlet.http.HttpServletRequest;
import org.junit.jupiter.api.Test;
import org.springframework.transaction.CannotCreateTransactionException;

class ProblemsTest {
  private static String type(String cause) {
    HttpServletRequest request = mock();
    when(request.getRequestURI()).thenReturn("/api/v1/runs");
    var e = new CannotCreateTransactionException("no", new IllegalStateException(cause));
    return new Problems().databaseUnreachable(e, request).getBody().getType().toString();
  }

  @Test
  void a_pool_in_use_is_no_lost_database() {
    assertThat(type("pool - timed out after 2000ms (total=12, active=12, idle=0, waiting=3)"))
        .isEqualTo("/problems/connections-busy");
    assertThat(type("pool - timed out after 2000ms (total=0, active=0, idle=0, waiting=3)"))
        .isEqualTo("/problems/database-unreachable");
    assertThat(type("ERROR: could not extend file \"base/1\": No space left on device"))
        .isEqualTo("/problems/disk-full");
    assertThat(type("Connection refused")).isEqualTo("/problems/database-unreachable");
  }
}
