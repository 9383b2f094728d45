package longthread.service.access;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import com.nimbusds.oauth2.sdk.pkce.CodeVerifier;
import java.net.URI;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import longthread.service.access.ProviderClient.ProviderException;
import longthread.service.storage.access.ProviderQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Service;

/**
 * Signs people in whom an OpenID Connect provider knows. An account is made at the first sign-in;
 * its role and shown name follow the provider at each one.
 */
@Service
class ProviderSignIns {
  private static final Logger LOG = LoggerFactory.getLogger(ProviderSignIns.class);
  private static final Duration MAX_AWAY = Duration.ofMinutes(10);
  private static final long MAX_WAITING = 20_000;

  /** Of one address in ten minutes; many people may share that of a proxy. */
  private static final int MAX_OF_ONE_CALLER = 2_000;

  /** Why somebody who came back is not signed in; the console has words for each. */
  enum Refusal {
    CANCELLED,
    EXPIRED,
    FAILED,
    NO_ROLE,
    NAME_TAKEN,
    DISABLED;

    String word() {
      return name().toLowerCase(java.util.Locale.ROOT).replace('_', '-');
    }
  }

  /** Somebody who came back is not signed in. */
  static final class RefusedException extends Exception {
    private static final long serialVersionUID = 1;
    private final Refusal refusal;
    private final String who;

    RefusedException(Refusal refusal, String who) {
      super(refusal.word());
      this.refusal = refusal;
      this.who = who;
    }

    Refusal refusal() {
      return refusal;
    }

    /** Who the provider says it was; empty if it was not asked. */
    String who() {
      return who;
    }
  }

  /** Where a browser is sent, and what it has to keep until it is back. */
  record Sent(URI to, String browser) {}

  /** A session that was opened, and the page to go on to. */
  record Back(SignIns.Opened opened, String target) {}

  private final ProviderSettings settings;
  private final ProviderClient client;
  private final ProviderQueries stored;
  private final SignIns signIns;
  private final Grants grants;
  private final PasswordEncoder encoder;
  private final Clock clock;

  /** How many sign-ins each address began lately. */
  private final Cache<String, Integer> begun =
      Caffeine.newBuilder()
          .expireAfterWrite(MAX_AWAY)
          .maximumSize(100_000)
          .executor(Runnable::run)
          .build();

  ProviderSignIns(
      ProviderSettings settings,
      ProviderClient client,
      ProviderQueries stored,
      SignIns signIns,
      Grants grants,
      PasswordEncoder encoder,
      Clock clock) {
    this.settings = settings;
    this.client = client;
    this.stored = stored;
    this.signIns = signIns;
    this.grants = grants;
    this.encoder = encoder;
    this.clock = clock;
  }

  /** What the provider is called; null if there is none. */
  @Nullable String title() {
    return settings.isSet() ? settings.title() : null;
  }

  /**
   * Sends a browser to the provider.
   *
   * @throws ProblemException if so many are there already that somebody fills the table
   */
  Sent start(URI back, String target, String caller) throws ProviderException {
    // One that begins sign-ins and never ends them must not take the room of all others.
    if (begun.asMap().merge(caller, 1, Integer::sum) > MAX_OF_ONE_CALLER) {
      throw ProblemException.busy(
          "sign-ins-busy",
          "too many sign-ins were begun from this address; try again in some minutes");
    }
    if (stored.waiting() >= MAX_WAITING) {
      throw ProblemException.busy(
          "sign-ins-busy", "too many people sign in at this moment; try again in some minutes");
    }
    String state = Tokens.make();
    String nonce = Tokens.make();
    String browser = Tokens.make();
    String verifier = new CodeVerifier().getValue();
    URI to = client.signInAt(state, nonce, verifier, back);
    stored.start(
        Tokens.hash(state), Tokens.hash(browser), nonce, verifier, target, clock.instant());
    return new Sent(to, browser);
  }

