package longthread.service.intake;

import jakarta.servlet.http.HttpServletRequest;
import java.time.Duration;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import longthread.service.live.Receipts;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/** Lets whoever sent something wait until queries show it, as {@code Prefer: wait=n} asks. */
@Component
public final class WaitPreference {
  /** The header by which an answer says that the wait was worth it (RFC 7240 section 3). */
  public static final String APPLIED = "Preference-Applied";

  private static final Pattern WAIT = Pattern.compile("(?:^|[,;\\s])wait\\s*=\\s*(\\d{1,6})");
  private static final Duration MAX_WAIT = Duration.ofSeconds(4);

  private final Receipts receipts;

  WaitPreference(Receipts receipts) {
    this.receipts = receipts;
  }

  /** Waits for a block, if the request asks for it; returns whether queries show it now. */
  public boolean isOver(HttpServletRequest request, long block) {
    String prefer = request.getHeader("Prefer");
    Matcher wait = WAIT.matcher(prefer == null ? "" : prefer);
    if (!wait.find()) {
      return false;
    }
    Duration asked = Duration.ofSeconds(Long.parseLong(wait.group(1)));
    try {
      return receipts.await("" + block, asked.compareTo(MAX_WAIT) < 0 ? asked : MAX_WAIT);
    } catch (DataAccessException | TransactionException e) {
      return false; // it is durable all the same; only the wait is over
    }
  }
}
