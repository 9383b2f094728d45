package longthread.reader;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import longthread.core.history.Fingerprint;
import longthread.core.sql.Dialect;
import longthread.core.sql.KnownTables;
import longthread.core.sql.SqlReader;
import longthread.core.sql.SqlStatement;
import org.jspecify.annotations.Nullable;

/**
 * What statements that a server ran say: which write what from what, and who reads which tables how
 * often.
 */
final class Statements {
  private static final int MAX_TEXT = 100_000;
  private static final int MAX_DISTINCT = 5_000;

  /**
   * A statement that writes.
   *
   * @param times how often it ran
   */
  record Writing(String text, String target, List<String> reads, long times) {}

  /** How often each user read a table; names as the statements have them. */
  private final Map<String, Map<String, Long>> readers = new TreeMap<>();

  private final Map<String, Writing> writing = new TreeMap<>();
  private final Map<String, List<SqlStatement>> known = new TreeMap<>();
  private final SqlReader reader;
  private int unread;

  Statements(SqlReader reader) {
    this.reader = reader;
  }

  /** Adds a statement that a user ran some times. */
  void add(String user, String text, long times) {
    if (text.length() > MAX_TEXT || times <= 0) {
      return;
    }
    String key = Fingerprint.of(text);
    List<SqlStatement> read = known.get(key);
    if (read == null) {
      if (known.size() >= MAX_DISTINCT) {
        unread++;
        return;
      }
      read = read(text);
      known.put(key, read);
    }
    for (SqlStatement statement : read) {
      for (String table : statement.reads()) {
        readers.computeIfAbsent(table, k -> new TreeMap<>()).merge(user, times, Long::sum);
      }
      if (statement.target() != null && !statement.temporary()) {
        writing.merge(
            key,
            new Writing(text, statement.target(), statement.reads(), times),
            (a, b) -> new Writing(a.text(), a.target(), a.reads(), a.times() + b.times()));
      }
    }
  }

  private List<SqlStatement> read(String text) {
    String first = text.strip().toLowerCase(Locale.ROOT);
    boolean worth =
        List.of("select", "with", "insert", "update", "delete", "merge", "create", "copy", "(")
            .stream()
            .anyMatch(first::startsWith);
    return worth ? reader.read(text, Dialect.POSTGRES, KnownTables.NONE) : List.of();
  }

  Map<String, Map<String, Long>> readers() {
    return readers;
  }

  /** The statements that write, by their fingerprints. */
  Map<String, Writing> writing() {
    return writing;
  }

  /** How many statements were too many to be looked at. */
  int unread() {
    return unread;
  }

  // ------------------------------------------------------------------ bodies of functions

  private static final Pattern WRITES =
      Pattern.compile(
          "(?is)\\b(insert\\s+into|update\\s|delete\\s+from|merge\\s+into|create\\s+table\\b"
              + "|with\\s+\\w+\\s+as\\s)");

  /** The statements in the body of a function that write; those of {@code sql} are all there is. */
  static List<String> ofBody(String language, String body) {
    var found = new ArrayList<String>();
    for (Piece piece : pieces(body)) {
      if (language.equals("sql")) {
        String text = piece.text().replaceFirst("(?is)^\\s*begin\\s+atomic\\b", "").strip();
        if (!text.isEmpty() && !text.equalsIgnoreCase("end")) {
          found.add(text);
        }
      } else {
        Matcher writes = WRITES.matcher(piece.code());
        if (writes.find()) {
          found.add(piece.text().substring(writes.start()).strip());
        }
      }
    }
    return found;
  }

  /**
   * A piece of a body.
   *
   * @param code the text with blanks in the place of quoted texts and comments, as long as it
   */
  private record Piece(String text, String code) {}

  /** A text at its semicolons, outside of quotes and comments. */
  private static List<Piece> pieces(String body) {
    var pieces = new ArrayList<Piece>();
    var code = new StringBuilder();
    int from = 0;
    for (int at = 0; at < body.length(); at++) {
      char c = body.charAt(at);
      if (c == ';') {
        pieces.add(new Piece(body.substring(from, at), code.toString()));
        code.setLength(0);
        from = at + 1;
        continue;
      }
      int end = endOfQuiet(body, at);
      if (end < 0) {
        code.append(c);
      } else {
        code.append(" ".repeat(end + 1 - at));
        at = end;
      }
    }
    pieces.add(new Piece(body.substring(from), code.toString()));
    return pieces;
  }

  /** The last character of a quoted text or comment that begins here; -1 if none does. */
  private static int endOfQuiet(String body, int at) {
    char c = body.charAt(at);
    int end;
    if (c == '\'' || c == '"') {
      end = body.indexOf(c, at + 1);
    } else if (body.startsWith("--", at)) {
      end = body.indexOf('\n', at);
    } else if (body.startsWith("/*", at)) {
      int close = body.indexOf("*/", at + 2);
      end = close < 0 ? close : close + 1;
    } else {
      return -1;
    }
    return end < 0 ? body.length() - 1 : end;
  }

  /** The tables that some statements read and write, or null for what is no statement. */
  @Nullable Ends endsOf(List<String> texts) {
    var reads = new TreeSet<String>();
    var writes = new TreeSet<String>();
    for (String text : texts) {
      for (SqlStatement statement : read(text)) {
        reads.addAll(statement.reads());
        if (statement.target() != null && !statement.temporary()) {
          writes.add(statement.target());
        }
      }
    }
    return reads.isEmpty() && writes.isEmpty()
        ? null
        : new Ends(List.copyOf(reads), List.copyOf(writes));
  }

  /** What is read and written, as spelled. */
  record Ends(List<String> reads, List<String> writes) {}
}
