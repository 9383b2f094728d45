package longthread.service.watches;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import longthread.core.cause.Causes;
import longthread.core.cause.EstateHealth;
import longthread.core.graph.LineageGraph;
import longthread.core.json.CanonicalJson;
import longthread.service.access.WholeReaders;
import longthread.service.health.HealthBoard;
import longthread.service.leaks.LeakBoard;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.LabelBoard;
import longthread.service.notices.Notice;
import longthread.service.notices.NoticeBoard;
import longthread.service.storage.watches.WatchQueries;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * Compares what is wrong, and what people say, with what each watch knows, and makes messages of
 * the difference. A cause is sent once, after it has settled: so what turns out to be an effect in
 * the meantime is never sent. Replicas may run it at once; the first to note a cause sends it.
 */
@Component
public class WatchRunner {
  private static final Logger LOG = LoggerFactory.getLogger(WatchRunner.class);
  private static final int MAX_NAMES = 20; // of watched assets in a message
  private static final String TYPE = "longthread.";
  private static final String LEAK = "leak ";

  /** Something that a watch can be notified of. */
  private record News(
      String key, String about, String type, List<Asset> assets, ObjectNode data, String subject) {}

  private final HealthBoard health;
  private final NoticeBoard notices;
  private final LeakBoard leaks;
  private final LabelBoard labels;
  private final Catalog catalog;
  private final WatchQueries stored;
  private final WholeReaders readers;
  private final TransactionTemplate transactions;
  private final Clock clock;
  private final Duration settle;
  private final Map<String, Instant> firstSeen = new HashMap<>();

  WatchRunner(
      HealthBoard health,
      NoticeBoard notices,
      LeakBoard leaks,
      LabelBoard labels,
      Catalog catalog,
      WatchQueries stored,
      WholeReaders readers,
      PlatformTransactionManager manager,
      Clock clock,
      @Value("${longthread.watch.settle:30s}") Duration settle) {
    this.health = health;
    this.notices = notices;
    this.leaks = leaks;
    this.labels = labels;
    this.catalog = catalog;
    this.stored = stored;
    this.readers = readers;
    this.transactions = new TransactionTemplate(manager);
    this.clock = clock;
    this.settle = settle;
  }

  @Scheduled(fixedDelay = 2_000, initialDelay = 5_000)
  void tick() {
    try {
      run();
    } catch (RuntimeException e) {
      LOG.warn("watches cannot be run now: {}", e.getMessage());
    }
  }

  /** Makes a new watch know all that is wrong already. */
  void learn(WatchQueries.Watch watch) {
    Instant now = clock.instant();
    for (News news : news()) {
      if (!watched(watch, news).isEmpty()) {
        stored.know(watch.id(), news.key(), now);
      }
    }
  }

  synchronized void run() {
    // Who lost sight of the whole is notified of nothing that they might not see now.
    List<WatchQueries.Watch> watches =
        stored.all().stream().filter(watch -> readers.includes(watch.owner())).toList();
    if (watches.isEmpty() || health.estate().graph() == null) {
      return;
    }
    Instant now = clock.instant();
    List<News> all = news();
    Set<String> present = new HashSet<>();
    all.forEach(news -> present.add(news.key()));
    firstSeen.keySet().retainAll(present);
    Map<String, Set<String>> known =
        stored.open().stream()
            .collect(
                Collectors.groupingBy(
                    WatchQueries.Known::watchId,
                    Collectors.mapping(WatchQueries.Known::cause, Collectors.toSet())));
    for (News news : all) {
      Instant first = firstSeen.computeIfAbsent(news.key(), k -> now);
      if (first.plus(settle).isAfter(now)) {
        continue;
      }
      for (WatchQueries.Watch watch : watches) {
        Set<String> knows = known.getOrDefault(watch.id(), Set.of());
        if (!knows.contains(news.key())) {
          notify(watch, news, knows, now);
        }
      }
    }
    ended(watches, known, now);
  }

  private void notify(WatchQueries.Watch watch, News news, Set<String> knows, Instant now) {
    List<Asset> watched = watched(watch, news);
    if (watched.isEmpty() || !List.of(watch.about()).contains(news.about())) {
      return;
    }
    // Its effects were sent before the cause was seen: that is the same trouble.
    boolean repeats = effectKeys(news).stream().anyMatch(knows::contains);
    transactions.executeWithoutResult(
        status -> {
          if (stored.know(watch.id(), news.key(), now) == 1 && !repeats) {
            send(watch, news.type(), news.subject(), dataFor(news, watched), now);
          }
        });
  }

