package longthread.core.asset;

import java.util.Comparator;

/**
 * A column of a dataset, or the dataset's rows.
 *
 * @param path the column's path as reference text: segments joined by dots, special characters
 *     encoded; {@link #ROWS} for the rows
 */
public record ColumnName(DatasetName dataset, String path) implements Comparable<ColumnName> {
  /** Stands for which records a dataset holds, apart from their values. */
  public static final String ROWS = "*";

  private static final Comparator<ColumnName> ORDER =
      Comparator.comparing(ColumnName::dataset).thenComparing(ColumnName::path);

  public ColumnName {
    Names.check(path, "column name");
  }

  /**
   * The end of a link, as {@link #reference} writes it: of a dataset, or of the job where it ends.
   *
   * @throws BadNameException if it is none
   */
  public static ColumnName parseEnd(String reference) {
    int hash = reference.indexOf('#');
    return Reference.isJob(reference) && hash >= 0
        ? new ColumnName(
            DatasetName.parse(reference.substring(0, hash)), reference.substring(hash + 1))
        : parse(reference);
  }

  /**
   * The column, or the rows, that a whole reference names.
   *
   * @throws BadNameException if it names none
   */
  public static ColumnName parse(String reference) {
    if (Reference.parse(reference) instanceof Reference.OfDataset of && of.column() != null) {
      return new ColumnName(of.dataset(), of.column());
    }
    throw new BadNameException("'" + reference + "' is not the reference of a column");
  }

  /** The column whose one segment is {@code name}, as a schema spells it. */
  public static ColumnName of(DatasetName dataset, String name) {
    return new ColumnName(dataset, Reference.encodeSegment(name));
  }

  /**
   * The column that an emitter writes as a path whose dots part the segments of a struct. Where a
   * segment would be empty, as in {@code .id}, the dots belong to the name of one column.
   */
  public static ColumnName ofPath(DatasetName dataset, String path) {
    if (path.indexOf('.') < 0) {
      return of(dataset, path);
    }
    var encoded = new StringBuilder();
    for (String segment : path.split("\\.", -1)) {
      if (segment.isEmpty()) {
        return of(dataset, path);
      }
      encoded.append(encoded.isEmpty() ? "" : ".").append(Reference.encodeSegment(segment));
    }
    return new ColumnName(dataset, encoded.toString());
  }

  /**
   * The same name with texts of which the process holds one copy each: those that live long mention
   * few different names, many times.
   */
  public ColumnName shared() {
    return new ColumnName(dataset.shared(), path.intern());
  }

  public static ColumnName rowsOf(DatasetName dataset) {
    return new ColumnName(dataset, ROWS);
  }

  public boolean isRows() {
    return path.equals(ROWS);
  }

  public String reference() {
    return dataset.reference() + "#" + path;
  }

  @Override
  public int compareTo(ColumnName other) {
    return ORDER.compare(this, other);
  }

  @Override
  public String toString() {
    return reference();
  }
}
