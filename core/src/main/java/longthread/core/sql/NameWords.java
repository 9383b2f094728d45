package longthread.core.sql;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.Set;
import longthread.core.sql.Lexer.Sort;

/**
 * Which words are names though the parser takes them for something else: many columns are called
 * {@code day}, {@code data} or {@code final}. Where a word stands says which it is; the parser is
 * then given a spelling that it takes for a name, which {@link Ident} takes back.
 *
 * <p>Goes through the tokens of a statement once, from the first to the last.
 */
final class NameWords {
  /** Put behind a word so that the parser takes it for a name. */
  static final String MARK = "__as_name";

  private static final Set<String> UNITS =
      Set.of(
          "year",
          "years",
          "quarter",
          "quarters",
          "month",
          "months",
          "week",
          "weeks",
          "day",
          "days",
          "hour",
          "hours",
          "minute",
          "minutes",
          "second",
          "seconds",
          "millisecond",
          "milliseconds",
          "microsecond",
          "microseconds",
          "nanosecond",
          "nanoseconds",
          "epoch",
          "decade",
          "century",
          "millennium",
          "dow",
          "doy",
          "dayofweek",
          "dayofyear",
          "weekday",
          "isodow",
          "isoyear",
          "isoweek");

  /** Words of one dialect or another that other dialects leave to names. */
  private static final Set<String> SOFT =
      Set.of(
          "absent",
          "csv",
          "current",
          "data",
          "div",
          "errors",
          "excludes",
          "extend",
          "fbv",
          "file",
          "final",
          "force",
          "global",
          "import",
          "includes",
          "map",
          "match_all",
          "match_any",
          "match_phrase",
          "match_regexp",
          "member",
          "minus",
          "nocycle",
          "only",
          "output",
          "overlaps",
          "preferring",
          "prewhere",
          "prior",
          "regexp",
          "regexp_like",
          "returns",
          "rlike",
          "row",
          "sample",
          "script",
          "semi",
          "settings",
          "similar",
          "sql_cache",
          "sql_no_cache",
          "statement",
          "unbounded",
          "unknown",
          "use",
          "uuid",
          "values",
          "verify",
          "xmlserialize",
          "xor",
          "all",
          "check",
          "qualify",
          "offset",
          "limit",
          "key",
          "value",
          "type",
          "name",
          "position",
          "window",
          "pivot",
          "unpivot",
          "struct",
          "array",
          "text",
          "json",
          "object",
          "list",
          "percent",
          "top",
          "first",
          "last",
          "next",
          "date",
          "time",
          "timestamp",
          "datetime",
          "interval",
          "level",
          "comment",
          "storage",
          "format");

  /** Functions whose argument may be a unit of time. */
  private static final Set<String> TAKE_UNITS =
      Set.of(
          "extract",
          "date_part",
          "datepart",
          "datename",
          "date_trunc",
          "datetrunc",
          "trunc",
          "datediff",
          "date_diff",
          "datediff_big",
          "dateadd",
          "date_add",
          "date_sub",
          "timediff",
          "datetime_add",
          "datetime_sub",
          "datetime_diff",
          "datetime_trunc",
          "timestamp_add",
          "timestamp_sub",
          "timestamp_diff",
          "timestamp_trunc",
          "timestampadd",
          "timestampdiff",
          "time_add",
          "time_sub",
          "time_diff",
          "time_trunc",
          "time_slice",
          "last_day",
          "ceil",
          "floor",
          "round",
          "date_bucket",
          "generate_date_array",
          "generate_timestamp_array",
          "adddate",
          "subdate",
          "months_between",
          "to_interval",
          "make_interval");

  private static final Set<String> BEFORE_VALUE =
      Set.of(
          "select",
          "distinct",
          "where",
          "and",
          "or",
          "not",
          "by",
          "on",
          "having",
          "when",
          "then",
          "else",
          "case",
          "in",
          "like",
          "ilike",
          "between",
          "returning",
          "set",
          "is",
          "from",
          "join",
          "into",
          "update",
          "using",
          "except",
          "over",
          "escape",
          "with",
          "recursive",
          "return");

