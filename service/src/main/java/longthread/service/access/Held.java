package longthread.service.access;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import longthread.service.live.Scope;

/**
 * What somebody may do, and where.
 *
 * @param roles those that count for the whole catalog; {@code LIMITED} alone if there is none
 * @param reads the parts that they may see beside
 * @param edits the parts in which they are stewards
 */
record Held(Set<Role> roles, List<Scope> reads, List<Scope> edits) {
  /** A role on a part of the catalog. */
  record Part(Role role, Scope scope) {}

  Held {
    roles = Set.copyOf(roles);
    reads = List.copyOf(reads);
    edits = List.copyOf(edits);
  }

  /** What follows of a role on the whole catalog and of further ones. */
  static Held of(Role own, List<Part> granted) {
    var roles = new LinkedHashSet<Role>();
    var reads = new ArrayList<Scope>();
    var edits = new ArrayList<Scope>();
    var all = new ArrayList<>(granted);
    all.add(new Part(own, Scope.EVERYTHING));
    for (Part part : all) {
      boolean isWhole = part.scope().kind() == Scope.Kind.EVERYTHING;
      boolean mayEdit = part.role() == Role.STEWARD || part.role() == Role.ADMIN;
      boolean mayRead = mayEdit || part.role() == Role.READER || part.role() == Role.AUDITOR;
      if (isWhole && part.role() != Role.LIMITED) {
        roles.add(part.role());
      }
      if (mayEdit) {
        edits.add(part.scope());
      }
      if (mayRead) {
        reads.add(part.scope());
      }
    }
    if (roles.isEmpty()) {
      roles.add(Role.LIMITED);
    }
    return new Held(roles, reads, edits);
  }

  /** The strongest role on the whole catalog. */
  Role role() {
    return Role.strongest(roles).orElse(Role.LIMITED);
  }

  /** Whether they see the whole catalog, or only a part of it. */
  boolean readsAll() {
    return reads.contains(Scope.EVERYTHING);
  }

  /** Whether they are steward of some part. */
  boolean editsSome() {
    return !edits.isEmpty();
  }
}
