package longthread.reader;

import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.CsvRecord;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeParseException;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * A server's log of statements in its CSV form ({@code log_destination = csvlog} with {@code
 * log_statement} or {@code log_min_duration_statement}).
 *
 * @see "PostgreSQL 15 documentation, section 20.8.4, Using CSV-Format Log Output"
 */
final class QueryLog {
  private static final int TIME = 0;
  private static final int USER = 1;
  private static final int DATABASE = 2;
  private static final int SEVERITY = 11;
  private static final int MESSAGE = 13;
  private static final Pattern STATEMENT =
      Pattern.compile("(?s)^(?:duration: [0-9.]+ ms\\s+)?(?:statement|execute [^:]*): (.*)$");
  private static final DateTimeFormatter FORMAT =
      DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss[.SSS][.SS][.S] z", Locale.ROOT);

  /** Takes what was run. */
  interface Visitor {
    void ran(Instant at, String user, String text);
  }

  private QueryLog() {}

  /**
   * Reads a log file line by line.
   *
   * @param database whose statements count
   * @param after only what was run later than this; null for all
   * @return the time of the newest entry; null if there is none
   */
  static @Nullable Instant read(
      Path file, String database, @Nullable Instant after, Visitor visitor) throws IOException {
    Instant[] newest = {null};
    try (CsvReader<CsvRecord> lines =
        CsvReader.builder()
            .allowMissingFields(true)
            .allowExtraFields(true)
            .ofCsvRecord(Files.newBufferedReader(file))) {
      for (CsvRecord line : lines) {
        if (line.getFieldCount() <= MESSAGE
            || !line.getField(DATABASE).equals(database)
            || !line.getField(SEVERITY).equals("LOG")) {
          continue;
        }
        Instant at = time(line.getField(TIME));
        Matcher statement = STATEMENT.matcher(line.getField(MESSAGE));
        if (at != null && (after == null || at.isAfter(after)) && statement.matches()) {
          visitor.ran(at, line.getField(USER), statement.group(1));
          newest[0] = newest[0] == null || at.isAfter(newest[0]) ? at : newest[0];
        }
      }
    } catch (UncheckedIOException e) {
      throw e.getCause();
    }
    return newest[0];
  }

  private static @Nullable Instant time(String text) {
    try {
      return FORMAT.parse(text, java.time.ZonedDateTime::from).toInstant();
    } catch (DateTimeParseException e) {
      try {
        // A zone that Java does not know by its short name: taken as UTC rather than lost.
        String plain = text.substring(0, Math.min(19, text.length())).replace(' ', 'T');
        return LocalDateTime.parse(plain).atZone(ZoneId.of(ZoneOffset.UTC.getId())).toInstant();
      } catch (DateTimeParseException again) {
        return null;
      }
    }
  }
}
