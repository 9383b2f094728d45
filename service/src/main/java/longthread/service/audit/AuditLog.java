package longthread.service.audit;

import jakarta.annotation.PreDestroy;
import jakarta.servlet.http.HttpServletRequest;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import longthread.service.storage.audit.AuditQueries;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.security.authentication.AnonymousAuthenticationToken;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.GrantedAuthority;
import org.springframework.stereotype.Component;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * The audit log. What is done is written before its caller hears of it. Refusals may come by
 * thousands, so equal ones of a minute become one entry, written within seconds.
 */
@Component
public class AuditLog {
  /** How something ended. */
  public enum Outcome {
    DONE,
    REFUSED;

    /** The word in the interface. */
    public String word() {
      return name().toLowerCase(java.util.Locale.ROOT);
    }
  }

  /**
   * Who calls, as far as that is known.
   *
   * @param name an account or key; empty if nobody is known
   */
  public record Caller(String name, String role, boolean byKey, String address) {
    /** The caller of a request. */
    public static Caller of(@Nullable Authentication who, HttpServletRequest request) {
      String header = request.getHeader("Authorization");
      boolean isKnown = who != null && !(who instanceof AnonymousAuthenticationToken);
      return new Caller(
          isKnown ? who.getName() : "",
          isKnown ? role(who) : "",
          header != null,
          request.getRemoteAddr());
    }

    private static String role(Authentication who) {
      return who.getAuthorities().stream()
          .map(GrantedAuthority::getAuthority)
          .filter(authority -> authority != null && authority.startsWith("ROLE_"))
          .findFirst()
          .map(role -> role.substring("ROLE_".length()).toLowerCase(java.util.Locale.ROOT))
          .orElse("");
    }
  }

  private record Refusal(Caller caller, String action, String about, String detail) {}

  /** How often a refusal came since it was written, and when that was; null before the first. */
  private record Counted(int times, @Nullable Instant writtenAt) {}

  private static final Logger LOG = LoggerFactory.getLogger(AuditLog.class);
  private static final int MAX_TEXT = 500;
  private static final int MAX_REFUSALS = 5_000; // of different sorts within a minute
  private static final Duration MERGED = Duration.ofMinutes(1);
  private static final Caller MANY = new Caller("", "", false, "many addresses");

  private final AuditQueries stored;
  private final Clock clock;
  private final TransactionTemplate transactions;
  private final Duration kept;
  private final Map<Refusal, Counted> refusals = new HashMap<>();

  AuditLog(
      AuditQueries stored,
      Clock clock,
      PlatformTransactionManager manager,
      @Value("${longthread.keep.audit:400d}") Duration kept) {
    this.stored = stored;
    this.clock = clock;
    this.transactions = new TransactionTemplate(manager);
    this.kept = kept;
  }

  /** Notes what was done, or is about to be; when this returns it is kept. */
  public void done(Caller caller, String action, String about, String detail) {
    write(clock.instant(), caller, action, about, Outcome.DONE, detail, 1);
  }

  /** Notes that something was refused. Never fails and never waits for the database. */
  public synchronized void refused(Caller caller, String action, String about, String detail) {
    var refusal = new Refusal(caller, action, cut(about), cut(detail));
    // A caller whose address or path is another one with each call must not fill the memory.
    Refusal key =
        refusals.size() < MAX_REFUSALS || refusals.containsKey(refusal)
            ? refusal
            : new Refusal(MANY, action, "", detail);
    refusals.merge(key, new Counted(1, null), (a, b) -> new Counted(a.times() + 1, a.writtenAt()));
  }

  private void write(
      Instant at,
      Caller caller,
      String action,
      String about,
      Outcome outcome,
      String detail,
      int times) {
    stored.add(
        at,
        cut(caller.name()),
        caller.role(),
        caller.byKey(),
        caller.address(),
        action,
        cut(about),
        outcome.word(),
        cut(detail),
        times);
  }

  /** A text that the table takes: of a bounded length, and without signs that none should have. */
  private static String cut(String text) {
    String line = text.replaceAll("[\\p{Cntrl}\\u2028\\u2029]", " ").strip();
    return line.length() <= MAX_TEXT ? line : line.substring(0, MAX_TEXT) + "…";
  }

  /** Writes each sort of refusal when it first comes, and then once a minute with how often. */
  @Scheduled(fixedDelay = 2, initialDelay = 2, timeUnit = TimeUnit.SECONDS)
  void writeRefusals() {
    writeRefusals(clock.instant().minus(MERGED));
  }

  /** Writes all refusals, as at a stop. */
  @PreDestroy
  public void flush() {
    writeRefusals(Instant.MAX);
  }

  private void writeRefusals(Instant writtenBefore) {
    var due = new HashMap<Refusal, Integer>();
    Instant now = clock.instant();
    synchronized (this) {
      for (var one : List.copyOf(refusals.entrySet())) {
        Counted counted = one.getValue();
        Instant written = counted.writtenAt();
        if (written == null || written.isBefore(writtenBefore)) {
          if (counted.times() == 0) {
            refusals.remove(one.getKey());
          } else {
            due.put(one.getKey(), counted.times());
            refusals.put(one.getKey(), new Counted(0, now));
          }
        }
      }
    }
    due.forEach((refusal, times) -> write(now, refusal, times));
  }

  private void write(Instant at, Refusal refusal, int times) {
    try {
      write(
          at,
          refusal.caller(),
          refusal.action(),
          refusal.about(),
          Outcome.REFUSED,
          refusal.detail(),
          times);
    } catch (RuntimeException e) {
      LOG.warn("a refusal cannot be written to the audit log: {}", e.getMessage());
    }
  }

  /** What entries are asked for; an empty text leaves a condition out. */
  public record Filter(
      Instant since, Instant until, String who, String action, String outcome, String about) {}

  /** Entries before one, the newest first. */
  List<AuditQueries.Entry> before(long id, Filter filter, int most) {
    String about =
        filter.about().isEmpty()
            ? ""
            : "%" + filter.about().replaceAll("([\\\\%_])", "\\\\$1") + "%";
    return stored.before(
        id,
        filter.since(),
        filter.until(),
        filter.who(),
        filter.action(),
        filter.outcome(),
        about,
        most);
  }

  List<String> actions() {
    return stored.actions();
  }

  /** Drops entries that are older than is kept; a period of zero keeps all. */
  @Scheduled(fixedDelay = 1, initialDelay = 1, timeUnit = TimeUnit.HOURS)
  void sweep() {
    if (!kept.isZero()) {
      transactions.executeWithoutResult(
          status -> {
            stored.allowSweep();
            int dropped = stored.deleteBefore(clock.instant().minus(kept));
            LOG.debug("{} entries of the audit log were older than is kept", dropped);
          });
    }
  }
}
