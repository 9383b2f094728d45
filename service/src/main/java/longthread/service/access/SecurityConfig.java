package longthread.service.access;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import longthread.service.audit.AuditFilter;
import longthread.service.audit.AuditLog;
import longthread.service.web.ProblemException;
import longthread.service.web.ProblemWriter;
import longthread.service.web.PublicAddress;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpMethod;
import org.springframework.http.HttpStatus;
import org.springframework.security.authentication.AuthenticationManager;
import org.springframework.security.authentication.ProviderNotFoundException;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.config.annotation.web.configurers.AuthorizeHttpRequestsConfigurer;
import org.springframework.security.config.http.SessionCreationPolicy;
import org.springframework.security.config.observation.SecurityObservationSettings;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.crypto.factory.PasswordEncoderFactories;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.authentication.UsernamePasswordAuthenticationFilter;
import org.springframework.security.web.context.SecurityContextHolderFilter;
import org.springframework.security.web.csrf.CookieCsrfTokenRepository;
import org.springframework.security.web.firewall.RequestRejectedHandler;

/** Which requests are let in by what: a key for programs, a session cookie for people. */
@Configuration
class SecurityConfig {
  private final ProblemWriter problems;

  SecurityConfig(ProblemWriter problems) {
    this.problems = problems;
  }

  /** A path that hides its meaning (encoded slashes, {@code ;}, {@code //}) is refused whole. */
  @Bean
  RequestRejectedHandler refusedPaths() {
    return (request, response, fault) ->
        problems.write(
            request,
            response,
            ProblemException.badRequest(
                "bad-path",
                "the path holds characters that no path of this service has; see"
                    + " /api/v1/openapi.json"));
  }

  /** Timing each security filter of each request costs more than the check of its key. */
  @Bean
  static SecurityObservationSettings noObservations() {
    return SecurityObservationSettings.noObservations();
  }

  @Bean
  static PasswordEncoder passwordEncoder() {
    return PasswordEncoderFactories.createDelegatingPasswordEncoder();
  }

  /** Names and passwords are checked by {@link SignIns}, never on the way to another call. */
  @Bean
  static AuthenticationManager authenticationManager() {
    return asked -> {
      throw new ProviderNotFoundException("sign in at /api/v1/session");
    };
  }

  /** Programs: no session, and so no forged requests. Intake always comes this way. */
  @Bean
  @Order(1)
  SecurityFilterChain programs(HttpSecurity http, Keys keys, CallerLimits limits, AuditLog audit)
      throws Exception {
    return http.securityMatcher(request -> BearerFilter.carriesKey(request) || isIntake(request))
        .csrf(csrf -> csrf.disable())
        .sessionManagement(s -> s.sessionCreationPolicy(SessionCreationPolicy.STATELESS))
        .requestCache(cache -> cache.disable())
        .addFilterAfter(new AuditFilter(audit), SecurityContextHolderFilter.class)
        .addFilterBefore(
            new BearerFilter(keys, limits, problems), UsernamePasswordAuthenticationFilter.class)
        .authorizeHttpRequests(SecurityConfig::rules)
        .exceptionHandling(
            e ->
                e.authenticationEntryPoint((q, a, x) -> unauthenticated(q, a))
                    .accessDeniedHandler((q, a, x) -> denied(q, a)))
        .build();
  }

  /** People: a session cookie, and a token against forged requests in a cookie scripts can read. */
  @Bean
  @Order(2)
  SecurityFilterChain people(
      HttpSecurity http,
      SignIns signIns,
      CallerLimits limits,
      PublicAddress address,
      AuditLog audit)
      throws Exception {
    var tokens = CookieCsrfTokenRepository.withHttpOnlyFalse();
    tokens.setCookiePath(address.path().isEmpty() ? "/" : address.path());
    tokens.setCookieCustomizer(
        cookie -> {
          cookie.sameSite("Strict");
          if (address.isSecure()) {
            cookie.secure(true);
          }
        });
    return http.csrf(
            csrf ->
                csrf.spa()
                    .csrfTokenRepository(tokens)
                    // Programs of the provider call this; its token is signed.
                    .ignoringRequestMatchers(ProviderController.ENDED))
        .sessionManagement(s -> s.sessionCreationPolicy(SessionCreationPolicy.STATELESS))
        .addFilterAfter(new AuditFilter(audit), SecurityContextHolderFilter.class)
        .addFilterBefore(
            new SessionFilter(signIns, limits, problems),
            UsernamePasswordAuthenticationFilter.class)
        .requestCache(cache -> cache.disable())
        .headers(
            h ->
                h.contentSecurityPolicy(
                    p ->
                        p.policyDirectives(
                            "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self'"
                                + " data:; worker-src 'self' blob:; frame-ancestors 'none'")))
        .authorizeHttpRequests(SecurityConfig::rules)
        .exceptionHandling(
            e ->
                e.authenticationEntryPoint((q, a, x) -> unauthenticated(q, a))
                    .accessDeniedHandler((q, a, x) -> deniedInBrowser(q, a)))
        .build();
  }

