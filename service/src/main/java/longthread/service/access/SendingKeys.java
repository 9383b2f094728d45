package longthread.service.access;

import jakarta.servlet.http.HttpServletRequest;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/** Whether a request carries a key that may send events; asked for every post. */
@Component
public class SendingKeys {
  /** The attribute of a request that holds the name of the key it came with. */
  public static final String HOLDER = SendingKeys.class.getName() + ".holder";

  private final Keys keys;

  SendingKeys(Keys keys) {
    this.keys = keys;
  }

  private static boolean noted(HttpServletRequest request, String holder) {
    request.setAttribute(HOLDER, holder);
    return true;
  }

  /** Whether the request may be taken in; who may not gets the reason elsewhere. */
  public boolean admits(HttpServletRequest request) {
    try {
      return BearerFilter.carriesKey(request)
          && keys.holderOf(BearerFilter.token(request))
              .filter(holder -> holder.role().sends())
              .map(holder -> noted(request, holder.name()))
              .orElse(false);
    } catch (DataAccessException | TransactionException e) {
      return false; // the same question gets its answer on the usual way
    }
  }
}
