package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;

class TableTest {
  private static Table table() {
    var table = new Table("NAME", "MEANING");
    table.row("litres", "Litres by the tanker's flow meter");
    table.row("größe", "é");
    return table;
  }

  @Test
  void columns_line_up_and_lines_end_without_blanks() {
    assertThat(table().text(0))
        .isEqualTo("NAME    MEANING\nlitres  Litres by the tanker's flow meter\ngröße   é\n");
  }

  @Test
  void the_widest_column_gives_way_in_a_narrow_terminal() {
    assertThat(table().text(24).lines()).allMatch(line -> line.length() <= 24);
    assertThat(table().text(24)).contains("litres  Litres by the t…");
  }

  @Test
  void a_pipe_gets_everything_uncut() {
    assertThat(table().text(0)).contains("flow meter");
  }

  @Test
  void a_column_stays_wide_enough_to_be_told_apart() {
    assertThat(table().text(3)).contains("litres").contains("Litres …");
  }

  @Test
  void a_line_break_in_a_cell_does_not_break_the_row() {
    var table = new Table("ERROR");
    table.row("first\nsecond");
    assertThat(table.text(0)).isEqualTo("ERROR\nfirst second\n");
  }

  @Test
  void of_a_name_the_middle_is_left_out() {
    var table = new Table("NAME");
    table.row("postgres://barn.example:5432/barn.mart.payout_statement");
    assertThat(table.text(21)).contains("postgres:/…_statement\n");
  }
}
