package longthread.service.watches;

import java.security.SecureRandom;
import java.time.Clock;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.json.CanonicalJson;
import longthread.service.live.References;
import longthread.service.outgoing.Destinations;
import longthread.service.storage.watches.WatchQueries;
import longthread.service.web.ProblemException;
import longthread.service.workspaces.WorkspaceMaps;
import org.jspecify.annotations.Nullable;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.node.ObjectNode;

/** Makes, lists and ends watches. */
@Service
class Watches {
  static final List<String> TARGETS = List.of("asset", "owner", "label", "workspace");
  static final List<String> ABOUT =
      List.of("failure", "lateness", "check", "unusual", "notice", "leak");
  static final List<String> CHANNELS = List.of("webhook", "email");
  static final List<String> DIGESTS = List.of("at-once", "hourly", "daily");
  private static final int MAX_TEXT = 300;
  private static final int SECRET_BYTES = 24;
  private static final int MAX_LISTED = 5_000;

  /**
   * A watch to be made.
   *
   * @param target a reference, an owner, a label or a workspace, as {@code targetKind} says
   * @param about failure, lateness, check, unusual, notice, leak; all if absent
   * @param channel webhook or email
   * @param address where to: an address that takes POST, or a mailbox
   * @param digest at-once, hourly or daily; at once if absent
   * @param digestAt when a daily digest is sent, such as 07:30
   * @param quietFrom from when nothing is sent, such as 22:00; it is sent after {@code quietUntil}
   * @param zone of these times, such as Europe/Paris; UTC if absent
   */
  record NewWatch(
      @Nullable String title,
      String targetKind,
      String target,
      @Nullable List<String> about,
      String channel,
      String address,
      @Nullable String digest,
      @Nullable String digestAt,
      @Nullable String quietFrom,
      @Nullable String quietUntil,
      @Nullable String zone) {}

  /** A watch as it is listed. */
  record ListedWatch(
      String id,
      String owner,
      String title,
      String targetKind,
      String target,
      List<String> about,
      String channel,
      String address,
      String digest,
      @Nullable String digestAt,
      @Nullable String quietFrom,
      @Nullable String quietUntil,
      String zone,
      Instant madeAt) {
    static ListedWatch of(WatchQueries.Watch watch, boolean mayBeSeen) {
      return new ListedWatch(
          watch.id(),
          watch.owner(),
          watch.title(),
          watch.targetKind(),
          watch.target(),
          List.of(watch.about()),
          watch.channel(),
          mayBeSeen ? watch.address() : "(not shown)",
          watch.digest(),
          watch.digestAt(),
          watch.quietFrom(),
          watch.quietUntil(),
          watch.zone(),
          watch.madeAt());
    }
  }

  /**
   * A watch that was made.
   *
   * @param secret what the messages of a webhook are signed with; shown only here
   */
  record MadeWatch(String id, @Nullable String secret) {}

  /**
   * A message of a watch.
   *
   * @param state waiting, sent or dead
   * @param tries how often it was tried
   * @param nextAt when it is tried next
   * @param problem why the last try failed
   */
  record ListedDelivery(
      String id,
      String watch,
      Instant madeAt,
      String subject,
      String state,
      int tries,
      @Nullable Instant nextAt,
      @Nullable Instant sentAt,
      @Nullable String problem) {
    static ListedDelivery of(WatchQueries.Delivery row) {
      return new ListedDelivery(
          row.id(),
          row.watchId(),
          row.madeAt(),
          row.subject(),
          row.state(),
          row.tries(),
          row.state().equals("waiting") ? row.nextAt() : null,
          row.sentAt(),
          row.problem());
    }
  }

  private final WatchQueries stored;
  private final References references;
  private final WorkspaceMaps workspaces;
  private final WatchRunner runner;
  private final Clock clock;
  private final Destinations destinations;
  private final List<String> mailDomains;
  private final SecureRandom random = new SecureRandom();

  Watches(
      WatchQueries stored,
      References references,
      WorkspaceMaps workspaces,
      WatchRunner runner,
      Clock clock,
      Destinations destinations,
      @Value("${longthread.mail.domains:}") List<String> mailDomains) {
    this.stored = stored;
    this.references = references;
    this.workspaces = workspaces;
    this.runner = runner;
    this.clock = clock;
    this.destinations = destinations;
    this.mailDomains =
        mailDomains.stream()
            .map(domain -> domain.strip().toLowerCase(Locale.ROOT))
            .filter(domain -> !domain.isEmpty())
            .toList();
  }

  /** All watches; the addresses of others, which may hold secrets, are left out. */
  List<ListedWatch> all(String caller, boolean administers) {
    return stored.all().stream()
        .map(watch -> ListedWatch.of(watch, administers || watch.owner().equals(caller)))
        .toList();
  }

  /** Makes a watch; what is wrong already is not sent. */
  @Transactional
  MadeWatch make(String owner, boolean mayReachMachines, NewWatch wanted) {
    String kind = oneOf("targetKind", wanted.targetKind(), TARGETS);
    String channel = oneOf("channel", wanted.channel(), CHANNELS);
    String digest = wanted.digest() == null ? "at-once" : oneOf("digest", wanted.digest(), DIGESTS);
    String target = target(kind, text("target", wanted.target()));
    String address = address(channel, text("address", wanted.address()), mayReachMachines);
    Set<String> about = new TreeSet<>();
    List<String> words = wanted.about() == null ? List.of() : wanted.about();
    words.forEach(word -> about.add(oneOf("about", word, ABOUT)));
    if (about.isEmpty()) {
      about.addAll(ABOUT);
    }
    String from = time("quietFrom", wanted.quietFrom());
    String until = time("quietUntil", wanted.quietUntil());
    if (from.isEmpty() != until.isEmpty()) {
      throw bad("quiet hours have a beginning and an end; give quietFrom and quietUntil");
    }
    String digestAt = time("digestAt", wanted.digestAt());
    String id = UUID.randomUUID().toString();
    String secret = channel.equals("webhook") ? secret() : "";
    stored.add(
        id,
        owner,
        wanted.title() == null || wanted.title().isBlank() ? target : text("title", wanted.title()),
        kind,
        target,
        about.toArray(String[]::new),
        channel,
        address,
        secret,
        digest,
        digest.equals("daily") && digestAt.isEmpty() ? "07:00" : digestAt,
        from,
        until,
        zone(wanted.zone()),
        clock.instant());
    stored.byId(id).ifPresent(runner::learn);
    return new MadeWatch(id, secret.isEmpty() ? null : secret);
  }

