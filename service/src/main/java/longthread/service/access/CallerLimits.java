package longthread.service.access;

import jakarta.servlet.ServletException;
import java.io.IOException;
import longthread.service.live.Sight;
import longthread.service.web.OutgoingText;
import org.springframework.stereotype.Component;

/** Lets a request be answered within what its caller may see. */
@Component
class CallerLimits {
  private final Grants grants;
  private final Redaction redaction;

  CallerLimits(Grants grants, Redaction redaction) {
    this.grants = grants;
    this.redaction = redaction;
  }

  void apply(Held held, Sight.Work<ServletException, IOException> request)
      throws ServletException, IOException {
    Sight sight = grants.of(held);
    if (sight.isWhole()) {
      sight.during(request);
      return;
    }
    OutgoingText.set(redaction::redact);
    try {
      sight.during(request);
    } finally {
      OutgoingText.clear();
    }
  }
}
