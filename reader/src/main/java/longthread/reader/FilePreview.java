package longthread.reader;

import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.CsvRecord;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/** Reads a few rows of a CSV file with a heading, below a folder that it never leaves. */
public final class FilePreview {
  private static final List<String> SEPARATORS = List.of(",", ";", "\t", "|");
  private static final int HEAD = 8_192; // bytes looked at for the separator

  private FilePreview() {}

  /**
   * Reads rows from the beginning.
   *
   * @param folder that the file is in, or below
   * @param file its path in that folder
   * @param wanted names of columns, in any case; those that the file does not have are left out
   * @throws UnreadableSourceException if there is no such file, or it is no such table
   */
  public static Preview read(Path folder, String file, List<String> wanted, Preview.Bounds bounds)
      throws UnreadableSourceException {
    Path path = inside(folder, file);
    if (!file.toLowerCase(Locale.ROOT).matches(".*\\.(csv|tsv|txt)")) {
      throw new UnreadableSourceException("only CSV files can be shown; this is '" + file + "'");
    }
    try (CsvReader<CsvRecord> reader =
        CsvReader.builder()
            .fieldSeparator(separator(path))
            .ofCsvRecord(path, StandardCharsets.UTF_8)) {
      var records = reader.iterator();
      if (!records.hasNext()) {
        throw new UnreadableSourceException("the file '" + file + "' is empty");
      }
      List<String> heading = heading(records.next());
      var columns = new ArrayList<Integer>();
      for (String name : wanted) {
        int at = indexOf(heading, name);
        if (at >= 0 && !columns.contains(at)) {
          columns.add(at);
        }
      }
      if (columns.isEmpty()) {
        throw new UnreadableSourceException(
            "the heading of '" + file + "' has none of the columns that the catalog knows");
      }
      var collector = new Preview.Collector(bounds);
      boolean isRoom = true;
      while (isRoom && records.hasNext()) {
        isRoom = collector.add(values(records.next(), columns));
      }
      return collector.of(columns.stream().map(heading::get).toList());
    } catch (IOException | RuntimeException e) {
      throw new UnreadableSourceException("'" + file + "' cannot be read: " + e.getMessage(), e);
    }
  }

  /** Whether there is such a file below a folder. */
  public static boolean isThere(Path folder, String file) {
    try {
      inside(folder, file);
      return true;
    } catch (UnreadableSourceException e) {
      return false;
    }
  }

  /**
   * The path in a folder that a file really has, with links followed; null if there is none.
   *
   * @param file a path in the folder, whatever it is written like
   */
  public static @Nullable String realPath(Path folder, String file) {
    try {
      return folder.toRealPath().relativize(inside(folder, file).toRealPath()).toString();
    } catch (UnreadableSourceException | IOException e) {
      return null;
    }
  }

  private static List<String> heading(CsvRecord record) {
    var names = new ArrayList<String>(record.getFields());
    if (!names.isEmpty()) {
      names.set(0, names.get(0).replace("\uFEFF", ""));
    }
    names.replaceAll(String::strip);
    return names;
  }

  private static int indexOf(List<String> heading, String name) {
    int exact = heading.indexOf(name);
    for (int i = 0; exact < 0 && i < heading.size(); i++) {
      exact = heading.get(i).equalsIgnoreCase(name) ? i : exact;
    }
    return exact;
  }

  private static List<@Nullable String> values(CsvRecord record, List<Integer> columns) {
    var values = new ArrayList<@Nullable String>();
    for (int column : columns) {
      boolean isThere = column < record.getFieldCount() && !record.getField(column).isEmpty();
      values.add(isThere ? record.getField(column) : null);
    }
    return values;
  }

  /** The sign that stands most often in the heading. */
  private static String separator(Path path) throws IOException {
    String heading;
    try (var in = Files.newInputStream(path)) {
      heading =
          new String(in.readNBytes(HEAD), StandardCharsets.UTF_8).lines().findFirst().orElse("");
    }
    String best = SEPARATORS.get(0);
    for (String separator : SEPARATORS) {
      best = count(heading, separator) > count(heading, best) ? separator : best;
    }
    return best;
  }

  private static long count(String text, String sign) {
    return text.chars().filter(c -> c == sign.charAt(0)).count();
  }

  private static Path inside(Path folder, String file) throws UnreadableSourceException {
    try {
      Path root = folder.toRealPath();
      Path path = root.resolve(file.replaceFirst("^/+", "")).normalize();
      if (path.startsWith(root)
          && Files.isRegularFile(path)
          && path.toRealPath().startsWith(root)) {
        return path;
      }
    } catch (InvalidPathException | IOException e) {
      // reported below
    }
    throw new UnreadableSourceException("the folder has no file '" + file + "'");
  }
}