  private static final Set<String> AFTER_VALUE =
      Set.of(
          "from",
          "where",
          "and",
          "or",
          "as",
          "is",
          "in",
          "not",
          "like",
          "ilike",
          "between",
          "asc",
          "desc",
          "nulls",
          "then",
          "else",
          "when",
          "end",
          "group",
          "order",
          "having",
          "limit",
          "union",
          "intersect",
          "except",
          "on",
          "join",
          "left",
          "right",
          "inner",
          "full",
          "cross",
          "natural",
          "into",
          "collate",
          "over",
          "filter",
          "set",
          "values",
          "select",
          "using",
          "fetch",
          "offset",
          "window",
          "qualify",
          "at");

  private static final Set<String> BEFORE_TABLE =
      Set.of("from", "join", "into", "update", "table", "using", "with", "recursive");

  /** Words that stand behind a name without AS only as another name. */
  private static final Set<String> PLAIN_ALIASES =
      Set.of(
          "year",
          "quarter",
          "month",
          "week",
          "day",
          "hour",
          "minute",
          "second",
          "map",
          "uuid",
          "statement",
          "returns",
          "script",
          "data",
          "current",
          "csv",
          "errors",
          "import",
          "file",
          "key",
          "value",
          "type",
          "name",
          "position",
          "date",
          "time",
          "timestamp",
          "text",
          "level");

  private final Tokens tokens;
  private final Deque<String> open = new ArrayDeque<>(); // what stands before each open bracket

  NameWords(Tokens tokens) {
    this.tokens = tokens;
  }

  /** Whether the token at the next place is a name that the parser would take for a keyword. */
  boolean next(int i) {
    if (tokens.isSymbol(i, '(')) {
      open.push(tokens.word(i - 1));
      return false;
    }
    if (tokens.isSymbol(i, ')') && !open.isEmpty()) {
      open.pop();
      return false;
    }
    String word = tokens.word(i);
    return (UNITS.contains(word) || SOFT.contains(word)) && isName(i, word);
  }

  private boolean isName(int i, String word) {
    if (tokens.isSymbol(i + 1, '(')) {
      return isWith(i) || isColumnList(i);
    }
    if (tokens.isSymbol(i - 1, '.') || (tokens.isSymbol(i + 1, '.') && isBeside(i))) {
      return true;
    }
    String before = tokens.word(i - 1);
    if (before.equals("as")) {
      return !isType() && !tokens.isSymbol(i + 1, '<');
    }
    if (UNITS.contains(word) && isUnit(i)) {
      return false;
    }
    return isValue(i, word, before)
        || (BEFORE_TABLE.contains(before) && isAfterName(i))
        || isAlias(i, word);
  }

  /** A name with a list of columns behind it: WITH day (a, b) AS. */
  private boolean isWith(int i) {
    int close = tokens.closing(i + 1);
    return tokens.word(close + 1).equals("as")
        && (tokens.word(i - 1).equals("with") || tokens.word(i - 1).equals("recursive"));
  }

  private boolean isColumnList(int i) {
    return tokens.word(i - 1).equals("into");
  }

  /** Whether nothing lies between a word and the dot behind it, so that it is no number. */
  private boolean isBeside(int i) {
    return tokens.at(i).end() == tokens.at(i + 1).start();
  }

  /** Whether AS names a type here. */
  private boolean isType() {
    String function = open.isEmpty() ? "" : open.peek();
    return function.endsWith("cast")
        || function.equals("xmlserialize")
        || function.equals("xmlcast");
  }

  private boolean isUnit(int i) {
    boolean whole =
        (tokens.isSymbol(i - 1, '(') || tokens.isSymbol(i - 1, ','))
            && (tokens.isSymbol(i + 1, ')')
                || tokens.isSymbol(i + 1, ',')
                || tokens.word(i + 1).equals("from"));
    String function = open.isEmpty() ? "" : open.peek();
    return (whole && TAKE_UNITS.contains(function)) || isAmount(i - 1);
  }

