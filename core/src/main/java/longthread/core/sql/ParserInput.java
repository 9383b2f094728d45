package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.NavigableSet;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Pattern;
import longthread.core.sql.Lexer.Token;
import org.jspecify.annotations.Nullable;

/**
 * The text of a statement as the parser is given it: forms that it does not know are written in
 * ones that it does, and every position can be mapped back.
 *
 * <p>A general parser ends a statement at two blank lines, trips over residue of templating, and
 * lacks some forms that databases allow; none of that is a reason to lose the lineage of the rest.
 */
final class ParserInput {
  /** The column that stands for all of them in {@code UPDATE SET *} and {@code INSERT *}. */
  static final String ALL = "__all_columns__";

  private static final Pattern QUOTED = Pattern.compile("['\"]([\\w.$-]+)['\"]");

  private final String source;
  private final Tokens tokens;
  private final @Nullable String[] instead; // by token; null where it stays as it is
  private final Set<Integer> renames = new HashSet<>();
  private final Set<Integer> semiJoins = new HashSet<>();
  private final NavigableSet<Integer> joins = new TreeSet<>(); // where the words JOIN start
  private final List<SqlProblem> problems = new ArrayList<>();
  private final List<String> others = new ArrayList<>();
  private final List<StatementForms.Added> added = new ArrayList<>();
  private @Nullable VariableForms variables;
  private boolean templated;
  private boolean temporary;
  private boolean byName;
  private String text = "";

  // Where a stretch of the rewritten text starts, and where it stands in the source.
  private int[] starts = {0};
  private int[] origins = {0};

  private ParserInput(String source, Tokens tokens) {
    this.source = source;
    this.tokens = tokens;
    this.instead = new String[tokens.size()];
  }

  /**
   * Rewrites a statement.
   *
   * @param tokens of the statement, without comments
   * @param lossy whether to try rewritings that lose detail, after plain ones failed
   */
  static ParserInput of(String source, List<Token> tokens, boolean lossy) {
    var input = new ParserInput(source, new Tokens(source, tokens));
    input.variables = VariableForms.of(input.tokens);
    if (input.variables != null) {
      input.variables.rewrite(input);
    }
    var names = new NameWords(input.tokens);
    var forms = new DialectForms(input.tokens, input);
    for (int i = 0; i < tokens.size(); i++) {
      boolean name = names.next(i);
      if (tokens.get(i).word().equals("join")) {
        input.joins.add(tokens.get(i).start());
      }
      if (input.instead[i] != null || forms.rewrite(i)) {
        continue; // written already
      }
      if (name) {
        input.replace(i, input.tokens.textOf(i) + NameWords.MARK);
      } else if (input.instead[i] == null) {
        input.token(i, lossy);
      }
    }
    input.build();
    return input;
  }

  String text() {
    return text;
  }

  /** The variables that the statement fills; null if it fills none. */
  @Nullable VariableForms variables() {
    return variables;
  }

  boolean templated() {
    return templated;
  }

  /** Whether SELECT INTO makes a temporary table. */
  boolean temporary() {
    return temporary;
  }

  /** Whether INSERT matches columns by name. */
  boolean byName() {
    return byName;
  }

  /** Where a position of the rewritten text stands in the source. */
  int toSource(int position) {
    int low = 0;
    int high = starts.length - 1;
    while (low < high) {
      int middle = (low + high + 1) >>> 1;
      if (starts[middle] <= position) {
        low = middle;
      } else {
        high = middle - 1;
      }
    }
    int origin = origins[low] + position - starts[low];
    // Within a replacement that is longer than what it stands for, its end is as far as it goes.
    int next = low + 1 < origins.length ? origins[low + 1] : Integer.MAX_VALUE;
    return origins[low] <= next ? Math.min(origin, next) : origin;
  }

  /** Whether a list behind a star gives columns new names, and not new values. */
  boolean isRename(@Nullable Span star) {
    return star != null && renames.stream().anyMatch(at -> at >= star.start() && at < star.end());
  }

  /** Whether a join is a semi join itself, and not only one that holds such in a subquery. */
  boolean isSemiJoin(@Nullable Span join) {
    if (join == null || semiJoins.isEmpty()) {
      return false;
    }
    // The first word JOIN from there on.
    Integer own = joins.ceiling(join.start());
    return own != null && semiJoins.contains(own);
  }

