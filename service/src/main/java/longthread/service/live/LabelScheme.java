package longthread.service.live;

import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.label.LabelRule;
import longthread.service.web.ProblemException;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/** The labels there are, what tags mean them, and how each travels. */
@Component
public class LabelScheme {
  /**
   * A label.
   *
   * @param category what sort of thing it is about
   * @param level how careful one has to be, from 1 to 4
   * @param words the tags that set it, in small letters; its id is one of them
   */
  public record Label(
      String id,
      String title,
      String category,
      int level,
      String definition,
      Set<String> words,
      LabelRule rule) {
    /** Whether a tag sets it. */
    public boolean isMeantBy(String tag) {
      return words.contains(tag.toLowerCase(Locale.ROOT));
    }
  }

  private static final LabelRule VALUES_ONLY = new LabelRule(false, false, false);
  private static final LabelRule SUMS_TOO = new LabelRule(true, true, false);

  private static final List<Label> SHIPPED =
      List.of(
          new Label(
              "confidential",
              "Confidential",
              "business",
              2,
              "Only for those who work with it: prices, contracts, plans. A sum of it is too.",
              Set.of("confidential", "internal", "secret"),
              SUMS_TOO),
          new Label(
              "financial",
              "Financial",
              "business",
              2,
              "Money of the house and of its partners. A sum of it is too.",
              Set.of("financial", "finance"),
              SUMS_TOO),
          new Label(
              "health",
              "Health",
              "people",
              4,
              "How a person is, or was treated. How many there are is not.",
              Set.of("health", "medical"),
              VALUES_ONLY),
          new Label(
              "personal",
              "Personal",
              "people",
              3,
              "Of a person who can be recognised by it: a name, an address, an account. How many"
                  + " persons there are is not.",
              Set.of("personal", "personal-data", "pii"),
              VALUES_ONLY));

  private final LabelSettings settings;

  LabelScheme(LabelSettings settings) {
    this.settings = settings;
  }

  /** All labels, by their ids in order: those that are shipped, with what people set of them. */
  public List<Label> all() {
    LabelSettings.All now = settings.now();
    if (now.labels().isEmpty()) {
      return SHIPPED;
    }
    var labels = new TreeMap<String, Label>();
    SHIPPED.forEach(label -> labels.put(label.id(), label));
    now.labels()
        .forEach(
            (id, value) -> {
              if (value.path("retired").booleanValue(false)) {
                labels.remove(id);
              } else {
                labels.put(id, stated(id, value));
              }
            });
    return List.copyOf(labels.values());
  }

  /** Whether a label is one that comes with the product. */
  public static boolean isShipped(String id) {
    return SHIPPED.stream().anyMatch(label -> label.id().equals(id));
  }

  private static Label stated(String id, JsonNode value) {
    var words = new TreeSet<String>(List.of(id));
    value
        .path("words")
        .forEach(word -> words.add(word.stringValue("").strip().toLowerCase(Locale.ROOT)));
    return new Label(
        id,
        value.path("title").stringValue(id),
        value.path("category").stringValue("other"),
        value.path("level").intValue(1),
        value.path("definition").stringValue(""),
        Set.copyOf(words),
        new LabelRule(
            value.path("overAggregation").booleanValue(false),
            value.path("overConditional").booleanValue(false),
            value.path("overMasks").booleanValue(false)));
  }

  /** The label that a tag sets; most set none. */
  public Optional<Label> meantBy(String tag) {
    return all().stream().filter(label -> label.isMeantBy(tag)).findFirst();
  }

  /**
   * The label with this id.
   *
   * @throws ProblemException 404 with those there are
   */
  public Label named(String id) {
    return all().stream()
        .filter(label -> label.id().equals(id.strip().toLowerCase(Locale.ROOT)))
        .findFirst()
        .orElseThrow(
            () -> {
              var ids = new TreeSet<String>();
              all().forEach(label -> ids.add(label.id()));
              return new ProblemException(
                      HttpStatus.NOT_FOUND,
                      "unknown-label",
                      "No label has this name",
                      "there is no label '" + id + "'; there are " + String.join(", ", ids))
                  .with("labels", ids);
            });
  }
}
