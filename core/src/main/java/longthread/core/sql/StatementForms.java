package longthread.core.sql;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;

/** Statements of single dialects in words that the parser knows: MERGE, WITH, OUTPUT, CLONE. */
final class StatementForms {
  private final Tokens tokens;
  private final ParserInput input;

  StatementForms(Tokens tokens, ParserInput input) {
    this.tokens = tokens;
    this.input = input;
  }

  /** Writes what begins at a place in another form; returns whether it did. */
  boolean rewrite(int i) {
    return switch (tokens.word(i)) {
      case "search", "cycle" -> searchOrCycle(i);
      case "output" -> outputInto(i);
      case "clone" -> cloneOf(i);
      default -> false;
    };
  }

  /** MERGE … USING a JOIN b ON … ON …: the join is put into parentheses. */
  boolean mergeOfJoin(int using) {
    int on = -1;
    boolean joins = false;
    for (int i = using + 1, depth = 0; i < tokens.size(); i++) {
      depth += tokens.nesting(i);
      String word = depth == 0 ? tokens.word(i) : "";
      if (word.equals("when")) {
        break;
      }
      joins |= word.equals("join");
      on = word.equals("on") ? i : on;
    }
    if (!joins || on < 0 || using + 1 >= tokens.size()) {
      return false;
    }
    input.replace(using, "using (");
    input.before(on, ") ");
    return true;
  }

  /** SEARCH … SET c and CYCLE … SET c USING p behind a recursive WITH add columns to it. */
  private boolean searchOrCycle(int i) {
    boolean search =
        tokens.word(i).equals("search")
            && Set.of("depth", "breadth").contains(tokens.word(i + 1))
            && tokens.word(i + 2).equals("first");
    boolean cycle = tokens.word(i).equals("cycle") && afterBody(i);
    if (!search && !cycle) {
      return false;
    }
    var by = new ArrayList<String>();
    var made = new ArrayList<String>();
    int at = search ? i + 4 : i + 1;
    while (at < tokens.size() && !tokens.word(at).equals("set")) {
      if (!tokens.isSymbol(at, ',')) {
        by.add(tokens.textOf(at));
      }
      at++;
    }
    if (at + 1 >= tokens.size()) {
      return false;
    }
    made.add(tokens.textOf(at + 1));
    int last = at + 1;
    if (cycle && tokens.word(last + 1).equals("to")) {
      last += 4; // TO value DEFAULT value
    }
    if (cycle && tokens.word(last + 1).equals("using")) {
      made.add(tokens.textOf(last + 2));
      last += 2;
    }
    input.blank(i, last);
    int body = i - 1; // the clause of SEARCH may stand between
    while (body > 0 && !tokens.isSymbol(body, ')')) {
      body--;
    }
    input.addColumns(new Added(tokens.at(body).end(), by, made));
    return true;
  }

  /**
   * {@code OUTPUT inserted.a INTO v (b)}: rows of the changed table go to another one too. Without
   * INTO they only go to the caller.
   */
  private boolean outputInto(int i) {
    String verb = verb();
    if (verb.isEmpty() || !isOutput(i)) {
      return false;
    }
    int end = i + 1;
    int into = -1;
    for (int depth = 0; end < tokens.size(); end++) {
      depth += tokens.nesting(end);
      String word = depth == 0 ? tokens.word(end) : "";
      if (word.equals("into")) {
        into = end;
      } else if (Set.of("select", "values", "where", "from", "default", "exec", "option")
          .contains(word)) {
        break;
      }
    }
    if (into > 0) {
      String items = textOf(i + 1, into - 1).replaceAll("(?i)\\$action", "'action'");
      String table = tableOf();
      input.writesToo(
          "insert into "
              + textOf(into + 1, end - 1)
              + " select "
              + items
              + " from "
              + table
              + " inserted cross join "
              + table
              + " deleted");
    }
    input.blank(i, end - 1);
    return true;
  }

  private boolean isOutput(int i) {
    for (int at = i + 1; at < Math.min(tokens.size(), i + 8); at++) {
      if (Set.of("inserted", "deleted").contains(tokens.word(at)) || tokens.isSymbol(at, '$')) {
        return true;
      }
    }
    return false;
  }

  private String verb() {
    return Set.of("insert", "update", "delete", "merge").contains(tokens.word(0))
        ? tokens.word(0)
        : "";
  }

  /** The table that the statement changes, as it is written. */
  private String tableOf() {
    int at = 1;
    while (Set.of("into", "from", "top").contains(tokens.word(at)) || tokens.isSymbol(at, '(')) {
      at = tokens.isSymbol(at, '(') ? tokens.closing(at) + 1 : at + 1;
    }
    int last = at;
    while (tokens.isSymbol(last + 1, '.') && last + 2 < tokens.size()) {
      last += 2;
    }
    return textOf(at, last);
  }

  private String textOf(int from, int to) {
    return from > to ? "" : tokens.text().substring(tokens.at(from).start(), tokens.at(to).end());
  }

  /** {@code CREATE TABLE n CLONE t} copies all of it. */
  private boolean cloneOf(int i) {
    if (!tokens.word(0).equals("create") || i + 1 >= tokens.size()) {
      return false;
    }
    input.replace(i, "as select * from");
    return true;
  }

  /** CYCLE stands behind the body of a WITH, or behind its SEARCH. */
  private boolean afterBody(int i) {
    return tokens.isSymbol(i - 1, ')') || tokens.word(i - 2).equals("set");
  }

  /**
   * Columns that a clause behind a WITH adds to it.
   *
   * @param bodyEnd where its body ends
   */
  record Added(int bodyEnd, List<String> by, List<String> made) {}
}
