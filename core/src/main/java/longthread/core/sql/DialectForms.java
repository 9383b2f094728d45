package longthread.core.sql;

import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import longthread.core.sql.Lexer.Sort;

/**
 * Clauses and expressions of single dialects in words that the parser knows. Each keeps what it
 * says of lineage; where a form says something that cannot be written otherwise, it is noted as a
 * problem.
 */
final class DialectForms {
  private static final Pattern TYPED_NUMBER =
      Pattern.compile("(?i)(\\d+(?:\\.\\d*)?(?:e\\d+)?)(?:bd|[lsydf])");

  private final Tokens tokens;
  private final ParserInput input;
  private final StatementForms statements;
  private final Map<String, String> windows = new HashMap<>();
  private final Set<String> joinAliases = new HashSet<>();

  DialectForms(Tokens tokens, ParserInput input) {
    this.tokens = tokens;
    this.input = input;
    this.statements = new StatementForms(tokens, input);
    windows();
    joinAliases();
  }

  /** Writes what begins at a place in another form; returns whether it did. */
  boolean rewrite(int i) {
    Lexer.Token token = tokens.at(i);
    if (token.sort() == Sort.NUMBER) {
      return typedNumber(i);
    }
    if (token.sort() == Sort.SYMBOL) {
      return tokens.isSymbol(i, '(') && (parenthesedName(i) || rowOfFunction(i) || windowOf(i));
    }
    return token.sort() == Sort.WORD && word(i);
  }

  private boolean word(int i) {
    return switch (tokens.word(i)) {
      case "sort" -> sortBy(i);
      case "distribute", "cluster" -> distributeBy(i);
      case "with" -> withCube(i);
      case "is" -> isJson(i);
      case "variadic" -> blank(i, i, tokens.isSymbol(i - 1, '(') || tokens.isSymbol(i - 1, ','));
      case "only" -> blank(i, i, isOnly(i));
      case "substring" -> substring(i);
      case "within" -> filterOfOrdered(i);
      case "using" -> usingJoin(i);
      case "inner" -> blank(i, i, tokens.word(i - 1).equals("natural"));
      case "xmlelement", "xmlforest" -> xmlName(i);
      case "search", "cycle", "output", "clone" -> statements.rewrite(i);
      case "first", "last" -> blank(i - 1, i, tokens.word(i - 1).equals("from") && isOfFunction(i));
      default -> joinAlias(i);
    };
  }

  private boolean blank(int from, int to, boolean condition) {
    if (condition) {
      input.blank(from, to);
    }
    return condition;
  }

  // ----------------------------------------------------------- literals, names

  /** {@code 1L}, {@code 2.5BD}: the letters only say of what type the number is. */
  private boolean typedNumber(int i) {
    Matcher typed = TYPED_NUMBER.matcher(tokens.textOf(i));
    if (!typed.matches()) {
      return false;
    }
    input.replace(i, typed.group(1));
    return true;
  }

  /** {@code (t).c} is {@code t.c}. */
  private boolean parenthesedName(int open) {
    boolean call = !tokens.word(open - 1).isEmpty() && !isKeyword(tokens.word(open - 1));
    Sort name = open + 1 < tokens.size() ? tokens.at(open + 1).sort() : Sort.SYMBOL;
    if (call || (name != Sort.WORD && name != Sort.NAME)) {
      return false;
    }
    int close = open + 2;
    while (tokens.isSymbol(close, '.') && close + 1 < tokens.size()) {
      close += 2;
    }
    if (!tokens.isSymbol(close, ')') || !tokens.isSymbol(close + 1, '.')) {
      return false;
    }
    input.blank(open, open);
    input.blank(close, close);
    // Nothing may lie between a name and its dot.
    return true;
  }

  private static boolean isKeyword(String word) {
    return Set.of(
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
            "in",
            "between",
            "set",
            "returning",
            "all")
        .contains(word);
  }

  /** {@code (f(x)).*}: which columns the function yields cannot be seen here. */
  private boolean rowOfFunction(int open) {
    int close = tokens.closing(open);
    boolean call = !tokens.word(open - 1).isEmpty() && !isKeyword(tokens.word(open - 1));
    boolean star = tokens.isSymbol(close + 1, '.') && tokens.isSymbol(close + 2, '*');
    if (call || !star || !tokens.isSymbol(open + 2, '(')) {
      return false;
    }
    input.blank(close + 1, close + 2);
    input.problem("Which columns this function yields is not known.", open);
    return true;
  }

