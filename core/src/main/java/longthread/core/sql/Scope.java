package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** The relations that names in one query may mean, and those of the queries around it. */
final class Scope {
  /**
   * A relation under the name it has in a query.
   *
   * @param names alias, or the parts of the table's own name, last one last; empty if it has none
   * @param hidden fields that an unqualified name or a star does not show: the right sides of USING
   */
  record Entry(List<Ident> names, Relation relation, Set<Field> hidden) {
    Entry(List<Ident> names, Relation relation) {
      this(names, relation, new HashSet<>());
    }

    /** Stands among the hidden fields of an entry of which none is to be seen. */
    private static final Field ALL =
        new Field(new Relation(Relation.Kind.VALUES, "", null), "", null, new Uses(), null);

    /** Shows none of its fields, known or not, but to names qualified by its own. */
    void hide() {
      hidden.add(ALL);
      hidden.addAll(relation.fields());
    }

    boolean isHidden() {
      return hidden.contains(ALL);
    }

    boolean isNamed(List<Ident> qualifier) {
      if (names.isEmpty() || qualifier.size() > names.size()) {
        return false;
      }
      for (int i = 1; i <= qualifier.size(); i++) {
        Ident asked = qualifier.get(qualifier.size() - i);
        Ident own = names.get(names.size() - i);
        boolean same = asked.exact() ? own.means(asked.name()) : asked.means(own.name());
        if (!same) {
          return false;
        }
      }
      return true;
    }
  }

  /** What a name was found to mean. */
  record Found(List<Field> fields, boolean certain, boolean nested, @Nullable Relation whole) {
    static Found one(Field field, boolean nested) {
      return new Found(List.of(field), true, nested, null);
    }
  }

  private final @Nullable Scope outer;
  private final List<Entry> entries = new ArrayList<>();

  /** Columns that USING or NATURAL merged, by name in lower case. */
  private final Map<String, List<Field>> merged = new LinkedHashMap<>();

  /** The names that the query's own list of outputs gives, for dialects that let them be used. */
  private final Map<String, Field> given = new LinkedHashMap<>();

  private final Set<String> parameters = new HashSet<>();
  private boolean prefersGiven;

  Scope(@Nullable Scope outer) {
    this.outer = outer;
  }

  /** The scope of the query around this one; null if there is none. */
  @Nullable Scope outer() {
    return outer;
  }

  void add(Entry entry) {
    entries.add(entry);
  }

  List<Entry> entries() {
    return entries;
  }

  Map<String, List<Field>> merged() {
    return merged;
  }

  void merge(String name, List<Field> sources) {
    merged.put(name.toLowerCase(Locale.ROOT), sources);
  }

  /** Puts the columns that a join merged before those that earlier joins did, as a star does. */
  void mergedFirst(List<String> names) {
    var ordered = new LinkedHashMap<String, List<Field>>();
    for (String name : names) {
      List<Field> sources = merged.remove(name.toLowerCase(Locale.ROOT));
      if (sources != null) {
        ordered.put(name.toLowerCase(Locale.ROOT), sources);
      }
    }
    ordered.putAll(merged);
    merged.clear();
    merged.putAll(ordered);
  }

  @Nullable List<Field> mergedOf(String name) {
    return merged.get(name.toLowerCase(Locale.ROOT));
  }

  void give(Field output) {
    given.putIfAbsent(output.name().toLowerCase(Locale.ROOT), output);
  }

  /**
   * Whether a name of the output list goes before a column of a table whose columns are unknown.
   */
  void preferGiven(boolean prefer) {
    prefersGiven = prefer;
  }

  boolean prefersGiven(List<Ident> parts) {
    return prefersGiven && parts.size() == 1 && known(parts) == null;
  }

  @Nullable Field givenAs(Ident name) {
    Field field = given.get(name.name().toLowerCase(Locale.ROOT));
    return field != null && name.means(field.name()) ? field : null;
  }

  /** Names that a lambda binds, which hide columns while its body is read. */
  Scope withParameters(List<String> names) {
    var inner = new Scope(this);
    inner.parameters.addAll(names);
    return inner;
  }