  /** A problem at a place of the statement that another form could not keep. */
  void problem(String what, int token) {
    problems.add(new SqlProblem(what, new Span(tokens.at(token).start(), tokens.at(token).end())));
  }

  List<SqlProblem> problems() {
    return problems;
  }

  /** Adds a statement that says what this one writes besides. */
  void writesToo(String statement) {
    others.add(statement);
  }

  List<String> others() {
    return others;
  }

  /** Puts text before a token, which stays. */
  void before(int i, String text) {
    replace(i, text + tokens.textOf(i));
  }

  void addColumns(StatementForms.Added columns) {
    added.add(columns);
  }

  /** The columns that clauses right behind the body of a WITH add to it. */
  List<StatementForms.Added> addedBehind(int end) {
    return added.stream().filter(one -> one.bodyEnd() == end).toList();
  }

  void blank(int from, int to) {
    for (int i = from; i <= Math.min(to, tokens.size() - 1); i++) {
      instead[i] = " ".repeat(tokens.at(i).end() - tokens.at(i).start());
    }
  }

  void replace(int i, String by) {
    instead[i] = by;
  }

  private void token(int i, boolean lossy) {
    Token token = tokens.at(i);
    switch (token.sort()) {
      case TEMPLATE -> template(i);
      case STRING -> string(i);
      case BODY -> replace(i, "'" + ".".repeat(token.end() - token.start() - 2) + "'");
      case WORD -> rewrite(i, lossy);
      case SYMBOL -> {
        boolean trailing =
            tokens.isSymbol(i, ',')
                && (tokens.word(i + 1).equals("from") || tokens.isSymbol(i + 1, ')'));
        if (trailing) {
          blank(i, i);
        }
        if (lossy
            && tokens.isSymbol(i, '(')
            && tokens.isSymbol(i + 1, ')')
            && tokens.word(i - 1).isEmpty()) {
          replace(i, "(1");
        }
      }
      default -> {}
    }
  }

  private void rewrite(int i, boolean lossy) {
    switch (tokens.word(i)) {
      case "with" -> {
        boolean no = tokens.word(i + 1).equals("no");
        if (tokens.word(i + (no ? 2 : 1)).equals("data")) {
          blank(i, i + (no ? 2 : 1));
        } else if (tokens.word(i + 1).equals("offset")) {
          int last = tokens.word(i + 2).equals("as") ? i + 3 : i + 1;
          blank(i, Math.min(last, tokens.size() - 1));
        }
      }
      case "tablesample" -> {
        int open = i;
        while (open < tokens.size() - 1 && !tokens.isSymbol(open, '(')) {
          open++;
        }
        int close = tokens.closing(open);
        if (tokens.word(close + 1).equals("repeatable")) {
          close = tokens.closing(close + 2);
        }
        blank(i, close);
      }
      case "anti", "semi" -> {
        if (tokens.word(i + 1).equals("join")) {
          // Left out, so that the join is a plain one; it is distinguished by where it stands.
          boolean side = tokens.word(i - 1).equals("left") || tokens.word(i - 1).equals("right");
          blank(side ? i - 1 : i, i);
          semiJoins.add(tokens.at(i + 1).start());
        }
      }
      case "rename" -> {
        boolean afterStar = tokens.isSymbol(i - 1, '*') || tokens.isSymbol(i - 1, ')');
        if (afterStar && tokens.isSymbol(i + 1, '(')) {
          replace(i, "replace");
          renames.add(tokens.at(i).start());
        }
      }
      case "by" -> {
        boolean insert = tokens.word(0).equals("insert") || tokens.word(0).equals("with");
        boolean query =
            Set.of("select", "with", "from", "values").contains(tokens.word(i + 2))
                || tokens.isSymbol(i + 2, '(');
        boolean matches =
            !Set.of("all", "group", "order", "partition", "sort", "cluster", "distribute", "union")
                .contains(tokens.word(i - 1));
        if (insert && query && matches && tokens.word(i + 1).equals("name")) {
          byName = true;
          blank(i, i + 1);
        }
      }
      case "into" -> into(i);
      case "map" -> {
        if (tokens.isSymbol(i + 1, '[')) {
          int close = tokens.closing(i + 1);
          replace(i + 1, "(");
          replace(close, ")");
        }
      }
      case "when" -> mergeDoesNothing(i);
      case "set" -> {
        if (tokens.isSymbol(i + 1, '*') && tokens.word(i - 1).equals("update")) {
          replace(i + 1, ALL + " = 1");
        }
      }
      case "insert" -> {
        if (tokens.isSymbol(i + 1, '*')) {
          replace(i + 1, "(" + ALL + ") values (1)");
        }
      }
      case "table" -> {
        boolean ctas = tokens.word(i - 1).equals("as") && tokens.word(0).equals("create");
        if (ctas && i > 2) {
          replace(i, "select * from");
        }
      }
      case "grouping" -> {
        if (lossy && tokens.word(i + 1).equals("sets")) {
          blank(i, i + 1);
        }
      }
      default -> {
        String word = tokens.textOf(i);
        boolean variable = word.startsWith("@") && !word.startsWith("@@") && word.length() > 1;
        boolean table =
            Set.of("from", "join", "into", "update", "table", "using").contains(tokens.word(i - 1));
        boolean call = tokens.word(0).startsWith("exec") || tokens.word(0).equals("declare");
        if (variable && !table && !call) {
          replace(i, ":" + word.substring(1));
        }
      }
    }
  }

