package longthread.service.watches;

import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import longthread.core.json.CanonicalJson;
import longthread.service.outgoing.OutgoingCalls;
import longthread.service.storage.watches.WatchQueries;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.mail.MailException;
import org.springframework.mail.SimpleMailMessage;
import org.springframework.mail.javamail.JavaMailSenderImpl;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/**
 * Sends what is due: CloudEvents to webhooks, and mail. All that is due at once for one watch goes
 * as one message. What cannot be sent is tried again at growing intervals for about a day, and then
 * given up to the list of dead messages.
 *
 * <p>A webhook gets one event (structured mode) or a batch of them, signed: {@code
 * webhook-signature} is {@code v1,} and the Base64 of HMAC-SHA256 over {@code
 * webhook-id.webhook-timestamp.body} with the secret of the watch.
 *
 * @see "CloudEvents 1.0.2, HTTP protocol binding, sections 3.2 and 3.3"
 * @see "Standard Webhooks 1.0, Signature scheme"
 */
@Component
class Deliverer {
  private static final Logger LOG = LoggerFactory.getLogger(Deliverer.class);
  private static final int AT_ONCE = 100;
  private static final int THREADS = 32;
  private static final int SLOW_THREADS = 8;
  private static final int MAX_SLOW = 10_000;

  /** So many exchanges of full length after each other are over before TAKEN is. */
  private static final int MAX_ROUNDS = 20;

  /** From when on a receiver counts as slow. */
  private static final Duration SLOW = Duration.ofSeconds(3);

  /** Longer than it takes to send so many to addresses that do not answer. */
  private static final Duration TAKEN = Duration.ofMinutes(5);

  private static final Duration TIMEOUT = Duration.ofSeconds(10);
  private static final Duration KEPT = Duration.ofDays(30);
  private static final int MAX_PROBLEM = 300;
  private static final List<Duration> WAITS =
      List.of(
          Duration.ofSeconds(10),
          Duration.ofMinutes(1),
          Duration.ofMinutes(5),
          Duration.ofMinutes(30),
          Duration.ofHours(2),
          Duration.ofHours(6),
          Duration.ofHours(12));

  private final WatchQueries stored;
  private final Clock clock;
  private final OutgoingCalls calls;
  private final ExecutorService senders = senders(THREADS);
  private final ExecutorService slowSenders = senders(SLOW_THREADS);

  /** The receivers that were slow the last time. */
  private final Set<String> slow = ConcurrentHashMap.newKeySet();

  private final @Nullable JavaMailSenderImpl mail;
  private final String sender;

  Deliverer(
      WatchQueries stored,
      Clock clock,
      OutgoingCalls calls,
      @Value("${longthread.smtp.url:}") String smtp,
      @Value("${longthread.smtp.from:longthread@localhost}") String sender) {
    this.stored = stored;
    this.clock = clock;
    this.calls = calls;
    this.mail = smtp.isBlank() ? null : mail(URI.create(smtp.strip()));
    this.sender = sender;
  }

  private static ExecutorService senders(int threads) {
    // What does not fit is taken again when TAKEN is over; a longer queue would send it twice.
    return new ThreadPoolExecutor(
        threads,
        threads,
        0,
        TimeUnit.SECONDS,
        new LinkedBlockingQueue<>(threads * MAX_ROUNDS),
        work -> {
          var thread = new Thread(work, "watch-sender");
          thread.setDaemon(true);
          return thread;
        },
        new ThreadPoolExecutor.DiscardPolicy());
  }

