package longthread.service.web;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import org.apache.catalina.connector.Request;
import org.apache.catalina.connector.Response;
import org.apache.catalina.valves.ErrorReportValve;
import org.jspecify.annotations.Nullable;

/**
 * What the web server itself answers, to a request that it cannot read, as a problem document: its
 * own page is for people and names the server.
 */
public final class ProblemValve extends ErrorReportValve {
  @Override
  protected void report(Request request, Response response, @Nullable Throwable fault) {
    int status = response.getStatus();
    if (status < 400 || response.getContentWritten() > 0 || !response.setErrorReported()) {
      return;
    }
    boolean theirs = status < 500;
    String body =
        "{\"type\":\"/problems/"
            + (theirs ? "bad-request" : "unexpected")
            + "\",\"title\":\""
            + (theirs ? "The request cannot be understood" : "The service failed on this request")
            + "\",\"status\":"
            + status
            + ",\"detail\":\""
            + (theirs
                ? "the request line, a header or the body is not valid HTTP for this service; see"
                    + " /api/v1/openapi.json"
                : "this is a fault of the service; its log has the reason")
            + "\"}";
    try {
      response.setContentType("application/problem+json");
      response.getOutputStream().write(body.getBytes(StandardCharsets.UTF_8));
      response.finishResponse();
    } catch (IOException | IllegalStateException e) {
      // The caller has gone, or an answer is under way: there is no one to tell.
      container.getLogger().debug("no problem document was sent", e);
    }
  }
}
