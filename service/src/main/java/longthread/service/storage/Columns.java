package longthread.service.storage;

import java.util.Collection;
import java.util.HexFormat;
import java.util.function.Function;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;

/** Splits rows into one array a column, as bulk statements take them. */
public final class Columns {
  /** Ends each element where an array of texts is passed as one text; no stored text holds it. */
  private static final char SEPARATOR = '\u001f';

  private Columns() {}

  /** The cells of one column, in the order of the rows. */
  public static <R, C> C[] of(
      Collection<? extends R> rows,
      Function<R, ? extends @Nullable C> cell,
      IntFunction<C[]> array) {
    return rows.stream().map(cell).toArray(array);
  }

  /** A column of ids. */
  public static <R> Long[] longs(Collection<? extends R> rows, Function<R, @Nullable Long> cell) {
    return of(rows, cell, Long[]::new);
  }

  /** A column of texts. */
  public static <R> String[] texts(
      Collection<? extends R> rows, Function<R, @Nullable String> cell) {
    return of(rows, cell, String[]::new);
  }

  /** A column of digests, given in hexadecimal. */
  public static <R> byte[][] digests(Collection<? extends R> rows, Function<R, String> cell) {
    return rows.stream().map(cell).map(Columns::bytes).toArray(byte[][]::new);
  }

  /** These digests, given in hexadecimal. */
  public static byte[][] digests(Collection<String> hex) {
    return digests(hex, Function.identity());
  }

  /** A digest as the database keeps it. */
  public static byte[] bytes(String hex) {
    return HexFormat.of().parseHex(hex);
  }

  /**
   * Texts as one, since rows of arrays of different lengths make no array: {@code
   * string_to_array(…, chr(31))} parts them again. An empty list gives an empty text.
   */
  public static String joined(Collection<String> texts) {
    return String.join(
        String.valueOf(SEPARATOR),
        texts.stream().map(text -> text.replace(SEPARATOR, ' ')).toList());
  }
}
