package longthread.core.history;

import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import longthread.core.asset.DatasetName;
import longthread.core.event.ColumnConstant;
import longthread.core.event.ColumnLink;
import longthread.core.event.Shape;
import longthread.core.event.Stated;

/**
 * A shape with what is worked out of it once: runs of one job mostly share theirs, and are compared
 * fastest when they share the object too.
 *
 * @param hash SHA-256 of the text of what the run stated, in hex
 * @param links the links it amounts to
 * @param derived those of the links that only the run's SQL tells of
 * @param confirmed those of the links that the run stated and its SQL tells of too
 * @param constants what columns are set to on branches that no link can show
 */
public record LaidShape(
    Shape shape,
    String hash,
    List<ColumnLink> links,
    Set<ColumnLink> derived,
    Set<ColumnLink> confirmed,
    SortedSet<ColumnConstant> constants) {
  public static final LaidShape NONE = LaidShape.of(Shape.EMPTY);

  public static LaidShape of(Shape shape) {
    return new LaidShape(
        shape,
        Stated.of(shape).digest(),
        List.copyOf(shape.links()),
        Set.of(),
        Set.of(),
        Collections.emptySortedSet());
  }

  /**
   * This shape with what the run's SQL says: of an output that the run told the sources of, that
   * confirms what it told; of any other, it is how its columns are made.
   */
  public LaidShape with(Shape sql, SortedSet<ColumnConstant> sqlConstants) {
    Set<DatasetName> silent = new HashSet<>(sql.outputs());
    silent.removeAll(shape.told());
    shape.described().forEach(column -> silent.remove(column.dataset()));
    var columns = new TreeSet<>(sql.columns());
    columns.removeIf(link -> !silent.contains(link.to().dataset()));
    var described = new TreeSet<>(sql.described());
    described.removeIf(column -> !silent.contains(column.dataset()));
    boolean gap = sql.gap() && !silent.isEmpty();
    var told = new TreeSet<DatasetName>(gap ? Set.of() : sql.told());
    told.retainAll(silent);
    Shape added = new Shape(sql.inputs(), sql.outputs(), columns, described, told, gap);
    Shape all = Shape.union(List.of(shape, added));
    List<ColumnLink> allLinks = List.copyOf(all.links());
    var derivedLinks = new HashSet<>(allLinks);
    links.forEach(derivedLinks::remove);
    var confirmedLinks = new HashSet<>(shape.columns());
    confirmedLinks.retainAll(sql.columns());
    return new LaidShape(
        all, hash, allLinks, Set.copyOf(derivedLinks), Set.copyOf(confirmedLinks), sqlConstants);
  }

  Evidence evidence(ColumnLink link) {
    return derived.contains(link)
        ? Evidence.DERIVED
        : confirmed.contains(link) ? Evidence.CONFIRMED : Evidence.OBSERVED;
  }
}