  private void into(int i) {
    int last = i;
    while (Set.of("temp", "temporary", "unlogged", "table").contains(tokens.word(last + 1))
        && !tokens.word(0).equals("insert")) {
      temporary |= tokens.word(last + 1).startsWith("temp");
      last++;
    }
    boolean select = tokens.word(0).equals("select") || tokens.word(0).equals("with");
    if (last > i && select) {
      blank(i + 1, last);
    } else {
      temporary = temporary && select;
    }
  }

  private void mergeDoesNothing(int i) {
    for (int j = i + 1; j < tokens.size() && !tokens.word(j).equals("when"); j++) {
      if (tokens.word(j).equals("then")
          && tokens.word(j + 1).equals("do")
          && tokens.word(j + 2).equals("nothing")) {
        blank(i, j + 2);
        return;
      }
    }
  }

  private void string(int at) {
    String text = tokens.textOf(at);
    if (text.indexOf('\\') >= 0) {
      var plain = new StringBuilder(text);
      for (int i = 1; i < plain.length() - 1; i++) {
        if (plain.charAt(i) == '\\') {
          plain.setCharAt(i, '.');
          plain.setCharAt(i + 1, i + 1 == plain.length() - 1 ? plain.charAt(i + 1) : '.');
          i++;
        }
      }
      replace(at, plain.toString());
    }
  }

  /** A reference to another model stands for its table; any other residue for some name. */
  private void template(int at) {
    String inside = tokens.textOf(at);
    boolean block = inside.startsWith("{%") || inside.startsWith("{#");
    templated |= !inside.startsWith("{#");
    if (block) {
      blank(at, at);
      return;
    }
    var names = new ArrayList<String>();
    var quoted = QUOTED.matcher(inside);
    boolean reference = inside.matches("(?s)\\{\\{-?\\s*(ref|source)\\s*\\(.*");
    while (reference && quoted.find()) {
      names.add(quoted.group(1));
    }
    String name =
        names.isEmpty()
            ? "t_" + inside.replaceAll("[^A-Za-z0-9_]+", "_").toLowerCase(Locale.ROOT)
            : String.join(".", names);
    replace(at, name);
  }

  /** Writes the tokens out, with spaces for what lay between them: comments, line ends. */
  private void build() {
    var out = new StringBuilder();
    var begins = new ArrayList<int[]>();
    int expected = -1;
    for (int i = 0; i < tokens.size(); i++) {
      Token token = tokens.at(i);
      if (expected >= 0 && token.start() >= expected) {
        out.append(" ".repeat(token.start() - expected));
      } else {
        out.append(expected >= 0 ? " " : "");
        begins.add(new int[] {out.length(), token.start()});
      }
      String by = instead[i];
      if (by == null) {
        out.append(source, token.start(), token.end());
      } else {
        out.append(by);
        if (by.length() != token.end() - token.start()) {
          begins.add(new int[] {out.length(), token.end()});
        }
      }
      expected = token.end();
    }
    text = out.toString();
    starts = begins.stream().mapToInt(b -> b[0]).toArray();
    origins = begins.stream().mapToInt(b -> b[1]).toArray();
  }
}
