package longthread.core.asset;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * How people name things in short: an asset by an ending of one of its names or by its title, a
 * column by its path in any case.
 */
public final class ShortNames {
  /** An asset, as far as its names go. */
  public interface Named {
    /** The reference of the leading part. */
    String ref();

    /** The references of all parts. */
    List<String> parts();

    /** What people call it. */
    String shown();

    boolean isRetired();
  }

  private ShortNames() {}

  /** The words by which an asset is to be found: an index of assets has it under each of them. */
  public static Set<String> lastWords(Named asset) {
    var words = new HashSet<String>();
    names(asset).forEach(name -> words.add(lastWord(name)));
    return words;
  }

  /** The word of {@link #lastWords} that a short form ends in. */
  public static String lastWord(String text) {
    String lower = text.toLowerCase(Locale.ROOT);
    int cut =
        Math.max(lower.lastIndexOf('.'), Math.max(lower.lastIndexOf('/'), lower.lastIndexOf('@')));
    cut = Math.max(cut, lower.lastIndexOf(' '));
    return lower.substring(cut + 1);
  }

  /**
   * The assets that a short form may mean: in its case before any case, live ones before retired
   * ones. Takes time linear in the assets.
   *
   * @param text an ending of a reference at {@code .} or {@code /}, or a title
   * @param assets those that have the last word of the text
   */
  public static Set<String> candidates(String text, Collection<? extends Named> assets) {
    for (boolean caseMatters : new boolean[] {true, false}) {
      var found = new ArrayList<Named>();
      for (Named asset : assets) {
        if (endsWith(asset, text, caseMatters)) {
          found.add(asset);
        }
      }
      boolean anyLive = found.stream().anyMatch(asset -> !asset.isRetired());
      var refs = new TreeSet<String>();
      found.stream()
          .filter(asset -> !anyLive || !asset.isRetired())
          .forEach(asset -> refs.add(asset.ref()));
      if (!refs.isEmpty()) {
        return refs;
      }
    }
    return Set.of();
  }

  private static List<String> names(Named asset) {
    var names = new ArrayList<>(asset.parts());
    for (String part : asset.parts()) {
      if (part.indexOf('%') >= 0) {
        // People type a name as its system spells it, without the encoding of references.
        names.add(Reference.decode(part));
      }
    }
    names.add(asset.shown());
    stem(asset.ref()).ifPresent(names::add);
    return names;
  }

  private static boolean endsWith(Named asset, String text, boolean caseMatters) {
    String wanted = caseMatters ? text : text.toLowerCase(Locale.ROOT);
    for (String name : names(asset)) {
      String spelled = caseMatters ? name : name.toLowerCase(Locale.ROOT);
      if (spelled.endsWith(wanted)) {
        int at = spelled.length() - wanted.length();
        if (at == 0 || "./@ ".indexOf(spelled.charAt(at - 1)) >= 0) {
          return true;
        }
        boolean wholeJob = wanted.startsWith("@") && spelled.startsWith("@");
        if (wholeJob) {
          return true;
        }
      } else if (wanted.startsWith("@") && spelled.startsWith("@")) {
        String task = wanted.substring(1);
        int at = spelled.length() - task.length();
        if (spelled.endsWith(task) && at > 0 && "./@".indexOf(spelled.charAt(at - 1)) >= 0) {
          return true;
        }
      }
    }
    return false;
  }

  /** The name of a dated whole as people say it: without the date, and what follows it. */
  private static Optional<String> stem(String lead) {
    int date = lead.lastIndexOf("{date}");
    int name = lead.lastIndexOf('/') + 1;
    if (date <= name) {
      return Optional.empty();
    }
    int end = "-_.".indexOf(lead.charAt(date - 1)) >= 0 ? date - 1 : date;
    return end > name ? Optional.of(lead.substring(0, end)) : Optional.empty();
  }

  /** The path that a column's short form means, of those an asset has; null if none or several. */
  public static @Nullable String column(Collection<String> paths, String text) {
    if (paths.contains(text)) {
      return text;
    }
    // Typed as a schema spells it, with dots and other characters that references encode.
    String encoded = Reference.encodeSegment(text);
    if (paths.contains(encoded)) {
      return encoded;
    }
    String lower = text.toLowerCase(Locale.ROOT);
    List<String> near =
        paths.stream()
            .filter(
                path -> {
                  String p = path.toLowerCase(Locale.ROOT);
                  return p.equals(lower) || p.endsWith("." + lower);
                })
            .toList();
    return near.size() == 1 ? near.get(0) : null;
  }
}