  private static JavaMailSenderImpl mail(URI server) {
    var mail = new JavaMailSenderImpl();
    mail.setHost(server.getHost());
    boolean encrypted = "smtps".equals(server.getScheme());
    mail.setPort(server.getPort() > 0 ? server.getPort() : encrypted ? 465 : 25);
    mail.setProtocol(encrypted ? "smtps" : "smtp");
    if (server.getUserInfo() != null) {
      String[] user = server.getUserInfo().split(":", 2);
      mail.setUsername(user[0]);
      mail.setPassword(user.length > 1 ? user[1] : "");
    }
    var properties = mail.getJavaMailProperties();
    properties.put("mail.smtp.starttls.enable", "true");
    for (String limit : new String[] {"connectiontimeout", "timeout", "writetimeout"}) {
      properties.put("mail.smtp." + limit, "" + TIMEOUT.toMillis());
      properties.put("mail.smtps." + limit, "" + TIMEOUT.toMillis());
    }
    return mail;
  }

  @Scheduled(fixedDelay = 1_000, initialDelay = 5_000)
  void tick() {
    try {
      Instant now = clock.instant();
      var byWatch = new LinkedHashMap<String, List<WatchQueries.Delivery>>();
      stored
          .take(now, now.plus(TAKEN), AT_ONCE)
          .forEach(due -> byWatch.computeIfAbsent(due.watchId(), k -> new ArrayList<>()).add(due));
      byWatch.forEach((id, due) -> stored.byId(id).ifPresent(watch -> hand(watch, due)));
    } catch (RuntimeException e) {
      LOG.warn("messages of watches cannot be sent now: {}", e.getMessage());
    }
  }

  /**
   * Hands messages to a sender and does not wait for it. A receiver that was slow the last time
   * gets one of the few senders for such, so that it delays only itself and its like.
   */
  private void hand(WatchQueries.Watch watch, List<WatchQueries.Delivery> due) {
    String receiver = receiver(watch);
    ExecutorService lane = slow.contains(receiver) ? slowSenders : senders;
    lane.execute(
        () -> {
          Instant begun = clock.instant();
          try {
            send(watch, due);
          } catch (RuntimeException e) {
            LOG.warn("a message of a watch cannot be sent now", e);
          }
          if (Duration.between(begun, clock.instant()).compareTo(SLOW) < 0) {
            slow.remove(receiver);
          } else if (slow.size() < MAX_SLOW) {
            slow.add(receiver);
          }
        });
  }

  private static String receiver(WatchQueries.Watch watch) {
    if (watch.channel().equals("email")) {
      return "mail";
    }
    try {
      return String.valueOf(URI.create(watch.address()).getAuthority());
    } catch (IllegalArgumentException e) {
      return watch.address();
    }
  }

  @PreDestroy
  void end() {
    senders.shutdown();
    slowSenders.shutdown();
  }

  @Scheduled(fixedDelay = 3_600_000, initialDelay = 60_000)
  void forget() {
    stored.forget(clock.instant().minus(KEPT));
  }

  private void send(WatchQueries.Watch watch, List<WatchQueries.Delivery> due) {
    if (stored.isSuspended(watch.owner())) {
      String ended = "the account of " + watch.owner() + " is disabled";
      due.forEach(one -> stored.done(one.id(), "dead", clock.instant(), null, ended));
      return;
    }
    String problem = watch.channel().equals("email") ? byMail(watch, due) : byWebhook(watch, due);
    Instant now = clock.instant();
    for (WatchQueries.Delivery one : due) {
      if (problem == null) {
        stored.done(one.id(), "sent", now, now, null);
      } else if (one.tries() >= WAITS.size()) {
        LOG.warn("gave up message {} of watch {}: {}", one.id(), watch.id(), problem);
        stored.done(one.id(), "dead", now, null, problem);
      } else {
        stored.done(one.id(), "waiting", now.plus(WAITS.get(one.tries())), null, problem);
      }
    }
  }

  // ------------------------------------------------------------------ webhooks

