package longthread.core.asset;

import java.time.Instant;
import java.util.List;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * What is known of one dataset or job by its own name, before names are merged into assets.
 *
 * @param ref its reference
 * @param name the last part of its name
 * @param system the name its data source gave itself; null if it gave none
 * @param container where it is browsed, outermost first: database and schema, workspace, pipeline
 * @param schemaSince since when a writer, or the dataset itself, reports the columns as they are;
 *     null where only readers do, or nobody
 * @param described whether any event said anything of it, or only mentioned it
 * @param retired whether it was dropped and not written since
 * @param code the program text of a job
 * @param details further properties that its source reported, such as storage or processing type
 * @param url its address in its own tool; null if what was reported is no absolute web address
 * @param ties jobs that run before or after a job, kept apart from the flow of data
 * @param renamedTo the reference of the name it goes by now; null while the name itself lives
 * @param formerly the names it had before, and until when; what they were then is its past
 * @param values every description and list of owners that somebody gave, the leading one first
 * @param terms the ids of the glossary terms that people gave it
 * @param links further addresses that people gave it
 * @param joins the names that people joined it with, or hold apart from it
 * @param leads whether people chose this name to stand for the asset
 * @param readers who may read it, as its own source says
 */
public record Card(
    String ref,
    Kind kind,
    String name,
    @Nullable String title,
    @Nullable String system,
    List<String> container,
    @Nullable String description,
    @Nullable String url,
    List<Owner> owners,
    List<Tag> tags,
    List<Column> columns,
    @Nullable Instant schemaSince,
    List<Symlink> symlinks,
    boolean described,
    boolean retired,
    @Nullable Code code,
    List<Detail> details,
    List<Tie> ties,
    @Nullable String renamedTo,
    List<Former> formerly,
    List<Value> values,
    List<String> terms,
    List<WebLink> links,
    List<Join> joins,
    boolean leads,
    List<String> readers) {
  /**
   * A column as its schema lists it.
   *
   * @param path as in references
   * @param calculation how it is calculated, as its tool shows it; null for a plain field
   * @param terms the ids of the glossary terms that people gave it
   */
  public record Column(
      String path,
      @Nullable String type,
      @Nullable String description,
      List<Tag> tags,
      @Nullable String calculation,
      List<String> terms) {
    public Column {
      path = path.intern(); // most names and types of columns stand in many tables
      type = type == null ? null : type.intern();
      tags = List.copyOf(tags);
      terms = copyOf(terms);
    }
  }

  /**
   * Who stated a value. Of several values the one of the first of these leads: what people set,
   * then what the system itself says of its own assets, then what others report of them.
   */
  public enum Source {
    HAND,
    SYSTEM,
    EMITTER;

    /** The word in the interface. */
    public String word() {
      return name().toLowerCase(java.util.Locale.ROOT);
    }
  }

  /**
   * A value that somebody gave.
   *
   * @param what {@code description} or {@code owners}
   * @param column the path of the column it is about; empty for the asset
   * @param texts the value; of a description one text, of owners each
   * @param by the person, or the producer that reported it
   */
  public record Value(
      String what, String column, List<String> texts, Source source, @Nullable String by) {
    public Value {
      texts = List.copyOf(texts);
    }
  }

  /** A web address with its title. */
  public record WebLink(String title, String url) {}

  /**
   * What people decided of this name and another one.
   *
   * @param apart whether they are two things; else they are one
   */
  public record Join(String ref, boolean apart) {}

  /** A tag and who set it. */
  public record Tag(String key, String value, @Nullable String source) {
    /** The tag in one word: the key alone where the value says no more. */
    public String word() {
      return value.isEmpty() || value.equals("true") || value.equals(key) ? key : key + ":" + value;
    }
  }

  /** Another name of the same data. */
  public record Symlink(String ref, boolean table) {}

  /** Program text as it ran, with where it is kept. */
  public record Code(
      String text, String language, @Nullable String dialect, @Nullable String location) {}

  /** A property in words. */
  public record Detail(String name, String value) {}

  /**
   * Another job that this one is tied to.
   *
   * @param before whether the other one comes before this one
   * @param data whether data goes between them, reported without a dataset; else it is control flow
   * @param rule when it triggers, in the emitter's words
   */
  public record Tie(String ref, boolean before, boolean data, @Nullable String rule) {}

  /** A name that was in use up to a moment, this excluded; {@code alive} if it began anew since. */
  public record Former(String ref, Instant until, boolean alive) {}

  private static final Pattern WEB_ADDRESS =
      Pattern.compile("https?://[^\\s/?#\\p{Cntrl}][^\\s\\p{Cntrl}]*", Pattern.CASE_INSENSITIVE);

  public Card {
    // Others follow it with a click: script or a path of this very service must not pass for it.
    url = url != null && WEB_ADDRESS.matcher(url).matches() ? url : null;
    container = List.copyOf(container);
    owners = List.copyOf(owners);
    tags = List.copyOf(tags);
    columns = List.copyOf(columns);
    symlinks = List.copyOf(symlinks);
    details = List.copyOf(details);
    ties = List.copyOf(ties);
    formerly = List.copyOf(formerly);
    values = copyOf(values);
    terms = copyOf(terms);
    links =
        copyOf(links).stream().filter(link -> WEB_ADDRESS.matcher(link.url()).matches()).toList();
    joins = copyOf(joins);
    readers = copyOf(readers);
  }

  /** A list that cards of an older release do not have. */
  private static <T> List<T> copyOf(@Nullable List<T> list) {
    return list == null ? List.of() : List.copyOf(list);
  }

  /** Whether a text is an absolute web address, which others may follow with a click. */
  public static boolean isWebAddress(String text) {
    return WEB_ADDRESS.matcher(text).matches();
  }

  /**
   * What people call it: its title, else its name with the place it stands in, since a name alone
   * often occurs in several places.
   */
  public String shown() {
    if (title != null || container.isEmpty()) {
      return title == null ? name : title;
    }
    String place = container.get(container.size() - 1);
    return place + (kind == Kind.FILE ? "/" : ".") + name;
  }

  /** The namespace it is in. */
  public String namespace() {
    return namespaceOf(ref);
  }

  /** The namespace of whatever has this reference. */
  public static String namespaceOf(String ref) {
    return Reference.isJob(ref)
        ? JobName.parse(ref).namespace()
        : DatasetName.parse(ref).namespace();
  }

  /** The same card with what is known of its names over time. */
  public Card named(boolean nowRetired, @Nullable String nowCalled, List<Former> before) {
    return new Card(
        ref,
        kind,
        name,
        title,
        system,
        container,
        description,
        url,
        owners,
        tags,
        columns,
        schemaSince,
        symlinks,
        described,
        nowRetired,
        code,
        details,
        ties,
        nowCalled,
        before,
        values,
        terms,
        links,
        joins,
        leads,
        readers);
  }
}