  /** {@code JOIN … USING (id) AS j}: the other name of the merged columns is left out. */
  private void joinAliases() {
    for (int i = 0; i < tokens.size(); i++) {
      int alias = aliasOfUsing(i);
      if (alias > 0) {
        joinAliases.add(tokens.textOf(alias).toLowerCase(java.util.Locale.ROOT));
      }
    }
  }

  private int aliasOfUsing(int i) {
    if (!tokens.word(i).equals("using") || !tokens.isSymbol(i + 1, '(')) {
      return -1;
    }
    int close = tokens.closing(i + 1);
    boolean names = true;
    for (int at = i + 2; at < close; at++) {
      names &= tokens.isSymbol(at, ',') || tokens.at(at).sort() != Sort.SYMBOL;
    }
    boolean as = names && tokens.word(close + 1).equals("as") && close + 2 < tokens.size();
    return as ? close + 2 : -1;
  }

  private boolean usingJoin(int i) {
    int alias = aliasOfUsing(i);
    if (alias > 0) {
      input.blank(alias - 1, alias);
      return false; // USING itself stays
    }
    return tokens.word(0).equals("merge") && statements.mergeOfJoin(i);
  }

  private boolean joinAlias(int i) {
    boolean qualifies =
        tokens.isSymbol(i + 1, '.')
            && !tokens.isSymbol(i - 1, '.')
            && joinAliases.contains(tokens.word(i));
    return blank(i, i + 1, qualifies);
  }

  private boolean isOnly(int i) {
    boolean before =
        Set.of("from", "update", "join", "table", "truncate").contains(tokens.word(i - 1))
            || tokens.isSymbol(i - 1, ',');
    boolean named =
        i + 1 < tokens.size()
            && (tokens.at(i + 1).sort() == Sort.WORD || tokens.at(i + 1).sort() == Sort.NAME);
    return before
        && named
        && !Set.of("where", "join", "on", "set", "as", "group", "order")
            .contains(tokens.word(i + 1));
  }

  // --------------------------------------------------------- sorting, grouping

  private boolean isIn(int i, String word) {
    for (int at = i - 1, depth = 0; at >= 0; at--) {
      depth -= tokens.nesting(at);
      if (depth < 0) {
        return tokens.word(at - 1).equals(word);
      }
    }
    return false;
  }

  private boolean afterSelect(int i) {
    for (int at = i - 1; at >= 0; at--) {
      if (tokens.word(at).equals("select")) {
        return true;
      }
    }
    return false;
  }

  /** Within a window as ORDER BY; at the end of a query it decides no rows. */
  private boolean sortBy(int i) {
    if (!tokens.word(i + 1).equals("by") || !afterSelect(i)) {
      return false;
    }
    input.replace(i, "order");
    return true;
  }

  private boolean distributeBy(int i) {
    if (!tokens.word(i + 1).equals("by") || !afterSelect(i)) {
      return false;
    }
    if (isIn(i, "over")) {
      input.replace(i, "partition");
      return true;
    }
    // Where rows are worked on says nothing of which there are.
    int end = i + 2;
    for (int depth = 0; end < tokens.size(); end++) {
      depth += tokens.nesting(end);
      boolean clause =
          depth == 0
              && Set.of("sort", "limit", "order", "union", "intersect", "except", "window")
                  .contains(tokens.word(end));
      if (depth < 0 || clause) {
        break;
      }
    }
    input.blank(i, end - 1);
    return true;
  }

  /** GROUP BY … WITH CUBE adds rows of totals: it groups by the same columns. */
  private boolean withCube(int i) {
    boolean totals = Set.of("cube", "rollup", "totals").contains(tokens.word(i + 1));
    return blank(i, i + 1, totals && !tokens.isSymbol(i + 2, '(') && i > 0);
  }

  /** IS [NOT] JSON … asks only for the value itself, as IS NULL does. */
  private boolean isJson(int i) {
    int json = tokens.word(i + 1).equals("not") ? i + 2 : i + 1;
    if (!tokens.word(json).equals("json")) {
      return false;
    }
    input.replace(json, "null");
    int last = json;
    while (Set.of("value", "array", "object", "scalar", "with", "without", "unique", "keys")
        .contains(tokens.word(last + 1))) {
      last++;
    }
    if (last > json) {
      input.blank(json + 1, last);
    }
    return true;
  }

