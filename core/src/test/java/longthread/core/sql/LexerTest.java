package longthread.core.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import longthread.core.sql.Lexer.Sort;
import longthread.core.sql.Lexer.Token;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class LexerTest {
  private static List<Token> tokens(String text, Dialect dialect) {
    return Lexer.tokens(text, 0, text.length(), dialect);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      value = {
        "POSTGRES|'it''s'|STRING",
        "POSTGRES|\"A b\"|NAME",
        "POSTGRES|$$ ; 'x' $$|BODY",
        "POSTGRES|$tag$ $$ $tag$|BODY",
        "POSTGRES|E'a\\'b'|STRING",
        "POSTGRES|/* a /* b */ c */|COMMENT",
        "POSTGRES|-- to the end|COMMENT",
        "POSTGRES|1.5e3|NUMBER",
        "POSTGRES|{{ ds }}|TEMPLATE",
        "POSTGRES|${period}|TEMPLATE",
        "BACKTICK|`a b`|NAME",
        "BACKTICK|\"text\"|STRING",
        "BACKTICK|# a comment|COMMENT",
        "BACKTICK|'a\\'b'|STRING",
        "BRACKET|[a b]|NAME",
        "BRACKET|#temporary|WORD",
        "BRACKET|@variable|WORD",
      })
  void one_piece_of_text_is_one_token(Dialect dialect, String text, Sort sort) {
    List<Token> tokens = tokens(text, dialect);
    assertThat(tokens).hasSize(1);
    assertThat(tokens.get(0).sort()).isEqualTo(sort);
    assertThat(tokens.get(0).end()).isEqualTo(text.length());
  }

  @Property
  void tokens_follow_each_other_with_nothing_but_space_between(
      @ForAll("texts") String text, @ForAll Dialect dialect) {
    int at = 0;
    for (Token token : tokens(text, dialect)) {
      assertThat(token.start()).isGreaterThanOrEqualTo(at);
      assertThat(token.end()).isGreaterThan(token.start());
      assertThat(text.substring(at, token.start())).isBlank();
      at = token.end();
    }
    assertThat(text.substring(at)).isBlank();
  }

  @Property
  void what_the_parser_is_given_can_be_traced_back_to_the_source(
      @ForAll("texts") String text, @ForAll boolean lossy) {
    List<Token> tokens =
        tokens(text, Dialect.POSTGRES).stream().filter(t -> t.sort() != Sort.COMMENT).toList();
    if (tokens.isEmpty()) {
      return;
    }
    ParserInput input = ParserInput.of(text, tokens, lossy);
    int before = 0;
    for (int at = 0; at <= input.text().length(); at++) {
      int source = input.toSource(at);
      assertThat(source).isBetween(0, text.length());
      assertThat(source).as("position %s of %s", at, input.text()).isGreaterThanOrEqualTo(before);
      before = source;
    }
  }

  @Property
  void any_text_is_read_to_some_answer(@ForAll("texts") String text, @ForAll Dialect dialect) {
    try (var reader = new SqlReader()) {
      for (SqlStatement statement : reader.read(text, dialect, KnownTables.NONE)) {
        assertThat(statement.span().start()).isBetween(0, text.length());
        assertThat(statement.span().end()).isBetween(statement.span().start(), text.length());
        assertThat(statement.complete()).isEqualTo(statement.problems().isEmpty());
      }
    }
  }

  @Provide
  Arbitrary<String> texts() {
    return Arbitraries.of(
            "select",
            "a",
            ",",
            "from",
            "t",
            "where",
            "(",
            ")",
            "'x y'",
            "\"N\"",
            "`q`",
            "[b]",
            ";",
            "--c\n",
            "/* c */",
            "$$b$$",
            "{{v}}",
            "insert into t",
            "with c as (",
            "=",
            "1.5",
            "join",
            "on",
            "group by",
            "union",
            "'",
            "\"",
            "$",
            "{%if%}",
            "*",
            ".",
            "\n\n\n")
        .list()
        .ofMaxSize(16)
        .map(words -> String.join(" ", words));
  }
}