  private String secret() {
    byte[] bytes = new byte[SECRET_BYTES];
    random.nextBytes(bytes);
    return Base64.getEncoder().encodeToString(bytes);
  }

  private String target(String kind, String target) {
    return switch (kind) {
      case "asset" -> references.resolve(target).asset().ref();
      case "workspace" -> workspaces.referenceOf(target);
      default -> target;
    };
  }

  private String address(String channel, String address, boolean mayReachMachines) {
    if (channel.equals("email")) {
      if (!address.matches("[^\\s\\p{Cntrl}@,;<>\"]+@[^\\s\\p{Cntrl}@,;<>\"]+")) {
        throw bad("'" + address + "' is not a mailbox; give one such as name@example.org");
      }
      String domain = address.substring(address.lastIndexOf('@') + 1).toLowerCase(Locale.ROOT);
      if (!mailDomains.contains(domain)) {
        throw bad(
            "mail goes to no mailbox of '"
                + domain
                + "'; use one of "
                + (mailDomains.isEmpty()
                    ? "(no domain is set yet)"
                    : String.join(", ", mailDomains))
                + ", or ask whoever runs the service to list the domain in LONGTHREAD_MAIL_DOMAINS");
      }
      return address;
    }
    if (!mayReachMachines) {
      throw new ProblemException(
          HttpStatus.FORBIDDEN,
          "forbidden",
          "A webhook needs another role",
          "a webhook makes the service call another machine: ask a steward to make it, or use email");
    }
    String fault = destinations.fault(address);
    if (fault != null) {
      throw bad("'" + address + "' cannot be the address of a webhook: " + fault);
    }
    return address;
  }

  private static String zone(@Nullable String zone) {
    try {
      return zone == null || zone.isBlank() ? "UTC" : ZoneId.of(zone.strip()).getId();
    } catch (DateTimeException e) {
      throw bad("'" + zone + "' is no time zone; give one such as Europe/Paris");
    }
  }

  private static String time(String what, @Nullable String time) {
    try {
      return time == null || time.isBlank() ? "" : LocalTime.parse(time.strip()).toString();
    } catch (DateTimeException e) {
      throw bad(what + " '" + time + "' is no time of day; give one such as 22:00");
    }
  }

  private static String oneOf(String what, @Nullable String word, List<String> words) {
    String wanted = word == null ? "" : word.toLowerCase(Locale.ROOT).strip();
    if (!words.contains(wanted)) {
      throw ProblemException.badRequest(
          "unknown-word", what + " '" + word + "' is not one of " + String.join(", ", words));
    }
    return wanted;
  }

  private static String text(String what, @Nullable String text) {
    if (text == null || text.isBlank() || text.length() > MAX_TEXT) {
      throw bad("the watch needs a " + what + " of 1 to " + MAX_TEXT + " characters");
    }
    return text.strip();
  }

  private static ProblemException bad(String detail) {
    return ProblemException.badRequest("bad-watch", detail);
  }

  /** Ends a watch; others' watches are theirs to end, or an administrator's. */
  void end(String caller, boolean administers, String id) {
    checkMayChange(caller, administers, watch(id));
    stored.delete(id);
  }

  private static void checkMayChange(String caller, boolean administers, WatchQueries.Watch watch) {
    if (!administers && !watch.owner().equals(caller)) {
      throw new ProblemException(
          HttpStatus.FORBIDDEN,
          "forbidden",
          "This watch is somebody else's",
          "the watch belongs to " + watch.owner() + ", who can change it, or an administrator");
    }
  }

  WatchQueries.Watch watch(String id) {
    return stored
        .byId(id)
        .orElseThrow(
            () ->
                new ProblemException(
                    HttpStatus.NOT_FOUND,
                    "unknown-watch",
                    "No watch has this id",
                    "there is no watch '" + id + "'; GET /api/v1/watches lists them"));
  }

  /** Sends a test message. */
  void tryOut(String by, boolean administers, String id) {
    WatchQueries.Watch watch = watch(id);
    checkMayChange(by, administers, watch);
    ObjectNode data = CanonicalJson.MAPPER.createObjectNode();
    data.put("by", by).put("text", "This is a test of the watch " + watch.title() + ".");
    String subject = "Test of the watch " + watch.title();
    runner.send(watch, "longthread.test", subject, data, clock.instant());
  }

  /** Messages, the newest first; an empty text leaves a condition out. */
  List<ListedDelivery> deliveries(String watch, String state) {
    return stored.deliveries(watch, state, MAX_LISTED).stream().map(ListedDelivery::of).toList();
  }

  /** Makes a message that was given up wait again. */
  void retry(String id) {
    if (stored.retry(id, clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-delivery",
          "No dead message has this id",
          "no message '" + id + "' was given up; GET /api/v1/deliveries?state=dead lists them");
    }
  }
}
