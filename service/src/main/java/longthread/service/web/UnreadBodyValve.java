package longthread.service.web;

import jakarta.servlet.ServletException;
import java.io.IOException;
import java.io.InputStream;
import java.util.concurrent.TimeUnit;
import org.apache.catalina.connector.Request;
import org.apache.catalina.connector.Response;
import org.apache.catalina.valves.ValveBase;
import org.apache.coyote.ActionCode;

/**
 * Ends a request whose body nobody wants, such as that of a caller without a key, without waiting
 * for the body: what has arrived is dropped, then the connection is closed behind the answer. The
 * web server itself would hold a thread until the caller has sent it all.
 */
final class UnreadBodyValve extends ValveBase {
  /** A body that was sent together with its headers is here by then, and its answer gets there. */
  private static final long PATIENCE_NANOS = TimeUnit.MILLISECONDS.toNanos(200);

  private static final int MAX_DROPPED = 1 << 20;
  private static final long PAUSE_MILLIS = 2;

  UnreadBodyValve() {
    super(true);
  }

  @Override
  public void invoke(Request request, Response response) throws IOException, ServletException {
    getNext().invoke(request, response);
    if (!request.isAsync() && !isRead(request)) {
      // Else the web server makes a fault of an answer that it has not sent yet.
      response.flushBuffer();
      request.getCoyoteRequest().action(ActionCode.DISABLE_SWALLOW_INPUT, null);
    }
  }

  /** Whether nothing of the body is outstanding, after dropping what is there. */
  private static boolean isRead(Request request) {
    long length = request.getCoyoteRequest().getContentLengthLong();
    boolean chunked = request.getHeader("Transfer-Encoding") != null;
    if (length <= 0 && !chunked) {
      return true;
    }
    if (request.getCoyoteRequest().getBytesRead() >= length && !chunked) {
      return true;
    }
    byte[] piece = new byte[8_192];
    long deadline = System.nanoTime() + PATIENCE_NANOS;
    int dropped = 0;
    try {
      InputStream in = request.getStream();
      while (dropped < MAX_DROPPED && System.nanoTime() < deadline) {
        int there = available(request);
        if (there > 0) {
          dropped += Math.max(0, in.read(piece, 0, Math.min(piece.length, there)));
        } else if (!chunked && request.getCoyoteRequest().getBytesRead() >= length) {
          return true;
        } else {
          Thread.sleep(PAUSE_MILLIS);
        }
      }
    } catch (IOException | IllegalStateException e) {
      return false; // the caller has gone, or the body is damaged: nothing more will be read
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
    return false;
  }

  /** What has arrived; the stream itself says only what was read before, never what came since. */
  private static int available(Request request) {
    request.getCoyoteRequest().action(ActionCode.AVAILABLE, Boolean.TRUE);
    return request.getCoyoteRequest().getAvailable();
  }
}
