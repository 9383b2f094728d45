package longthread.service.live;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import longthread.core.label.MaskKind;
import longthread.core.statement.StatementReader;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * How much of labelled values each role sees. Where nobody set it, it follows from the level of the
 * label: level 1 is shown; of level 2 readers see a part; of more readers see nothing, others a
 * part.
 */
@Component
public class LabelMasks {
  private static final int OPEN = 1;
  private static final int INTERNAL = 2;

  /**
   * What a role sees of a label.
   *
   * @param id absent where it follows from the level
   */
  public record Mask(
      @Nullable String id,
      String label,
      String role,
      MaskKind shown,
      @Nullable String by,
      @Nullable Instant at) {}

  private final LabelScheme scheme;
  private final LabelSettings settings;

  LabelMasks(LabelScheme scheme, LabelSettings settings) {
    this.scheme = scheme;
    this.settings = settings;
  }

  /** What each role sees of each label. */
  public List<Mask> all() {
    var all = new ArrayList<Mask>();
    for (LabelScheme.Label label : scheme.all()) {
      StatementReader.MASKED_ROLES.forEach(role -> all.add(of(label, role)));
    }
    return all;
  }

  /** What a role sees of values with a label; roles that see no values see nothing of it. */
  public MaskKind shown(String label, String role) {
    String as = role.equals("auditor") ? "reader" : role; // who checks others sees no more for it
    return StatementReader.MASKED_ROLES.contains(as)
        ? of(scheme.named(label), as).shown()
        : MaskKind.HIDDEN;
  }

  private Mask of(LabelScheme.Label label, String role) {
    return settings.now().masks().stream()
        .filter(mask -> mask.label().equals(label.id()) && mask.role().equals(role))
        .findFirst()
        .map(
            mask ->
                new Mask(
                    mask.id(),
                    label.id(),
                    role,
                    mask.shown(),
                    mask.origin().by(),
                    mask.origin().at()))
        .orElseGet(
            () -> new Mask(null, label.id(), role, byLevel(label.level(), role), null, null));
  }

  private static MaskKind byLevel(int level, String role) {
    if (level <= OPEN) {
      return MaskKind.SHOWN;
    }
    boolean reads = role.equals("reader");
    if (level == INTERNAL) {
      return reads ? MaskKind.PARTIAL : MaskKind.SHOWN;
    }
    return reads ? MaskKind.HIDDEN : MaskKind.PARTIAL;
  }
}
