package longthread.service.access;

import jakarta.servlet.http.HttpServletRequest;
import org.springframework.stereotype.Component;

/** Whether a request carries a key that may send events; asked for every post. */
@Component
public class SendingKeys {
  private final Keys keys;

  SendingKeys(Keys keys) {
    this.keys = keys;
  }

  /** Whether the request may be taken in; who may not gets the reason elsewhere. */
  public boolean admits(HttpServletRequest request) {
    return BearerFilter.carriesKey(request)
        && keys.holderOf(BearerFilter.token(request))
            .filter(holder -> holder.role() != Role.READER)
            .isPresent();
  }
}
