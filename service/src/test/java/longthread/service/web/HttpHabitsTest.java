package longthread.service.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.io.IOException;
import java.io.StringWriter;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.function.Supplier;
import java.util.stream.IntStream;
import longthread.service.storage.StoredText;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.core.context.SecurityContextHolder;

class HttpHabitsTest {
  private static final Instant NOW = Instant.parse("2031-05-01T00:00:00Z");
  private final Clock clock = mock(Clock.class);
  private final Pages pages = new Pages(clock);

  @Test
  void a_cursor_is_good_for_its_caller_only_and_many_lists_of_one_push_out_no_other() {
    when(clock.instant()).thenReturn(Instant.parse("2026-05-01T00:00:00Z"));
    List<Integer> list = IntStream.range(0, 300).boxed().toList();
    String mine = as("me", () -> pages.first(list, 100).cursor());
    as("greedy", () -> IntStream.range(0, 500).mapToObj(i -> pages.first(list, 100)).toList());
    assertThat(as("me", () -> pages.next(mine, 100).items()).get(0)).isEqualTo(100);
    assertThatThrownBy(() -> as("other", () -> pages.next(mine, 100)))
        .isInstanceOf(ProblemException.class)
        .hasMessageContaining("five minutes");
  }

  private static <T> T as(String caller, Supplier<T> work) {
    SecurityContextHolder.getContext()
        .setAuthentication(
            UsernamePasswordAuthenticationToken.authenticated(caller, "", List.of()));
    try {
      return work.get();
    } finally {
      SecurityContextHolder.clearContext();
    }
  }

  @Test
  void a_list_comes_in_pieces_until_its_end() {
    when(clock.instant()).thenReturn(NOW);
    List<Integer> all = IntStream.range(0, 25).boxed().toList();
    Pages.Page<Integer> page = pages.first(all, 10);
    assertThat(page.items()).hasSize(10);
    page = pages.next(page.cursor(), 10);
    assertThat(page.items()).startsWith(10).hasSize(10);
    page = pages.next(page.cursor(), 10);
    assertThat(page.items()).containsExactly(20, 21, 22, 23, 24);
    assertThat(page.cursor()).isNull();
    assertThat(page.total()).isEqualTo(25);
  }

  @Test
  void a_cursor_is_good_for_five_minutes() {
    when(clock.instant()).thenReturn(NOW);
    String cursor = pages.first(List.of(1, 2, 3), 1).cursor();
    when(clock.instant()).thenReturn(NOW.plus(Duration.ofMinutes(4)));
    assertThat(pages.next(cursor, 1).items()).containsExactly(2);
    when(clock.instant()).thenReturn(NOW.plus(Duration.ofMinutes(6)));
    assertThatThrownBy(() -> pages.next(cursor, 1))
        .isInstanceOfSatisfying(
            ProblemException.class, e -> assertThat(e.status().value()).isEqualTo(410));
  }

  @ParameterizedTest
  @ValueSource(ints = {0, -1, 1_001})
  void a_limit_out_of_bounds_is_told(int limit) {
    assertThatThrownBy(() -> Pages.limit(limit)).hasMessageContaining("1 to 1000");
  }

  @Test
  void a_sheet_runs_no_formulas_and_keeps_numbers_as_they_are() throws IOException {
    var text = new StringWriter();
    var sheet = new Csv(text, List.of("name", "reference"));
    sheet.row(Arrays.asList("=HYPERLINK(\"x\")", "@n/j"));
    sheet.row(Arrays.asList(null, -7));
    sheet.row(Arrays.asList("\r=1", "\n=1"));
    sheet.close();
    assertThat(text.toString())
        .isEqualTo(
            "\uFEFF\"name\",\"reference\"\r\n\"'=HYPERLINK(\"\"x\"\")\",\"'@n/j\"\r\n"
                + "\"\",\"-7\"\r\n\"'\r=1\",\"'\n=1\"\r\n");
  }

  @Test
  void a_problem_has_a_stable_type_and_further_members() {
    var problem = ProblemException.badRequest("odd", "do this").with("near", List.of("a")).detail();
    assertThat(problem.getType()).hasToString("/problems/odd");
    assertThat(problem.getDetail()).isEqualTo("do this");
    assertThat(problem.getProperties()).containsEntry("near", List.of("a"));
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "today",
        "2031-05-01",
        "2031-05-01T00:00:00",
        "+12031-05-01T00:00:00Z",
        "-0001-01-01T00:00:00Z"
      })
  void what_is_no_time_is_told(String text) {
    assertThatThrownBy(() -> Times.parse(text)).hasMessageContaining("is no time");
    assertThat(Times.parse("2031-05-01T02:00:00+02:00")).isEqualTo(NOW);
  }

  @Test
  void stored_text_is_clean_and_packed_text_comes_back_whole() {
    assertThat(StoredText.clean("a\u0000b\ud800c\ud83d\ude00"))
        .isEqualTo("a\ufffdb\ufffdc\ud83d\ude00");
    String text = "größe \u0000 \ud83d\ude00".repeat(100);
    assertThat(StoredText.text(StoredText.packed(text))).isEqualTo(text);
  }
}
