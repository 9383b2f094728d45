package longthread.core.asset;

import java.time.DateTimeException;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Which names are parts of one dataset: partition directories, dated folders and dated shards. A
 * name folds by its own text alone, never by what other names there are, so the order in which
 * names become known plays no part.
 *
 * <p>Own rules come before the built-in ones; the first that fits decides. A rule whose replacement
 * gives the name back keeps it apart from all further rules. Patterns of own rules are of the kind
 * that takes linear time (RE2: no look-around, no references back to groups); another is refused.
 */
public final class FoldingRules {
  /** The rules that come with the product, in the order they are tried. */
  public static final List<String> BUILT_IN =
      List.of(
          "partition-directory",
          "dated-folders",
          "dated-folder",
          "partition-suffix",
          "numbered-file",
          "dated-name");

  private static final Pattern PARTITION = Pattern.compile("(^|/)[A-Za-z_][\\w.-]*=[^/]*(/|$)");
  private static final Pattern DATED_FOLDERS =
      Pattern.compile("/((?:19|20)\\d\\d)/(\\d\\d)(?:/(\\d\\d))?(?:/\\d\\d)?(?=/|$)");
  private static final Pattern DATED_FOLDER =
      Pattern.compile("/((?:19|20)\\d\\d)([-_.]?)(\\d\\d)\\2(\\d\\d)(?=/)");
  private static final Pattern PARTITION_SUFFIX = Pattern.compile("\\$\\d{4,10}$");
  private static final Pattern NUMBERED_FILE = Pattern.compile("/part-\\d{3,}[^/]*$");
  private static final Pattern DATE =
      Pattern.compile(
          "(?<![0-9A-Za-z])((?:19|20)\\d\\d)([-_.]?)(\\d\\d)\\2(\\d\\d)"
              + "(?:[-_.T]?([01]\\d|2[0-3])(?:[-_.]?[0-5]\\d){0,2}Z?)?(?![0-9A-Za-z])");

  /**
   * A name as part of a whole.
   *
   * @param whole the name of what it belongs to; {@code {date}} stands where the parts differ
   * @param part what distinguishes this part from the others
   * @param rule the rule that folded it
   */
  public record Folded(DatasetName whole, String part, String rule) {}

  /** A rule of people, whose pattern takes time linear in the name whatever it is (RE2). */
  private record Own(String spelled, com.google.re2j.Pattern pattern, String replacement) {}

  private final List<Own> own;
  private final Set<String> off;

  private FoldingRules(List<Own> own, Set<String> off) {
    this.own = own;
    this.off = off;
  }

  /** The built-in rules alone. */
  public static FoldingRules builtIn() {
    return new FoldingRules(List.of(), Set.of());
  }

  /**
   * Rules as they are configured.
   *
   * @param own each {@code pattern => replacement}: a regular expression that is to be found in
   *     {@code namespace/name}, and what takes its place; {@code $1} and so on are its groups
   * @param off names of built-in rules that do not hold
   * @throws IllegalArgumentException if a rule cannot be read, saying which and why
   */
  public static FoldingRules of(Collection<String> own, Collection<String> off) {
    var rules = new ArrayList<Own>();
    for (String spelled : own) {
      int arrow = spelled.indexOf("=>");
      if (arrow < 0) {
        throw new IllegalArgumentException(
            "the folding rule '" + spelled + "' has no =>; write pattern => replacement");
      }
      try {
        rules.add(
            new Own(
                spelled.strip(),
                com.google.re2j.Pattern.compile(spelled.substring(0, arrow).strip()),
                spelled.substring(arrow + 2).strip()));
      } catch (com.google.re2j.PatternSyntaxException e) {
        throw new IllegalArgumentException(
            "the folding rule '"
                + spelled
                + "' has a bad pattern: "
                + e.getDescription()
                + "; look-around and references back to groups are not possible",
            e);
      }
    }
    for (String name : off) {
      if (!BUILT_IN.contains(name)) {
        throw new IllegalArgumentException(
            "no built-in folding rule is called '" + name + "'; they are " + BUILT_IN);
      }
    }
    return new FoldingRules(List.copyOf(rules), Set.copyOf(off));
  }

  /** What a name is a part of; empty if it stands for itself. Linear in its length. */
  public Optional<Folded> fold(DatasetName name) {
    for (Own rule : own) {
      com.google.re2j.Matcher found = rule.pattern().matcher(name.reference());
      if (found.find()) {
        return replaced(name, rule, found);
      }
    }
    String path = name.name();
    for (String rule : BUILT_IN) {
      if (!off.contains(rule)) {
        Folded folded = byRule(rule, name, path);
        if (folded != null) {
          return Optional.of(folded);
        }
      }
    }
    return Optional.empty();
  }