  // ------------------------------------------------------------------ functions

  /** SUBSTRING(x FOR n), SUBSTRING(x SIMILAR y ESCAPE z): arguments like any others. */
  private boolean substring(int i) {
    if (!tokens.isSymbol(i + 1, '(')) {
      return false;
    }
    int close = tokens.closing(i + 1);
    boolean from = false;
    for (int at = i + 2, depth = 0; at < close; at++) {
      depth += tokens.nesting(at);
      String word = depth == 0 ? tokens.word(at) : "";
      from |= word.equals("from");
      boolean separates =
          word.equals("similar") || word.equals("escape") || (word.equals("for") && !from);
      if (separates) {
        input.replace(at, ",");
      }
    }
    return false; // the name itself stays
  }

  /** XMLELEMENT(NAME n, …): the name of the element is no column. */
  private boolean xmlName(int i) {
    if (tokens.isSymbol(i + 1, '(') && tokens.word(i + 2).equals("name")) {
      input.blank(i + 2, i + 2);
      input.replace(i + 3, "'" + tokens.textOf(i + 3).replaceAll("\\W", "_") + "'");
    }
    return false;
  }

  /** WITHIN GROUP (ORDER BY x) FILTER (WHERE c) aggregates x where c holds. */
  private boolean filterOfOrdered(int i) {
    if (!tokens.word(i + 1).equals("group") || !tokens.isSymbol(i + 2, '(')) {
      return false;
    }
    int close = tokens.closing(i + 2);
    int filter = close + 1;
    if (!tokens.word(filter).equals("filter") || !tokens.isSymbol(filter + 1, '(')) {
      return false;
    }
    int end = tokens.closing(filter + 1);
    int first = i + 5; // behind ORDER BY
    int last = first;
    for (int at = first, depth = 0; at < close; at++) {
      depth += tokens.nesting(at);
      boolean more =
          depth == 0
              && (tokens.isSymbol(at, ',')
                  || Set.of("asc", "desc", "nulls").contains(tokens.word(at)));
      if (more) {
        break;
      }
      last = at;
    }
    if (!tokens.word(first - 2).equals("order") || filter + 3 > end) {
      return false;
    }
    String condition =
        tokens.text().substring(tokens.at(filter + 3).start(), tokens.at(end - 1).end());
    String head = "case when " + condition + " then " + tokens.textOf(first);
    if (first == last) {
      input.replace(first, head + " end");
    } else {
      input.replace(first, head);
      input.replace(last, tokens.textOf(last) + " end");
    }
    input.blank(filter, end);
    return false;
  }

  // -------------------------------------------------------------------- windows

  /** WINDOW w AS (…), w2 AS (w …): what each stands for, with those it stands on. */
  private void windows() {
    for (int i = 0; i < tokens.size(); i++) {
      if (!tokens.word(i).equals("window")) {
        continue;
      }
      int at = i + 1;
      while (tokens.word(at + 1).equals("as") && tokens.isSymbol(at + 2, '(')) {
        int close = tokens.closing(at + 2);
        windows.put(tokens.word(at), inside(at + 2, close));
        at = tokens.isSymbol(close + 1, ',') ? close + 2 : tokens.size();
      }
    }
  }

  private String inside(int open, int close) {
    if (close <= open + 1) {
      return "";
    }
    String base = windows.get(tokens.word(open + 1));
    int from = base == null ? open + 1 : open + 2;
    String rest =
        from >= close
            ? ""
            : tokens.text().substring(tokens.at(from).start(), tokens.at(close - 1).end());
    return base == null ? rest : base + " " + rest;
  }

  /** {@code OVER (w ORDER BY x)} and {@code w2 AS (w)}: the window named is written out. */
  private boolean windowOf(int open) {
    boolean over = tokens.word(open - 1).equals("over");
    boolean defined =
        tokens.word(open - 1).equals("as") && windows.containsKey(tokens.word(open - 2));
    String base = windows.get(tokens.word(open + 1));
    if ((over || defined) && base != null && !tokens.isSymbol(open + 2, '.')) {
      input.replace(open + 1, base);
      return false;
    }
    return false;
  }

  /** {@code nth_value(a, 2) FROM FIRST OVER …}: from which end it counts. */
  private boolean isOfFunction(int i) {
    return tokens.isSymbol(i - 2, ')')
        && Set.of("over", "respect", "ignore").contains(tokens.word(i + 1));
  }
}
