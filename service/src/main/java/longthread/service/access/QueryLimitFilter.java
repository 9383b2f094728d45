package longthread.service.access;

import io.micrometer.core.instrument.Counter;
import io.micrometer.core.instrument.Gauge;
import io.micrometer.core.instrument.MeterRegistry;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import longthread.service.web.CallerSlots;
import longthread.service.web.ProblemException;
import longthread.service.web.ProblemWriter;
import org.springframework.core.annotation.Order;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Lets so many queries run at once as the processors can work on, some more wait for a short time,
 * and refuses the rest at once with the time to try again: an answer after a minute helps nobody,
 * and what waits holds a thread. No caller has all the places. Runs after callers are known.
 */
@Component
@Order(0)
class QueryLimitFilter extends OncePerRequestFilter {
  private static final int PER_PROCESSOR = 3;
  private static final int MIN_RUNNING = 6;
  private static final int MAX_RUNNING = 10; // fewer than connections in the pool
  private static final int MAX_PRESENT = 40;
  private static final int MAX_PRESENT_OF_ONE = 28;
  private static final long MAX_WAIT_MILLIS = 2_000;
  private static final int MAX_SIGN_INS = 8;

  private final ProblemWriter problems;
  private final CallerSlots running;
  private final CallerSlots present = new CallerSlots(MAX_PRESENT, MAX_PRESENT_OF_ONE);
  private final CallerSlots signIns = new CallerSlots(MAX_SIGN_INS, MAX_SIGN_INS);
  private final Counter refused;

  QueryLimitFilter(ProblemWriter problems, MeterRegistry meters) {
    this.problems = problems;
    int processors = Runtime.getRuntime().availableProcessors();
    int most = Math.min(MAX_RUNNING, Math.max(MIN_RUNNING, PER_PROCESSOR * processors));
    running = new CallerSlots(most, most - 2);
    refused =
        Counter.builder("longthread.queries.refused")
            .description("Queries refused because too many were running and waiting")
            .register(meters);
    Gauge.builder("longthread.queries.running", running, CallerSlots::taken)
        .description("Queries running at this moment")
        .register(meters);
    Gauge.builder("longthread.queries.present", present, CallerSlots::taken)
        .description("Queries running or waiting to run at this moment")
        .register(meters);
  }

  @Override
  protected boolean shouldNotFilter(HttpServletRequest request) {
    String path = request.getRequestURI();
    return !path.startsWith("/api/")
        || path.startsWith("/api/v1/lineage")
        || path.startsWith("/api/v1/openapi")
        || (path.startsWith("/api/v1/session") && request.getMethod().equals("GET"));
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    if (request.getRequestURI().startsWith("/api/v1/session")) {
      enter(signIns, request.getRemoteAddr(), request, response, chain);
      return;
    }
    Authentication who = SecurityContextHolder.getContext().getAuthentication();
    String caller = who == null ? request.getRemoteAddr() : who.getName();
    if (!present.take(caller)) {
      refuse(request, response);
      return;
    }
    try {
      if (!running.take(caller, MAX_WAIT_MILLIS)) {
        refuse(request, response);
        return;
      }
      try {
        chain.doFilter(request, response);
      } finally {
        running.giveBack(caller);
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      refuse(request, response);
    } finally {
      present.giveBack(caller);
    }
  }

  private void enter(
      CallerSlots slots,
      String caller,
      HttpServletRequest request,
      HttpServletResponse response,
      FilterChain chain)
      throws ServletException, IOException {
    if (!slots.take(caller)) {
      refuse(request, response);
      return;
    }
    try {
      chain.doFilter(request, response);
    } finally {
      slots.giveBack(caller);
    }
  }

  private void refuse(HttpServletRequest request, HttpServletResponse response) throws IOException {
    refused.increment();
    problems.write(
        request,
        response,
        ProblemException.busy(
                "queries-busy",
                "too many queries are running at this moment; try again after the time in"
                    + " Retry-After, with fewer at once")
            .retryAfter(2));
  }
}
