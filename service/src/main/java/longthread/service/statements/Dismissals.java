package longthread.service.statements;

import java.util.HashSet;
import java.util.Set;
import longthread.core.event.HandFacet;
import org.springframework.stereotype.Component;

/** What the catalog proposed and a person declined, by the ids of the proposals. */
@Component
public class Dismissals {
  private static final String UNDER = HandFacet.REGISTER + "/dismissed/";

  private final Statements statements;

  Dismissals(Statements statements) {
    this.statements = statements;
  }

  /** All that is declined at this moment. */
  public Set<String> ids() {
    var ids = new HashSet<String>();
    statements
        .standing(HandFacet.DISMISSED)
        .forEach(
            (ref, facets) -> {
              if (facets.get(HandFacet.DISMISSED).has("value")) {
                ids.add(ref.substring(UNDER.length()));
              }
            });
    return ids;
  }
}
