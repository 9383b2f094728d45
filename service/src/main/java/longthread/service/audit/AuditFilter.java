package longthread.service.audit;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.http.HttpHeaders;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.web.filter.OncePerRequestFilter;
import org.springframework.web.method.HandlerMethod;
import org.springframework.web.servlet.HandlerMapping;

/**
 * Notes in the audit log who changed something, who took data out as a file, and whose calls were
 * refused. Events sent are not noted: the intake lists them. Not a bean, or it would be registered
 * twice.
 */
public final class AuditFilter extends OncePerRequestFilter {
  private static final Logger LOG = LoggerFactory.getLogger(AuditFilter.class);

  /** Calls that are no GET and only ask. */
  private static final Set<String> ASKING = Set.of("/api/v1/impact", "/api/v1/sql/lineage");

  /** Parameters that say what a call is about; a value of any other is nobody's business. */
  private static final List<String> ABOUT =
      List.of("ref", "name", "id", "from", "to", "label", "system", "as");

  private final AuditLog log;

  public AuditFilter(AuditLog log) {
    this.log = log;
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    chain.doFilter(request, response);
    int status = response.getStatus();
    Authentication who = SecurityContextHolder.getContext().getAuthentication();
    AuditLog.Caller caller = caller(AuditLog.Caller.of(who, request), request);
    if (status == 401 || status == 403 || status == 429) {
      log.refused(caller, action(request), about(request), "status " + status);
    } else if (status < 400 && isChange(request)) {
      note(caller, request, "");
    } else if (status < 400 && isFile(response)) {
      note(caller, request, "as " + response.getContentType().replaceAll(";.*", ""));
    }
  }

  private static AuditLog.Caller caller(AuditLog.Caller known, HttpServletRequest request) {
    if (request.getAttribute(AuditNote.WHO) instanceof String who) {
      String[] said = who.split("\n", 2);
      return new AuditLog.Caller(said[0], said[1], known.byKey(), known.address());
    }
    return known;
  }

  private void note(AuditLog.Caller caller, HttpServletRequest request, String more) {
    Object detail = request.getAttribute(AuditNote.DETAIL);
    try {
      log.done(
          caller, action(request), about(request), detail instanceof String text ? text : more);
    } catch (RuntimeException e) {
      // It is done already; the log of the service at least says so.
      LOG.error(
          "not in the audit log: {} {} by {} from {}: {}",
          request.getMethod(),
          request.getRequestURI(),
          caller.name(),
          caller.address(),
          e.getMessage());
    }
  }

  /** Whether a call changes what the service keeps. */
  private static boolean isChange(HttpServletRequest request) {
    String path = request.getRequestURI();
    boolean asks =
        switch (request.getMethod()) {
          case "GET", "HEAD", "OPTIONS" -> true;
          default -> ASKING.stream().anyMatch(path::startsWith);
        };
    return !asks
        && path.startsWith("/api/")
        && !path.startsWith("/api/v1/lineage")
        && !path.startsWith("/api/v1/trail")
        && !"true".equals(request.getParameter("dryRun"));
  }

  /** Whether an answer is a file that takes data out. */
  private static boolean isFile(HttpServletResponse response) {
    String type = response.getContentType();
    String disposition = response.getHeader(HttpHeaders.CONTENT_DISPOSITION);
    boolean isAttached = disposition != null && disposition.startsWith("attachment");
    return isAttached || (type != null && type.startsWith("application/x-ndjson"));
  }

  /** The operation as the interface names it; method and path where a call never came so far. */
  private static String action(HttpServletRequest request) {
    if (request.getAttribute(HandlerMapping.BEST_MATCHING_HANDLER_ATTRIBUTE)
        instanceof HandlerMethod handler) {
      Operation operation = handler.getMethodAnnotation(Operation.class);
      if (operation != null && !operation.operationId().isEmpty()) {
        return operation.operationId();
      }
    }
    String path = request.getRequestURI();
    return request.getMethod() + " " + (path.length() <= 100 ? path : path.substring(0, 100));
  }

  private static String about(HttpServletRequest request) {
    if (request.getAttribute(AuditNote.ABOUT) instanceof String about) {
      return about;
    }
    var said = new ArrayList<String>();
    for (String parameter : ABOUT) {
      String value = request.getParameter(parameter);
      if (value != null && !value.isBlank()) {
        said.add(value);
      }
    }
    return String.join(" ", said);
  }
}