  /** Signs in who comes back with a code. */
  Back back(String code, String state, String browser, URI back) throws RefusedException {
    ProviderQueries.Started started =
        stored
            .take(Tokens.hash(state), Tokens.hash(browser), clock.instant().minus(MAX_AWAY))
            .orElseThrow(() -> new RefusedException(Refusal.EXPIRED, ""));
    ProviderClient.SignedIn person;
    try {
      person = client.signedIn(code, started.nonce(), started.verifier(), back);
    } catch (ProviderException e) {
      LOG.warn("{}", e.getMessage());
      throw new RefusedException(Refusal.FAILED, "");
    }
    Role role =
        settings
            .roleOf(person.groups())
            .or(
                () ->
                    grants.areHeldBy(person.groups())
                        ? Optional.of(Role.LIMITED)
                        : Optional.empty())
            .orElseThrow(() -> new RefusedException(Refusal.NO_ROLE, person.name()));
    String account = account(person, role);
    grants.setProviderGroups(account, person.groups());
    String token = signIns.open(account);
    stored.mark(Tokens.hash(token), person.idToken(), person.session());
    return new Back(
        new SignIns.Opened(token, signIns.person(account, role.word())), started.target());
  }

  /** The account of a person, which is made at the first sign-in. */
  private String account(ProviderClient.SignedIn person, Role role) throws RefusedException {
    String issuer = settings.issuer();
    Optional<ProviderQueries.Known> known = stored.account(issuer, person.subject());
    if (known.isEmpty()) {
      String name = name(person);
      // Its hash is of a secret that nobody has: there is no password to sign in with here.
      int added =
          stored.add(
              name,
              person.displayName(),
              encoder.encode(Tokens.make()),
              role.word(),
              clock.instant(),
              issuer,
              person.subject());
      known = stored.account(issuer, person.subject());
      if (added == 0 && known.isEmpty()) {
        throw new RefusedException(Refusal.NAME_TAKEN, name);
      }
    }
    ProviderQueries.Known account = known.orElseThrow();
    if (account.disabledAt() != null) {
      throw new RefusedException(Refusal.DISABLED, account.name());
    }
    stored.update(issuer, person.subject(), person.displayName(), role.word());
    signIns.forgetCached(); // the role may be another one than before
    return account.name();
  }

  private static String name(ProviderClient.SignedIn person) throws RefusedException {
    try {
      return HolderNames.checked(person.name());
    } catch (ProblemException e) {
      LOG.warn("the provider names somebody '{}', which is no name here", person.subject());
      throw new RefusedException(Refusal.FAILED, "");
    }
  }

  /** Where to go on to end a session at the provider too; empty if it was not opened there. */
  Optional<String> endSession(String token, String base) {
    if (!settings.isSet()) {
      return Optional.empty();
    }
    try {
      Optional<String> idToken = stored.idToken(Tokens.hash(token));
      return idToken.isEmpty()
          ? Optional.empty()
          : client.signOutAt(idToken.get(), URI.create(base + "/")).map(URI::toString);
    } catch (ProviderException e) {
      LOG.warn("signed out here only: {}", e.getMessage());
      return Optional.empty();
    }
  }

  /** Ends the sessions that the provider says are over. */
  void ended(String logoutToken) throws ProviderException {
    ProviderClient.Ended ended = client.ended(logoutToken);
    int over =
        ended.session().isEmpty()
            ? stored.endAllOf(settings.issuer(), ended.subject())
            : stored.endSession(ended.session());
    signIns.forgetCached();
    LOG.info("the provider ended {} sessions", over);
  }

  /** Forgets who went to the provider and never came back. */
  @Scheduled(fixedDelay = 10, initialDelay = 5, timeUnit = TimeUnit.MINUTES)
  void sweep() {
    Instant before = clock.instant().minus(MAX_AWAY);
    stored.deleteBefore(before);
  }
}