  private @Nullable String byWebhook(WatchQueries.Watch watch, List<WatchQueries.Delivery> due) {
    boolean many = due.size() > 1;
    String body =
        many
            ? due.stream()
                .map(WatchQueries.Delivery::message)
                .collect(Collectors.joining(",", "[", "]"))
            : due.get(0).message();
    String kind = many ? "application/cloudevents-batch+json" : "application/cloudevents+json";
    String id = due.get(0).id();
    String second = "" + clock.instant().getEpochSecond();
    Map<String, String> headers =
        Map.of(
            "webhook-id",
            id,
            "webhook-timestamp",
            second,
            "webhook-signature",
            "v1," + signature(String.valueOf(watch.secret()), id + "." + second + "." + body));
    try {
      int status =
          calls.post(
              URI.create(watch.address()),
              headers,
              kind + "; charset=utf-8",
              body.getBytes(StandardCharsets.UTF_8));
      // How exactly another machine answers is not for everybody who may make a watch.
      return status >= 200 && status < 300 ? null : "the address answered " + status / 100 + "xx";
    } catch (IOException | IllegalArgumentException e) {
      LOG.info("watch {} cannot be reached: {}", watch.id(), words(e));
      return "the address cannot be reached, or the service may not call it";
    }
  }

  static String signature(String secret, String signed) {
    try {
      var mac = Mac.getInstance("HmacSHA256");
      mac.init(new SecretKeySpec(Base64.getDecoder().decode(secret), "HmacSHA256"));
      return Base64.getEncoder()
          .encodeToString(mac.doFinal(signed.getBytes(StandardCharsets.UTF_8)));
    } catch (GeneralSecurityException e) {
      throw new IllegalStateException("HMAC-SHA256 is in every Java", e);
    }
  }

  // ------------------------------------------------------------------ mail

  private @Nullable String byMail(WatchQueries.Watch watch, List<WatchQueries.Delivery> due) {
    if (mail == null) {
      return "no mail server is set; start the service with LONGTHREAD_SMTP_URL=smtp://host:25";
    }
    var message = new SimpleMailMessage();
    message.setFrom(sender);
    message.setTo(watch.address());
    message.setSubject(
        due.size() == 1
            ? line(due.get(0).subject())
            : due.size() + " messages about " + line(watch.title()));
    message.setText(
        due.stream().map(Deliverer::text).collect(Collectors.joining("\n\n"))
            + "\n\nYou get this as "
            + watch.owner()
            + " watches "
            + watch.title()
            + ".");
    try {
      mail.send(message);
      return null;
    } catch (MailException e) {
      return limited("the mail server refused it: " + words(e));
    }
  }

  private static String text(WatchQueries.Delivery delivery) {
    JsonNode event = CanonicalJson.MAPPER.readTree(delivery.message());
    JsonNode data = event.path("data");
    var lines = new ArrayList<String>(List.of(delivery.subject()));
    Map<String, String> shown = new LinkedHashMap<>();
    shown.put("since", "Since");
    shown.put("error", "Error");
    shown.put("text", "Notice");
    shown.put("by", "By");
    shown.put("ticket", "Ticket");
    shown.forEach(
        (member, word) -> {
          if (data.path(member).isString()) {
            lines.add(word + ": " + data.path(member).stringValue());
          }
        });
    if (data.path("owners").size() > 0) {
      var owners = new ArrayList<String>();
      data.path("owners").forEach(owner -> owners.add(owner.stringValue("")));
      lines.add("Owner: " + String.join(", ", owners));
    }
    if (data.path("watched").size() > 0) {
      var names = new ArrayList<String>();
      data.path("watched").forEach(one -> names.add(one.path("name").stringValue("")));
      lines.add("Affects what you watch: " + String.join(", ", names));
    }
    if (data.path("effects").size() > 0) {
      lines.add(data.path("effects").size() + " other incidents follow from it.");
    }
    return String.join("\n", lines);
  }

  private static String line(String text) {
    return text.replaceAll("\\s+", " ");
  }

  private static String words(Exception e) {
    Throwable root = e;
    while (root.getCause() != null) {
      root = root.getCause();
    }
    return root.getMessage() == null ? root.getClass().getSimpleName() : root.getMessage();
  }

  private static String limited(String text) {
    return text.length() <= MAX_PROBLEM ? text : text.substring(0, MAX_PROBLEM);
  }
}
