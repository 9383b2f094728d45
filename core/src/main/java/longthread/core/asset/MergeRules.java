package longthread.core.asset;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;

/**
 * Rules of people by which one program's names are another's: {@code pattern => replacement}, as in
 * {@link FoldingRules}, on {@code namespace/name}. The first that fits a name decides, and its
 * result is not rewritten again, so the order in which names become known plays no part.
 */
public final class MergeRules {
  public static final MergeRules NONE = new MergeRules(List.of());

  private final List<FoldingRules> rules;

  private MergeRules(List<FoldingRules> rules) {
    this.rules = rules;
  }

  /**
   * The rules in this order.
   *
   * @throws IllegalArgumentException if one cannot be read, saying which and why
   */
  public static MergeRules of(Collection<String> spelled) {
    var rules = new ArrayList<FoldingRules>();
    for (String rule : spelled) {
      rules.add(FoldingRules.of(List.of(rule), FoldingRules.BUILT_IN));
    }
    return rules.isEmpty() ? NONE : new MergeRules(List.copyOf(rules));
  }

  /** The name that the rules say a name is; empty if none fits. Linear in rules and name. */
  public Optional<DatasetName> target(DatasetName name) {
    for (FoldingRules rule : rules) {
      Optional<FoldingRules.Folded> as = rule.fold(name);
      if (as.isPresent()) {
        return as.map(FoldingRules.Folded::whole);
      }
    }
    return Optional.empty();
  }
}
