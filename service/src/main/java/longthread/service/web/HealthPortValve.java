package longthread.service.web;

import jakarta.servlet.ServletException;
import java.io.IOException;
import org.apache.catalina.connector.Connector;
import org.apache.catalina.connector.Request;
import org.apache.catalina.connector.Response;
import org.apache.catalina.valves.ValveBase;

/** Lets only state and metrics through at the port that is kept for them. */
final class HealthPortValve extends ValveBase {
  private final Connector health;

  HealthPortValve(Connector health) {
    super(true);
    this.health = health;
  }

  @Override
  public void invoke(Request request, Response response) throws IOException, ServletException {
    String path = String.valueOf(request.getRequestURI()); // none if it could not be read
    boolean isKept =
        path.equals("/metrics") || path.equals("/health") || path.startsWith("/health/");
    if (request.getConnector() == health && !isKept) {
      response.sendError(404);
    } else {
      getNext().invoke(request, response);
    }
  }
}
