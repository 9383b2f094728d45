package longthread.service.trail;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import longthread.core.asset.Reference;
import longthread.core.event.HandFacet;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.ThreadFinder;
import longthread.core.json.CanonicalJson;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.live.References;
import longthread.service.statements.Statements;
import longthread.service.storage.StoredText;
import longthread.service.storage.runs.JobVersionQueries;
import longthread.service.storage.statements.StatementQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** Threads that people followed and found right, and whether that still holds. */
@Service
class FollowedThreads {
  private static final String UNDER = HandFacet.REGISTER + "/followed/";

  /**
   * A note that a thread is right.
   *
   * @param state holds, or lapsed since a link or code on the thread is another now
   * @param lapsed what changed; absent while it holds
   */
  record Followed(
      String id,
      String from,
      String to,
      String by,
      Instant at,
      @Nullable String note,
      String state,
      @Nullable String lapsed) {}

  private final GraphFollower follower;
  private final Catalog catalog;
  private final Statements statements;
  private final StatementQueries stored;
  private final JobVersionQueries versions;

  FollowedThreads(
      GraphFollower follower,
      Catalog catalog,
      Statements statements,
      StatementQueries stored,
      JobVersionQueries versions) {
    this.follower = follower;
    this.catalog = catalog;
    this.statements = statements;
    this.stored = stored;
    this.versions = versions;
  }

  /** Notes that somebody followed a thread and found it right. */
  Statements.Stated note(String by, References.Named from, References.Named to, String note) {
    List<String> hops = hops(from.ref(), to.ref());
    if (hops == null) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "no-thread",
          "No thread between the two",
          from.ref() + " does not feed " + to.ref() + "; nothing can be noted of it");
    }
    ObjectNode value = CanonicalJson.MAPPER.createObjectNode();
    value.put("from", from.ref()).put("to", to.ref());
    hops.forEach(value.putArray("hops")::add);
    if (!note.isBlank()) {
      value.put("note", note.strip());
    }
    ArrayNode changes = CanonicalJson.MAPPER.createArrayNode();
    changes.addObject().put("set", "followed").set("value", value);
    return statements.state(by, "", changes, false);
  }

  /** The notes on threads that begin or end at an asset, the newest first; all for null. */
  @Transactional(readOnly = true)
  List<Followed> all(@Nullable String asset) {
    var found = new ArrayList<Followed>();
    for (StatementQueries.Set row : stored.standing(HandFacet.FOLLOWED)) {
      JsonNode facet = StoredText.json(row.body());
      JsonNode value = facet.path("value");
      if (value.isObject() && row.ref().startsWith(UNDER) && isAt(value, asset)) {
        found.add(followed(row, facet, value));
      }
    }
    found.sort((a, b) -> b.at().compareTo(a.at()));
    return found;
  }

  private boolean isAt(JsonNode value, @Nullable String asset) {
    return asset == null
        || assetOf(value.path("from").stringValue("")).equals(asset)
        || assetOf(value.path("to").stringValue("")).equals(asset);
  }

  private String assetOf(String ref) {
    int hash = ref.indexOf('#');
    return catalog.leadOf(hash < 0 ? ref : ref.substring(0, hash));
  }

  private Followed followed(StatementQueries.Set row, JsonNode facet, JsonNode value) {
    var before = new ArrayList<String>();
    value.path("hops").forEach(hop -> before.add(hop.stringValue("")));
    String from = value.path("from").stringValue("");
    String to = value.path("to").stringValue("");
    String lapsed = change(before, hops(from, to));
    return new Followed(
        row.ref().substring(UNDER.length()),
        from,
        to,
        facet.path("by").stringValue(""),
        Instant.ofEpochSecond(row.atS(), row.atN()),
        value.path("note").stringValue(null),
        lapsed == null ? "holds" : "lapsed",
        lapsed);
  }

  private static @Nullable String change(List<String> before, @Nullable List<String> now) {
    if (now == null) {
      return "there is no thread any more";
    }
    if (before.equals(now)) {
      return null;
    }
    var gone = new ArrayList<>(before);
    gone.removeAll(now);
    var added = new ArrayList<>(now);
    added.removeAll(before);
    String is = added.isEmpty() ? "nothing" : added.get(0);
    return gone.isEmpty() ? "new: " + is : "was: " + gone.get(0) + "; is: " + is;
  }

  /** The links of the thread in words, with the version of each job; null if there is none. */
  private @Nullable List<String> hops(String from, String to) {
    LineageGraph graph = follower.graph();
    int start = node(graph, from);
    int end = node(graph, to);
    if (start < 0 || end < 0) {
      return null;
    }
    return ThreadFinder.find(graph, start, end)
        .map(found -> found.hops().stream().map(link -> words(graph, link)).toList())
        .orElse(null);
  }

  private int node(LineageGraph graph, String ref) {
    int hash = ref.indexOf('#');
    var asset = graph.asset(assetOf(ref));
    if (asset.isEmpty()) {
      return -1;
    }
    return hash < 0
        ? graph.rowsOf(asset.getAsInt())
        : graph.node(asset.getAsInt(), ref.substring(hash + 1)).orElse(-1);
  }

  private String words(LineageGraph graph, GraphLink link) {
    String owner = graph.owner(link.owner());
    String by = "";
    if (Reference.isJob(owner)) {
      List<JobVersionQueries.Stored> known = versions.of(owner);
      by = " by " + owner + (known.isEmpty() ? "" : " version " + known.get(0).number());
    }
    return graph.reference(link.from())
        + " "
        + Objects.requireNonNull(link.flow()).words()
        + " "
        + graph.reference(link.to())
        + by;
  }
}
