package longthread.service.live;

import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.BiConsumer;
import longthread.core.event.HandFacet;
import longthread.core.label.ColumnRule;
import longthread.core.label.LabelPolicy;
import longthread.core.label.MaskKind;
import longthread.core.label.Wildcard;
import longthread.service.storage.StoredText;
import longthread.service.storage.statements.StatementQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/** What people stated of labels, in memory: another object after each change. */
@Component
public class LabelSettings {
  /** By whom, when and in what words something was set. */
  public record Origin(String by, Instant at, @Nullable String note) {}

  /**
   * A rule that gives a label to columns by what they are called.
   *
   * @param value as it was stated, for showing
   */
  public record NameRule(String id, String label, ColumnRule rule, JsonNode value, Origin origin) {}

  /**
   * A place at which a label ends.
   *
   * @param at a whole reference
   * @param review when somebody is to look at it again
   */
  public record Stop(
      String id, String label, String at, String reason, Instant review, Origin origin) {}

  /** A policy with who set it. */
  public record Policy(LabelPolicy rule, JsonNode value, Origin origin) {}

  /** How much of the values with a label a role sees. */
  public record Mask(String id, String label, String role, MaskKind shown, Origin origin) {}

  /** A leak that somebody accepts until a time. */
  public record Accepted(
      String id, String label, String at, String reason, Instant until, Origin origin) {}

  /** All of it. Every list is by id. */
  public record All(
      Map<String, JsonNode> labels,
      List<NameRule> rules,
      List<Stop> stops,
      List<Policy> policies,
      List<Mask> masks,
      List<Accepted> accepted) {}

  private final StatementQueries statements;
  private volatile All now =
      new All(Map.of(), List.of(), List.of(), List.of(), List.of(), List.of());

  LabelSettings(StatementQueries statements, GraphFollower follower) {
    this.statements = statements;
    follower.onRegister(this::load);
    load();
  }

  /** As it stands; the same object until something changes. */
  public All now() {
    return now;
  }

  /** What was stated under an id, with who did. */
  private record Row(String id, JsonNode value, Origin origin) {
    String text(String member) {
      return value.path(member).stringValue("");
    }

    Instant time(String member) {
      return OffsetDateTime.parse(text(member)).toInstant();
    }

    List<String> texts(String member) {
      return value.path(member).valueStream().map(text -> text.stringValue("")).toList();
    }
  }

  private void load() {
    var labels = new TreeMap<String, JsonNode>();
    var rules = new ArrayList<NameRule>();
    var stops = new ArrayList<Stop>();
    var policies = new ArrayList<Policy>();
    var masks = new ArrayList<Mask>();
    var accepted = new ArrayList<Accepted>();
    each(HandFacet.LABEL, "label", (id, row) -> labels.put(id, row.value()));
    each(
        HandFacet.LABEL_RULE,
        "label-rule",
        (id, row) ->
            rules.add(new NameRule(id, row.text("label"), rule(row), row.value(), row.origin())));
    each(
        HandFacet.LABEL_STOP,
        "label-stop",
        (id, row) ->
            stops.add(
                new Stop(
                    id,
                    row.text("label"),
                    row.text("at"),
                    row.text("reason"),
                    row.time("review"),
                    row.origin())));
    each(
        HandFacet.LABEL_POLICY,
        "label-policy",
        (id, row) -> policies.add(new Policy(policy(id, row), row.value(), row.origin())));
    each(
        HandFacet.LABEL_MASK,
        "label-mask",
        (id, row) ->
            masks.add(
                new Mask(
                    id,
                    row.text("label"),
                    row.text("role"),
                    MaskKind.valueOf(row.text("shown").toUpperCase(java.util.Locale.ROOT)),
                    row.origin())));
    each(
        HandFacet.LEAK,
        "leak-accepted",
        (id, row) ->
            accepted.add(
                new Accepted(
                    id,
                    row.text("label"),
                    row.text("at"),
                    row.text("reason"),
                    row.time("until"),
                    row.origin())));
    now =
        new All(
            labels,
            List.copyOf(rules),
            List.copyOf(stops),
            List.copyOf(policies),
            List.copyOf(masks),
            List.copyOf(accepted));
  }

  private void each(String key, String register, BiConsumer<String, Row> add) {
    String under = HandFacet.REGISTER + "/" + register + "/";
    for (StatementQueries.Set row : statements.standing(key)) {
      JsonNode facet = StoredText.json(row.body());
      JsonNode value = facet.path("value");
      if (value.isObject() && row.ref().startsWith(under)) {
        String id = row.ref().substring(under.length());
        var origin =
            new Origin(
                facet.path("by").stringValue(""),
                Instant.ofEpochSecond(row.atS(), row.atN()),
                value.path("note").stringValue(null));
        add.accept(id, new Row(id, value, origin));
      }
    }
  }

  private static ColumnRule rule(Row row) {
    return ColumnRule.of(
        row.texts("names"),
        row.texts("except"),
        row.texts("types"),
        row.texts("terms"),
        row.texts("systems"));
  }

  private static LabelPolicy policy(String id, Row row) {
    return new LabelPolicy(
        id,
        row.text("label"),
        row.value().path("allowed").booleanValue(false),
        row.texts("kinds"),
        Wildcard.of(row.texts("systems")),
        Wildcard.of(row.texts("workspaces")),
        Wildcard.of(row.texts("audience")),
        Wildcard.of(row.texts("locations")));
  }
}
