package longthread.core.gate;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import longthread.core.change.BadDocumentException;
import longthread.core.change.DocumentReader;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * What a change may do: rules, of which the first that fits an item decides, and waivers that let
 * single items pass until a day.
 *
 * @param otherwise where no rule fits; null for the default, by which what breaks fails and the
 *     rest warns
 * @param unknown for changes of names that are not in the catalog
 */
public record GatePolicy(
    List<Rule> rules, @Nullable Decision otherwise, Decision unknown, List<Waiver> waivers) {
  /** The policy where none is given. */
  public static final GatePolicy DEFAULT =
      new GatePolicy(List.of(), null, Decision.FAIL, List.of());

  private static final DocumentReader READER =
      new DocumentReader(GatePolicy.class, "gate-policy.json");

  /** What is done about an item. */
  public enum Decision {
    FAIL,
    WARN,
    ALLOW;

    public String word() {
      return name().toLowerCase(Locale.ROOT);
    }
  }

  /** A rule; an empty set of words fits anything. */
  public record Rule(
      Decision then,
      Set<String> verdicts,
      Set<String> certainties,
      Set<String> changes,
      Set<String> kinds,
      Set<String> owners,
      Set<String> labels,
      Set<String> systems,
      @Nullable String because) {
    boolean fits(Item item, Set<String> changed) {
      return fits(verdicts, Set.of(item.verdict()))
          && fits(certainties, Set.of(item.certainty()))
          && fits(changes, changed)
          && fits(kinds, Set.of(item.kind()))
          && fits(owners, item.owners())
          && fits(labels, item.labels())
          && fits(systems, Set.of(item.system()));
    }

    private static boolean fits(Set<String> wanted, Set<String> words) {
      return wanted.isEmpty() || words.stream().anyMatch(wanted::contains);
    }
  }

  /**
   * An item that passes until a day.
   *
   * @param of the item, or what is changed
   * @param until the last day on which it holds
   */
  public record Waiver(String of, Set<String> verdicts, String reason, LocalDate until) {}

  /** Something that a change does something to. */
  public record Item(
      String ref,
      String kind,
      String system,
      String verdict,
      String certainty,
      Set<String> owners,
      Set<String> labels) {}

  /**
   * What the policy says of an item.
   *
   * @param why the rule or waiver that decided, in words
   */
  public record Decided(Decision decision, String why) {}

  public GatePolicy {
    rules = List.copyOf(rules);
    waivers = List.copyOf(waivers);
  }

  /**
   * Returns the policy in a document, which is YAML or JSON.
   *
   * @throws BadDocumentException with each place that is wrong
   */
  public static GatePolicy read(String document) throws BadDocumentException {
    JsonNode root = READER.read(document);
    var rules = new ArrayList<Rule>();
    for (JsonNode rule : root.path("rules")) {
      rules.add(
          new Rule(
              decision(rule.path("then")),
              words(rule.path("verdict")),
              words(rule.path("certainty")),
              words(rule.path("change")),
              words(rule.path("kind")),
              words(rule.path("owner")),
              words(rule.path("label")),
              words(rule.path("system")),
              rule.path("because").stringValue(null)));
    }
    var waivers = new ArrayList<Waiver>();
    for (JsonNode waiver : root.path("waivers")) {
      waivers.add(
          new Waiver(
              waiver.path("of").stringValue(""),
              words(waiver.path("verdict")),
              waiver.path("reason").stringValue(""),
              LocalDate.parse(waiver.path("until").stringValue(""))));
    }
    return new GatePolicy(
        rules,
        root.has("otherwise") ? decision(root.path("otherwise")) : null,
        root.has("unknown") ? decision(root.path("unknown")) : Decision.FAIL,
        waivers);
  }

  private static Decision decision(JsonNode word) {
    return Decision.valueOf(word.stringValue("").toUpperCase(Locale.ROOT));
  }

  private static Set<String> words(JsonNode list) {
    var words = new HashSet<String>();
    list.forEach(word -> words.add(word.stringValue("")));
    return words;
  }

  /**
   * Decides about an item.
   *
   * @param changes the words of the changes that are judged together
   * @param changed the references of what is changed
   * @param today on which waivers must still hold
   */
  public Decided decide(Item item, Set<String> changes, Set<String> changed, LocalDate today) {
    for (Waiver waiver : waivers) {
      boolean meant = waiver.of().equals(item.ref()) || changed.contains(waiver.of());
      boolean fits = waiver.verdicts().isEmpty() || waiver.verdicts().contains(item.verdict());
      if (meant && fits && !waiver.until().isBefore(today)) {
        return new Decided(
            Decision.ALLOW, "waived until " + waiver.until() + ": " + waiver.reason());
      }
    }
    for (int i = 0; i < rules.size(); i++) {
      Rule rule = rules.get(i);
      if (rule.fits(item, changes)) {
        String because = rule.because() == null ? "" : ": " + rule.because();
        return new Decided(rule.then(), "rule " + (i + 1) + because);
      }
    }
    if (otherwise != null) {
      return new Decided(otherwise, "no rule fits");
    }
    return item.verdict().equals("breaks")
        ? new Decided(Decision.FAIL, "what breaks fails")
        : new Decided(Decision.WARN, "what does not break warns");
  }

  /** The waivers that no longer hold on a day. */
  public List<Waiver> ended(LocalDate today) {
    return waivers.stream().filter(waiver -> waiver.until().isBefore(today)).toList();
  }
}
