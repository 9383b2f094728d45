package longthread.core.sql;

import java.util.ArrayList;
import java.util.List;
import longthread.core.sql.Lexer.Token;

/**
 * Statements that name their source first, {@code FROM t SELECT a} and {@code FROM t INSERT INTO x
 * SELECT a INSERT INTO y SELECT b}, as the plain statements they amount to: the tokens in another
 * order.
 */
final class FromFirst {
  private FromFirst() {}

  /** The statements that a piece amounts to; the piece itself if it is a plain one. */
  static List<Script.Piece> parts(String text, Script.Piece piece) {
    var tokens = new Tokens(text, piece.tokens());
    if (!tokens.word(0).equals("from")) {
      return List.of(piece);
    }
    var heads = new ArrayList<Integer>();
    int depth = 0;
    for (int i = 1; i < tokens.size(); i++) {
      depth += tokens.nesting(i);
      String word = tokens.word(i);
      boolean select = word.equals("select") && (heads.isEmpty() || !startsInsert(tokens, heads));
      if (depth == 0 && (word.equals("insert") || select)) {
        heads.add(i);
      }
    }
    if (heads.isEmpty()) {
      return List.of(piece);
    }
    List<Token> source = tokens.list().subList(0, heads.get(0));
    var parts = new ArrayList<Script.Piece>();
    for (int h = 0; h < heads.size(); h++) {
      int end = h + 1 < heads.size() ? heads.get(h + 1) : tokens.size();
      List<Token> own = tokens.list().subList(heads.get(h), end);
      int clause = clauseAfterList(new Tokens(text, own));
      var ordered = new ArrayList<Token>(own.subList(0, clause));
      ordered.addAll(source);
      ordered.addAll(own.subList(clause, own.size()));
      parts.add(new Script.Piece(piece.span(), ordered, piece.routine()));
    }
    return parts;
  }

  private static boolean startsInsert(Tokens tokens, List<Integer> heads) {
    return tokens.word(heads.get(heads.size() - 1)).equals("insert");
  }

  /** Where the select list ends and FROM belongs. */
  private static int clauseAfterList(Tokens own) {
    int depth = 0;
    boolean selected = false;
    for (int i = 0; i < own.size(); i++) {
      depth += own.nesting(i);
      String word = own.word(i);
      selected |= word.equals("select");
      boolean clause =
          switch (word) {
            case "where", "group", "having", "order", "limit", "window", "qualify", "lateral" ->
                true;
            default -> false;
          };
      if (selected && depth == 0 && clause) {
        return i;
      }
    }
    return own.size();
  }
}