  /** The relations of this query, without those around it. */
  Set<Relation> relations() {
    var all = new LinkedHashSet<Relation>();
    entries.forEach(entry -> all.add(entry.relation()));
    return all;
  }

  @Nullable Entry named(List<Ident> qualifier) {
    Budget.step(1 + entries.size());
    for (Entry entry : entries) {
      if (entry.isNamed(qualifier)) {
        return entry;
      }
    }
    return outer == null ? null : outer.named(qualifier);
  }

  /**
   * What a name means here, else in the queries around; null if nothing fits.
   *
   * @param parts qualifiers first
   */
  @Nullable Found resolve(List<Ident> parts) {
    if (parts.size() == 1 && parameters.contains(parts.get(0).name())) {
      return new Found(List.of(), true, false, null);
    }
    for (int split = parts.size() - 1; split > 0; split--) {
      Entry entry = ownNamed(parts.subList(0, split));
      if (entry != null) {
        return within(entry, parts.subList(split, parts.size()));
      }
    }
    Found found = unqualified(parts);
    if (found != null) {
      return found;
    }
    return outer == null ? null : outer.resolve(parts);
  }

  private @Nullable Entry ownNamed(List<Ident> qualifier) {
    Budget.step(1 + entries.size());
    for (Entry entry : entries) {
      if (entry.isNamed(qualifier)) {
        return entry;
      }
    }
    return null;
  }

  private static @Nullable Found within(Entry entry, List<Ident> rest) {
    Relation relation = entry.relation();
    Field whole = relation.find(dotted(rest));
    if (whole != null) {
      return Found.one(whole, false);
    }
    Field first = relation.find(rest.get(0));
    if (first != null) {
      return Found.one(first, rest.size() > 1);
    }
    return relation.open() ? Found.one(relation.findOrMake(dotted(rest)), false) : null;
  }

  private static Ident dotted(List<Ident> parts) {
    if (parts.size() == 1) {
      return parts.get(0);
    }
    return new Ident(Ident.dotted(parts), parts.stream().anyMatch(Ident::exact));
  }

  private @Nullable Found unqualified(List<Ident> parts) {
    List<Field> together = parts.size() == 1 ? mergedOf(parts.get(0).name()) : null;
    if (together != null) {
      return new Found(together, true, false, null);
    }
    Found known = known(parts);
    if (known != null) {
      return known;
    }
    Entry entry = parts.size() == 1 ? ownNamed(parts) : null;
    if (entry != null) {
      Relation relation = entry.relation();
      // A function's only column answers to the function's alias.
      return relation.kind() == Relation.Kind.FUNCTION && relation.fields().size() == 1
          ? Found.one(relation.fields().get(0), false)
          : new Found(List.of(), true, false, relation);
    }
    var candidates = new ArrayList<Field>();
    for (Entry open : entries) {
      if (open.relation().open()) {
        candidates.add(open.relation().findOrMake(dotted(parts)));
      }
    }
    if (candidates.isEmpty()) {
      return null;
    }
    Found around = outer == null ? null : outer.known(parts);
    if (around != null) {
      candidates.addAll(around.fields());
    }
    return new Found(candidates, candidates.size() == 1, false, null);
  }

  /** The fields of that name that are known to be there, in this query; null if there are none. */
  @Nullable Found resolveKnown(List<Ident> parts) {
    List<Field> together = mergedOf(parts.get(0).name());
    return together != null ? new Found(together, true, false, null) : known(parts);
  }

  private @Nullable Found known(List<Ident> parts) {
    Budget.step(1 + entries.size());
    var found = new ArrayList<Field>();
    boolean nested = false;
    for (Entry entry : entries) {
      Relation relation = entry.relation();
      Field whole = relation.find(dotted(parts));
      Field field = whole != null ? whole : relation.find(parts.get(0));
      if (field != null && relation.isKnown(field) && !entry.hidden().contains(field)) {
        found.add(field);
        nested |= whole == null;
      }
    }
    return found.isEmpty() ? null : new Found(found, found.size() == 1, nested, null);
  }
}