  private static Optional<Folded> replaced(
      DatasetName name, Own rule, com.google.re2j.Matcher found) {
    try {
      String whole = found.replaceFirst(rule.replacement());
      if (whole.equals(name.reference())) {
        return Optional.empty();
      }
      return Reference.parse(whole) instanceof Reference.OfDataset of && of.column() == null
          ? Optional.of(new Folded(of.dataset(), found.group(), rule.spelled()))
          : Optional.empty();
    } catch (IndexOutOfBoundsException | IllegalArgumentException e) {
      return Optional.empty(); // the rule does not fit this name after all
    }
  }

  private static @Nullable Folded byRule(String rule, DatasetName name, String path) {
    return switch (rule) {
      case "partition-directory" -> partition(rule, name, path);
      case "dated-folders" -> {
        Matcher found = DATED_FOLDERS.matcher(path);
        yield found.find()
                && found.start() > 0
                && isDate(found.group(1), found.group(2), found.group(3))
            ? cut(rule, name, found.start())
            : null;
      }
      case "dated-folder" -> {
        Matcher found = DATED_FOLDER.matcher(path);
        yield found.find()
                && found.start() > 0
                && isDate(found.group(1), found.group(3), found.group(4))
            ? cut(rule, name, found.start())
            : null;
      }
      case "partition-suffix" -> {
        Matcher found = PARTITION_SUFFIX.matcher(path);
        yield found.find() && found.start() > 0 ? cut(rule, name, found.start()) : null;
      }
      case "numbered-file" -> {
        Matcher found = NUMBERED_FILE.matcher(path);
        yield found.find() && found.start() > 0 ? cut(rule, name, found.start()) : null;
      }
      default -> dated(rule, name, path);
    };
  }

  private static @Nullable Folded partition(String rule, DatasetName name, String path) {
    Matcher found = PARTITION.matcher(path);
    // The root of a partitioned dataset has a name of its own.
    return found.find() && found.start() > 0 ? cut(rule, name, found.start()) : null;
  }

  private static Folded cut(String rule, DatasetName name, int at) {
    String part = name.name().substring(at);
    return new Folded(
        new DatasetName(name.namespace(), name.name().substring(0, at)),
        part.startsWith("/") || part.startsWith("$") ? part.substring(1) : part,
        rule);
  }

  /** A date in the last part of a path gives way to {@code {date}}; something else must be left. */
  private static @Nullable Folded dated(String rule, DatasetName name, String path) {
    int last = path.lastIndexOf('/') + 1;
    Matcher found = DATE.matcher(path);
    if (!found.find(last) || !isDate(found.group(1), found.group(3), found.group(4))) {
      return null;
    }
    String before = path.substring(last, found.start());
    String after = path.substring(found.end());
    boolean named = (before + after).chars().anyMatch(Character::isLetter) && !before.endsWith("=");
    return named
        ? new Folded(
            new DatasetName(name.namespace(), path.substring(0, found.start()) + "{date}" + after),
            found.group(),
            rule)
        : null;
  }

  private static boolean isDate(String year, String month, @Nullable String day) {
    try {
      LocalDate.of(
          Integer.parseInt(year), Integer.parseInt(month), day == null ? 1 : Integer.parseInt(day));
      return true;
    } catch (DateTimeException e) {
      return false;
    }
  }

  /** The day that a part stands for, where its name has one. */
  public static Optional<LocalDate> dayOf(String part) {
    for (Pattern pattern :
        List.of(DATE, Pattern.compile("((?:19|20)\\d\\d)/()(\\d\\d)/(\\d\\d)"))) {
      Matcher found = pattern.matcher(part);
      if (found.find() && isDate(found.group(1), found.group(3), found.group(4))) {
        return Optional.of(
            LocalDate.of(
                Integer.parseInt(found.group(1)),
                Integer.parseInt(found.group(3)),
                Integer.parseInt(found.group(4))));
      }
    }
    return Optional.empty();
  }

  /** The days missing between the first and the last of an otherwise daily row of days. */
  public static List<LocalDate> missingDays(Collection<LocalDate> days) {
    var sorted = new java.util.TreeSet<>(days);
    if (sorted.size() < 3) {
      return List.of();
    }
    var missing = new ArrayList<LocalDate>();
    int steps = 0;
    int daily = 0;
    LocalDate before = null;
    for (LocalDate day : sorted) {
      if (before != null) {
        steps++;
        daily += before.plusDays(1).equals(day) ? 1 : 0;
        for (LocalDate gap = before.plusDays(1); gap.isBefore(day); gap = gap.plusDays(1)) {
          missing.add(gap);
        }
      }
      before = day;
    }
    // Weekly or working-day rows have gaps by nature; a day is missing only where days are the
    // rule.
    return daily * 10 >= steps * 8 ? missing : List.of();
  }
}