  private static boolean isIntake(HttpServletRequest request) {
    String path = request.getRequestURI();
    return switch (request.getMethod()) {
      case "POST" -> path.equals("/") || path.startsWith("/api/v1/lineage");
      case "PUT" -> path.startsWith("/api/v1/workspaces");
      default -> false;
    };
  }

  private static void rules(
      AuthorizeHttpRequestsConfigurer<HttpSecurity>.AuthorizationManagerRequestMatcherRegistry
          rules) {
    // Whole trees, not single spellings: a path that a rule forgets must not be open. Of the calls
    // that are no GET, a reader may make the two that only ask.
    rules
        .requestMatchers(LimitedCalls::admits)
        .authenticated()
        .requestMatchers(HttpMethod.POST, "/", "/api/v1/lineage/**")
        .hasAnyRole("EMITTER", "STEWARD", "ADMIN")
        .requestMatchers(HttpMethod.PUT, "/api/v1/workspaces/**")
        .hasAnyRole("EMITTER", "STEWARD", "ADMIN")
        .requestMatchers("/api/v1/session/**", "/api/v1/openapi.json", "/health/**")
        .permitAll()
        .requestMatchers(HttpMethod.POST, "/api/v1/tickets/closed/**") // by the ticket system's key
        .hasAnyRole("EMITTER", "STEWARD", "ADMIN")
        .requestMatchers(
            "/api/v1/keys/**",
            "/api/v1/accounts/**",
            "/api/v1/groups/**",
            "/api/v1/grants/**",
            "/api/v1/rebuild/**")
        .hasRole("ADMIN")
        .requestMatchers("/api/v1/audit/**")
        .hasAnyRole("AUDITOR", "ADMIN")
        .requestMatchers(HttpMethod.GET, "/api/v1/readers/**")
        .hasAnyRole("STEWARD", "ADMIN")
        .requestMatchers(
            "/api/v1/readers/**") // they reach other machines, with the service's secrets
        .hasRole("ADMIN")
        .requestMatchers(
            "/api/v1/views/**", // own ones
            "/api/v1/watches/**",
            "/api/v1/trail/**",
            "/api/v1/planned-changes/answer/**") // of owners, who need no more than to read
        .hasAnyRole("READER", "AUDITOR", "STEWARD", "ADMIN")
        .requestMatchers(
            HttpMethod.POST,
            "/api/v1/impact/**",
            "/api/v1/sql/lineage/**",
            "/api/v1/proof/check/**")
        .hasAnyRole("READER", "AUDITOR", "STEWARD", "ADMIN")
        .requestMatchers(HttpMethod.GET, "/api/**", "/metrics/**")
        .hasAnyRole("READER", "AUDITOR", "STEWARD", "ADMIN")
        .requestMatchers(HttpMethod.HEAD, "/api/**", "/metrics/**")
        .hasAnyRole("READER", "AUDITOR", "STEWARD", "ADMIN")
        .requestMatchers("/api/**", "/metrics/**")
        .hasAnyRole("STEWARD", "ADMIN")
        .anyRequest()
        .permitAll();
  }

  private void unauthenticated(HttpServletRequest request, HttpServletResponse response)
      throws IOException {
    problems.write(
        request,
        response,
        new ProblemException(
            HttpStatus.UNAUTHORIZED,
            "not-signed-in",
            "Authentication required",
            "send a valid key as 'Authorization: Bearer …', or sign in to the console"));
  }

  /** Who is not signed in learns that first; a sign-in itself can only lack the console's token. */
  private void deniedInBrowser(HttpServletRequest request, HttpServletResponse response)
      throws IOException {
    boolean signedIn = SecurityContextHolder.getContext().getAuthentication() != null;
    if (signedIn || request.getRequestURI().equals("/api/v1/session")) {
      denied(request, response);
    } else {
      unauthenticated(request, response);
    }
  }

  private void denied(HttpServletRequest request, HttpServletResponse response) throws IOException {
    problems.write(
        request,
        response,
        new ProblemException(
            HttpStatus.FORBIDDEN,
            "not-allowed",
            "This key or account may not do that",
            "the call needs another role (sending: emitter, steward or admin; asking: reader,"
                + " auditor, steward or admin; audit log: auditor or admin; keys,"
                + " accounts, groups and grants: admin), needs to see the whole catalog while grants"
                + " cover a part of it, or the console's token was missing"));
  }
}
