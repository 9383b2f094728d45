package longthread.service.access;

import jakarta.servlet.http.HttpServletRequest;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/** Whether a request carries a key that may send events; asked for every post. */
@Component
public class SendingKeys {
  private final Keys keys;

  SendingKeys(Keys keys) {
    this.keys = keys;
  }

  /** Whether the request may be taken in; who may not gets the reason elsewhere. */
  public boolean admits(HttpServletRequest request) {
    try {
      return BearerFilter.carriesKey(request)
          && keys.holderOf(BearerFilter.token(request))
              .filter(holder -> holder.role() != Role.READER)
              .isPresent();
    } catch (DataAccessException | TransactionException e) {
      return false; // the same question gets its answer on the usual way
    }
  }
}