  private static Set<String> effectKeys(News news) {
    var keys = new HashSet<String>();
    news.data().path("effectKeys").forEach(key -> keys.add(key.stringValue("")));
    return keys;
  }

  /** The data of the message with the watched assets that it touches. */
  private static ObjectNode dataFor(News news, List<Asset> watched) {
    ObjectNode data = news.data().deepCopy();
    data.remove("effectKeys");
    ArrayNode names = data.putArray("watched");
    watched.stream()
        .limit(MAX_NAMES)
        .forEach(asset -> names.addObject().put("ref", asset.ref()).put("name", asset.shown()));
    data.put("watchedCount", watched.size());
    return data;
  }

  /** Notifies those who know of a cause or notice that it is over. */
  private void ended(
      List<WatchQueries.Watch> watches, Map<String, Set<String>> known, Instant now) {
    Set<String> wrong = new HashSet<>();
    for (EstateHealth.Cause cause : health.estate().causes()) {
      wrong.add(key(cause.incident()));
      cause.effects().forEach(effect -> wrong.add(key(effect)));
    }
    Map<String, Notice> byKey = new LinkedHashMap<>();
    notices.all().forEach(notice -> byKey.put(key(notice), notice));
    Set<String> open = leaks.open().stream().map(leak -> key(leak)).collect(Collectors.toSet());
    for (WatchQueries.Watch watch : watches) {
      for (String cause : known.getOrDefault(watch.id(), Set.of())) {
        Notice notice = byKey.get(cause);
        boolean isOver =
            cause.startsWith(LEAK)
                ? !open.contains(cause)
                : cause.startsWith("notice ")
                    ? notice == null || !notice.isActive()
                    : !wrong.contains(cause);
        if (isOver) {
          transactions.executeWithoutResult(
              status -> {
                if (stored.end(watch.id(), cause, now) == 1) {
                  sendOver(watch, cause, notice, now);
                }
              });
        }
      }
    }
  }

  private void sendOver(
      WatchQueries.Watch watch, String cause, @Nullable Notice notice, Instant now) {
    ObjectNode data = CanonicalJson.MAPPER.createObjectNode();
    if (notice != null) {
      data.put("notice", notice.id()).put("ref", notice.ref()).put("name", notice.name());
      data.put("text", notice.text()).put("state", notice.state());
      if (notice.liftedBy() != null) {
        data.put("liftedBy", notice.liftedBy());
      }
      String subject = notice.name() + ": notice " + notice.state();
      send(watch, TYPE + "notice." + notice.state(), subject, data, now);
    } else if (cause.startsWith(LEAK)) {
      data.put("leak", cause.substring(LEAK.length()));
      send(watch, TYPE + "leak.closed", "A leak is closed or accepted", data, now);
    } else if (!cause.startsWith("notice ")) {
      String ref = cause.substring(cause.lastIndexOf(' ') + 1);
      data.put("ref", ref).put("name", name(ref));
      send(watch, TYPE + "recovered", name(ref) + ": as usual again", data, now);
    }
  }

  /** Puts a message into the queue of a watch, to be sent when its hours allow. */
  void send(WatchQueries.Watch watch, String type, String subject, ObjectNode data, Instant now) {
    String id = UUID.randomUUID().toString();
    ObjectNode event = CanonicalJson.MAPPER.createObjectNode();
    event.put("specversion", "1.0").put("id", id).put("source", "longthread").put("type", type);
    event.put("subject", subject).put("time", now.toString());
    event.put("datacontenttype", "application/json");
    data.put("watch", watch.id()).put("title", watch.title());
    event.set("data", data);
    stored.send(
        id, watch.id(), now, CanonicalJson.text(event), subject, Hours.of(watch).dueAfter(now));
  }

  // ------------------------------------------------------------------ what is new

  private List<News> news() {
    var all = new ArrayList<News>();
    EstateHealth estate = health.estate();
    LineageGraph graph = estate.graph();
    if (graph != null) {
      for (EstateHealth.Cause cause : estate.causes()) {
        all.add(news(graph, estate, cause));
      }
    }
    for (Notice notice : notices.all()) {
      if (notice.isActive()) {
        all.add(news(notice));
      }
    }
    leaks.open().forEach(leak -> all.add(news(leak)));
    return all;
  }

