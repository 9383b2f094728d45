package longthread.core.label;

import java.util.Collection;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Which columns get a label by their names, types, terms and systems. Each condition that is given
 * has to hold; of several words of one condition, any. {@code *} stands for any letters; case does
 * not count. Immutable.
 */
public final class ColumnRule {
  private final Wildcard names;
  private final Wildcard except;
  private final Wildcard types;
  private final Set<String> terms;
  private final Wildcard systems;

  private ColumnRule(
      List<String> names,
      List<String> except,
      List<String> types,
      List<String> terms,
      List<String> systems) {
    this.names = Wildcard.of(names);
    this.except = Wildcard.of(except);
    this.types = Wildcard.of(types);
    this.terms = Set.copyOf(terms);
    this.systems = Wildcard.of(systems);
  }

  /**
   * Makes a rule.
   *
   * @param names of columns; the last part of a nested one is enough
   * @param except names that do not count though they fit
   * @param terms ids of glossary terms
   * @throws IllegalArgumentException if there are neither names, types nor terms: that would be all
   */
  public static ColumnRule of(
      List<String> names,
      List<String> except,
      List<String> types,
      List<String> terms,
      List<String> systems) {
    if (names.isEmpty() && types.isEmpty() && terms.isEmpty()) {
      throw new IllegalArgumentException(
          "the rule has neither names, types nor terms; give at least one of them");
    }
    return new ColumnRule(names, except, types, terms, systems);
  }

  /** Whether any column of this name may fit; depends on nothing else, so that it can be kept. */
  public boolean fitsName(String path) {
    String name = path.substring(path.lastIndexOf('.') + 1);
    boolean isNamed = names.isEmpty() || names.fits(name) || names.fits(path);
    return isNamed && !except.fits(name) && !except.fits(path);
  }

  /** Whether a column fits in all but its name. */
  public boolean fitsElse(@Nullable String type, Collection<String> termIds, String system) {
    return (types.isEmpty() || (type != null && types.fits(type)))
        && (terms.isEmpty() || termIds.stream().anyMatch(terms::contains))
        && (systems.isEmpty() || systems.fits(system));
  }
}