  /** Whether a unit behind this token belongs to it: INTERVAL 1 day, '1' day, to second. */
  private boolean isAmount(int i) {
    if (i < 0) {
      return false;
    }
    Sort sort = tokens.at(i).sort();
    String word = tokens.word(i);
    return sort == Sort.NUMBER
        || sort == Sort.STRING
        || word.equals("interval")
        || word.equals("to")
        || tokens.word(i - 1).equals("interval");
  }

  private boolean isValue(int i, String word, String before) {
    if (before.equals("all") || before.equals("current") && !tokens.isSymbol(i + 1, ',')) {
      return false;
    }
    boolean starts =
        i > 0
            && (BEFORE_VALUE.contains(before)
                || (before.isEmpty()
                    && tokens.at(i - 1).sort() == Sort.SYMBOL
                    && !tokens.isSymbol(i - 1, ')')
                    && !tokens.isSymbol(i - 1, ']')
                    && !tokens.isSymbol(i - 1, ':')));
    if (!starts || isDefinition() || isKeywordHere(i, word, before)) {
      return false;
    }
    return isAfterName(i);
  }

  private boolean isAfterName(int i) {
    if (i + 1 >= tokens.size()) {
      return true;
    }
    String after = tokens.word(i + 1);
    if (!after.isEmpty()) {
      return AFTER_VALUE.contains(after);
    }
    return tokens.at(i + 1).sort() == Sort.SYMBOL && !tokens.isSymbol(i + 1, '(');
  }

  /** Words that mean something of their own between these neighbours. */
  private boolean isKeywordHere(int i, String word, String before) {
    return switch (word) {
      case "all" -> true;
      case "name" ->
          before.equals("by")
              && Set.of("all", "union", "intersect", "except", "distinct")
                  .contains(tokens.word(i - 2));
      case "unknown" -> before.equals("is") || before.equals("not");
      case "values" -> tokens.isSymbol(i + 1, '(') || before.equals("into");
      case "json", "object" -> before.equals("is") || before.equals("not");
      case "array" -> before.equals("is") || before.equals("not") || tokens.isSymbol(i + 1, '[');
      case "row", "unbounded" -> before.equals("between") || before.equals("and");
      case "first", "last", "next", "top" -> before.equals("select") || before.equals("fetch");
      case "only" -> before.equals("from") || before.equals("update");
      case "interval" -> tokens.isSymbol(i + 1, '-') || tokens.isSymbol(i + 1, '?');
      case "date", "time", "timestamp", "datetime", "text", "struct", "map", "key", "value" ->
          tokens.isSymbol(i + 1, '[') || tokens.isSymbol(i + 1, '<') && word.equals("map");
      case "limit", "offset" -> !before.isEmpty() && !before.equals("select");
      default -> false;
    };
  }

  /** Whether columns are being defined, where types stand behind their names. */
  private boolean isDefinition() {
    return !open.isEmpty()
        && tokens.word(0).equals("create")
        && open.size() == 1
        && !open.peek().equals("as");
  }

  private boolean isAlias(int i, String word) {
    if (!PLAIN_ALIASES.contains(word) || i == 0 || isDefinition() || isType()) {
      return false;
    }
    Sort sort = tokens.at(i - 1).sort();
    boolean name = sort == Sort.NAME || (sort == Sort.WORD && !isReserved(tokens.word(i - 1)));
    boolean list = tokens.isSymbol(i + 1, ',') || tokens.word(i + 1).equals("from");
    boolean table =
        i + 1 >= tokens.size()
            || tokens.isSymbol(i + 1, ')')
            || Set.of("join", "on", "where", "left", "right", "inner", "cross", "group", "order")
                .contains(tokens.word(i + 1));
    return name && (list || table);
  }

  private static boolean isReserved(String word) {
    return BEFORE_VALUE.contains(word)
        || AFTER_VALUE.contains(word)
        || BEFORE_TABLE.contains(word)
        || word.equals("interval")
        || word.equals("all");
  }
}
