package longthread.core.history;

import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
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
 */
public record LaidShape(
    Shape shape,
    String hash,
    List<ColumnLink> links,
    Set<ColumnLink> derived,
    Set<ColumnLink> confirmed) {
  public static final LaidShape NONE = LaidShape.of(Shape.EMPTY);

  public static LaidShape of(Shape shape) {
    return new LaidShape(
        shape, Stated.of(shape).digest(), List.copyOf(shape.links()), Set.of(), Set.of());
  }

  /**
   * This shape with what the run's SQL says: of an output that the run told the sources of, that
   * confirms what it told; of any other, it is how its columns are made.
   */
  public LaidShape with(Shape sql) {
    Set<DatasetName> toldByRun = new HashSet<>(shape.told());
    shape.described().forEach(column -> toldByRun.add(column.dataset()));
    var columns = new TreeSet<ColumnLink>();
    var described = new TreeSet<ColumnName>();
    var told = new TreeSet<DatasetName>();
    boolean gap = false;
    for (DatasetName output : sql.outputs()) {
      if (!toldByRun.contains(output)) {
        sql.columns().stream().filter(l -> l.to().dataset().equals(output)).forEach(columns::add);
        sql.described().stream().filter(c -> c.dataset().equals(output)).forEach(described::add);
        if (sql.told().contains(output) && !sql.gap()) {
          told.add(output);
        }
        gap |= sql.gap();
      }
    }
    Shape added = new Shape(sql.inputs(), sql.outputs(), columns, described, told, gap);
    Shape all = Shape.union(List.of(shape, added));
    var own = new HashSet<>(links);
    List<ColumnLink> allLinks = List.copyOf(all.links());
    var derivedLinks = new HashSet<>(allLinks);
    derivedLinks.removeAll(own);
    var confirmedLinks = new HashSet<>(shape.columns());
    confirmedLinks.retainAll(sql.columns());
    return new LaidShape(all, hash, allLinks, Set.copyOf(derivedLinks), Set.copyOf(confirmedLinks));
  }

  Evidence evidence(ColumnLink link) {
    return derived.contains(link)
        ? Evidence.DERIVED
        : confirmed.contains(link) ? Evidence.CONFIRMED : Evidence.OBSERVED;
  }
}
