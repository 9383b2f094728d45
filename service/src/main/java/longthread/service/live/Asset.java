package longthread.service.live;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeSet;
import java.util.function.Function;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.Kind;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.asset.ShortNames;
import longthread.core.event.CardReader;
import org.jspecify.annotations.Nullable;

/**
 * An asset as people see it: the cards of all its parts resolved together.
 *
 * @param ref the reference of the leading part
 * @param parts the references of all parts, the leading one first
 */
public record Asset(String ref, List<String> parts, Card card, String system)
    implements ShortNames.Named {
  static Asset of(String lead, Collection<Card> cards, Function<Card, String> systemOf) {
    Card first =
        cards.stream()
            .filter(card -> card.ref().equals(lead))
            .findFirst()
            .orElseGet(() -> whole(lead, cards.iterator().next()));
    var parts = new ArrayList<String>(List.of(lead));
    cards.stream().map(Card::ref).filter(ref -> !ref.equals(lead)).sorted().forEach(parts::add);
    if (cards.size() == 1 && cards.contains(first)) {
      return new Asset(lead, parts, first, systemOf.apply(first));
    }
    var ordered = new ArrayList<Card>(List.of(first));
    cards.stream()
        .filter(card -> card != first)
        .sorted((a, b) -> a.ref().compareTo(b.ref()))
        .forEach(ordered::add);
    Card leading = leadingSchema(ordered);
    var columns = new LinkedHashMap<String, Card.Column>();
    if (leading != null) {
      leading.columns().forEach(column -> columns.put(column.path(), column));
    }
    for (Card card : ordered) {
      for (Card.Column column : card.columns()) {
        if (card != leading && (leading == null || columns.containsKey(column.path()))) {
          columns.merge(column.path(), column, Asset::fuller);
        }
      }
    }
    var leadingLast = new ArrayList<>(values(ordered));
    Collections.reverse(leadingLast);
    for (Card.Value value : leadingLast) {
      if (value.what().equals("description") && !value.column().isEmpty()) {
        columns.computeIfPresent(
            value.column(), (path, column) -> described(column, value.texts().get(0)));
      }
    }
    Kind kind =
        ordered.stream()
            .filter(card -> card.described() && card.kind() != Kind.DATASET)
            .map(Card::kind)
            .findFirst()
            .orElse(first.kind());
    var merged =
        new Card(
            lead,
            kind,
            first.name(),
            firstOf(ordered, Card::title),
            firstOf(ordered, Card::system),
            first.container(),
            description(ordered),
            firstOf(ordered, Card::url),
            owners(ordered),
            ordered.stream().flatMap(c -> c.tags().stream()).distinct().toList(),
            List.copyOf(columns.values()),
            leading == null ? null : leading.schemaSince(),
            List.of(),
            ordered.stream().anyMatch(Card::described),
            areRetired(ordered),
            firstOf(ordered, Card::code),
            ordered.stream().flatMap(c -> c.details().stream()).filter(distinctName()).toList(),
            List.of(),
            null,
            ordered.stream().flatMap(c -> c.formerly().stream()).distinct().toList(),
            values(ordered),
            ordered.stream().flatMap(c -> c.terms().stream()).distinct().toList(),
            ordered.stream().flatMap(c -> c.links().stream()).distinct().toList(),
            ordered.stream().flatMap(c -> c.joins().stream()).distinct().toList(),
            false,
            ordered.stream().flatMap(c -> c.readers().stream()).distinct().toList());
    return new Asset(lead, parts, merged, systemOf.apply(merged));
  }

  /**
   * The part whose schema is that of the asset: of those that a writer reports the newest. Null if
   * only readers report any: then the columns of all parts count.
   */
  private static @Nullable Card leadingSchema(List<Card> ordered) {
    return ordered.stream()
        .filter(card -> card.schemaSince() != null && !card.columns().isEmpty())
        .max(
            Comparator.comparing((Card card) -> Objects.requireNonNull(card.schemaSince()))
                .thenComparing(Card::ref, Comparator.reverseOrder()))
        .orElse(null);
  }

  /**
   * Whether the asset is retired: all its parts are. A part that is only mentioned or read, such as
   * the alias that a symbolic link names, lives and ends with the others.
   */
  private static boolean areRetired(List<Card> parts) {
    boolean anyRetired =
        parts.stream()
            .anyMatch(part -> part.retired() && part.described() && part.renamedTo() == null);
    return anyRetired
        && parts.stream().allMatch(part -> part.retired() || !part.described() || isOnlyRead(part));
  }

  private static boolean isOnlyRead(Card part) {
    return part.schemaSince() == null && !part.columns().isEmpty();
  }

  /** The card of a whole that no event named, only its parts: it has their kind. */
  private static Card whole(String lead, Card part) {
    DatasetName name = DatasetName.parse(lead);
    Card bare = CardReader.dataset(name, Map.of(), null, false, true);
    return new Card(
        lead,
        part.kind(),
        bare.name(),
        null,
        null,
        bare.container(),
        null,
        null,
        List.of(),
        List.of(),
        List.of(),
        null,
        List.of(),
        false,
        true,
        null,
        List.of(),
        List.of(),
        null,
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        false,
        List.of());
  }

  /** The values of all parts: those of people first, of equal sources those of the leading part. */
  private static List<Card.Value> values(List<Card> ordered) {
    return ordered.stream()
        .flatMap(card -> card.values().stream())
        .distinct()
        .sorted( // a stable sort: of equal sources the leading part stays first
            Comparator.comparing(Card.Value::column)
                .thenComparing(Card.Value::what)
                .thenComparing(Card.Value::source))
        .toList();
  }

  private static @Nullable String description(List<Card> ordered) {
    return values(ordered).stream()
        .filter(value -> value.what().equals("description") && value.column().isEmpty())
        .findFirst()
        .map(value -> value.texts().get(0))
        .orElseGet(() -> firstOf(ordered, Card::description));
  }

  /** The owners of the parts whose owners come from the leading source. */
  private static List<Owner> owners(List<Card> ordered) {
    Card.Source leading =
        values(ordered).stream()
            .filter(value -> value.what().equals("owners"))
            .map(Card.Value::source)
            .findFirst()
            .orElse(Card.Source.EMITTER);
    return ordered.stream()
        .filter(
            card ->
                leading == Card.Source.EMITTER
                    || card.values().stream()
                        .anyMatch(v -> v.what().equals("owners") && v.source() == leading))
        .flatMap(card -> card.owners().stream())
        .distinct()
        .toList();
  }

  private static java.util.function.Predicate<Card.Detail> distinctName() {
    var seen = new java.util.HashSet<String>();
    return detail -> seen.add(detail.name());
  }

  private static Card.Column described(Card.Column column, String description) {
    return new Card.Column(
        column.path(),
        column.type(),
        description,
        column.tags(),
        column.calculation(),
        column.terms());
  }

  private static Card.Column fuller(Card.Column a, Card.Column b) {
    String description = a.description() == null ? b.description() : a.description();
    var tags = new ArrayList<>(a.tags());
    b.tags().stream().filter(tag -> !tags.contains(tag)).forEach(tags::add);
    return new Card.Column(
        a.path(),
        a.type() == null ? b.type() : a.type(),
        description,
        tags,
        a.calculation() == null ? b.calculation() : a.calculation(),
        java.util.stream.Stream.concat(a.terms().stream(), b.terms().stream()).distinct().toList());
  }

  private static <T> @Nullable T firstOf(List<Card> cards, Function<Card, @Nullable T> part) {
    return cards.stream().map(part).filter(Objects::nonNull).findFirst().orElse(null);
  }

  /** The paths of columns in whose names dots stand, by the text that an emitter would write. */
  Map<String, String> dottedNames() {
    var names = new java.util.HashMap<String, String>();
    for (Card.Column column : card.columns()) {
      if (column.path().contains("%2E")) {
        names.put(column.path().replace("%2E", "."), column.path());
      }
    }
    if (!names.isEmpty()) {
      card.columns().forEach(column -> names.put(column.path(), column.path()));
    }
    return names;
  }

  /** Whether it is a job or a pipeline, not data. */
  public boolean isJob() {
    return Reference.isJob(ref);
  }

  /** Whether the caller may only know that it is there; see {@link Sight}. */
  public boolean isRestricted() {
    return card.kind() == Kind.RESTRICTED;
  }

  @Override
  public boolean isRetired() {
    return card.retired();
  }

  @Override
  public String shown() {
    return card.shown();
  }

  public Kind kind() {
    return card.kind();
  }

  /** The words of all tags on it and on its columns. */
  public List<String> labels() {
    TreeSet<String> words = null; // of most assets there are none, and all are asked in a search
    for (Card.Tag tag : card.tags()) {
      words = with(words, tag);
    }
    for (Card.Column column : card.columns()) {
      for (Card.Tag tag : column.tags()) {
        words = with(words, tag);
      }
    }
    return words == null ? List.of() : List.copyOf(words);
  }

  private static TreeSet<String> with(@Nullable TreeSet<String> words, Card.Tag tag) {
    TreeSet<String> more = words == null ? new TreeSet<>() : words;
    more.add(tag.word());
    return more;
  }

  public List<String> ownerNames() {
    if (card.owners().size() < 2) {
      return card.owners().isEmpty() ? List.of() : List.of(card.owners().get(0).name());
    }
    return card.owners().stream().map(owner -> owner.name()).distinct().toList();
  }
}