  private News news(LineageGraph graph, EstateHealth estate, EstateHealth.Cause cause) {
    Causes.Incident incident = cause.incident();
    var assets = new ArrayList<Asset>();
    catalog.asset(incident.ref()).ifPresent(assets::add);
    for (int at : estate.affected(cause, asset -> true)) {
      catalog
          .asset(graph.assetReference(at))
          .filter(asset -> !asset.ref().equals(incident.ref()))
          .ifPresent(assets::add);
    }
    String about =
        switch (cause.state()) {
          case FAILED -> "failure";
          case LATE, OVERDUE -> "lateness";
          case CHECK_FAILED -> "check";
          default -> "unusual";
        };
    ObjectNode data = CanonicalJson.MAPPER.createObjectNode();
    data.put("ref", incident.ref()).put("name", name(incident.ref()));
    data.put("what", incident.what().word()).put("state", cause.state().word());
    data.put("since", incident.at().toString()).put("evidence", incident.evidence());
    if (incident.column() != null) {
      data.put("column", incident.column());
    }
    if (incident.error() != null) {
      data.put("error", incident.error());
    }
    ArrayNode owners = data.putArray("owners");
    catalog.asset(incident.ref()).map(Asset::ownerNames).orElse(List.of()).forEach(owners::add);
    ArrayNode effects = data.putArray("effects");
    ArrayNode keys = data.putArray("effectKeys");
    for (Causes.Incident effect : cause.effects()) {
      keys.add(key(effect));
      if (effects.size() < MAX_NAMES) {
        effects.addObject().put("ref", effect.ref()).put("what", effect.what().word());
      }
    }
    data.put("affects", cause.affects());
    String subject = name(incident.ref()) + ": " + incident.evidence();
    return new News(key(incident), about, TYPE + cause.state().word(), assets, data, subject);
  }

  private News news(Notice notice) {
    ObjectNode data = CanonicalJson.MAPPER.createObjectNode();
    data.put("notice", notice.id()).put("ref", notice.ref()).put("name", notice.name());
    data.put("level", notice.level()).put("text", notice.text()).put("by", notice.by());
    if (notice.until() != null) {
      data.put("until", notice.until().toString());
    }
    if (notice.ticket() != null) {
      data.put("ticket", notice.ticket());
    }
    String subject = notice.name() + ": " + notice.text().lines().findFirst().orElse("");
    return new News(
        key(notice), "notice", TYPE + "notice", notices.affected(notice), data, subject);
  }

  private News news(LeakBoard.Found leak) {
    String label = leak.label().id();
    ObjectNode data = CanonicalJson.MAPPER.createObjectNode();
    data.put("leak", leak.id()).put("ref", leak.ref()).put("name", name(leak.ref()));
    data.put("label", label).put("policy", leak.leak().forbiddenBy().id());
    data.put("certainty", leak.leak().isCertain() ? "certain" : "possible");
    data.put("columns", leak.leak().columns().size()).put("hops", leak.leak().hops());
    List<Asset> assets = catalog.asset(leak.ref()).stream().toList();
    String subject = name(leak.ref()) + ": " + label + " data that may not be here";
    return new News(key(leak), "leak", TYPE + "leak", assets, data, subject);
  }

  private static String key(LeakBoard.Found leak) {
    return LEAK + leak.id();
  }

  private static String key(Causes.Incident incident) {
    return incident.what().word()
        + " "
        + incident.at()
        + " "
        + (incident.column() == null ? "-" : incident.column().replace(' ', '_'))
        + " "
        + incident.ref();
  }

  private static String key(Notice notice) {
    return "notice " + notice.id();
  }

  /** The assets of the news that a watch is on. */
  private List<Asset> watched(WatchQueries.Watch watch, News news) {
    return news.assets().stream().filter(asset -> isOn(watch, asset)).toList();
  }

  private boolean isOn(WatchQueries.Watch watch, Asset asset) {
    return switch (watch.targetKind()) {
      case "asset" -> asset.ref().equals(watch.target()) || asset.parts().contains(watch.target());
      case "owner" -> asset.ownerNames().contains(watch.target());
      case "label" ->
          asset.labels().contains(watch.target())
              || labels.labelsOf(asset.ref()).contains(watch.target());
      default -> asset.ref().startsWith(watch.target() + "/");
    };
  }

  private String name(String ref) {
    return catalog.asset(ref).map(Asset::shown).orElse(ref);
  }
}
