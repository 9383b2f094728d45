package longthread.core.search;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Random;
import java.util.TreeMap;
import java.util.TreeSet;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;

class WordIndexTest {
  private final WordIndex<String> index = new WordIndex<>();
  private final TreeMap<String, List<WordIndex.Text>> texts = new TreeMap<>();

  private void put(String name, String columns, String words) {
    List<WordIndex.Text> all = new ArrayList<>();
    all.add(new WordIndex.Text(Place.NAME, name));
    for (String column : columns.split(" ")) {
      all.add(new WordIndex.Text(Place.COLUMN, column));
    }
    all.add(new WordIndex.Text(Place.TEXT, words));
    index.put(name, name, all);
    texts.put(name, all);
  }

  private List<String> find(String query) {
    return index
        .find(List.of(query.toLowerCase(Locale.ROOT).split(" ")), this::standsIn, t -> 1, t -> 0)
        .stream()
        .map(WordIndex.Hit::thing)
        .toList();
  }

  private double standsIn(String thing, String word) {
    return texts.get(thing).stream().anyMatch(t -> t.text().toLowerCase(Locale.ROOT).contains(word))
        ? 0.5
        : 0;
  }

  @Test
  void the_name_counts_more_than_a_column_and_a_column_more_than_text() {
    put("route", "day", "of lorries");
    put("plan", "route", "of a day");
    put("fleet", "lorry", "each on its route");
    put("route_plan", "x", "y");
    assertThat(find("route")).containsExactly("route", "route_plan", "plan", "fleet");
  }

  @Test
  void all_words_must_stand_somewhere_and_if_no_thing_has_all_any_counts() {
    put("milk_daily", "fat", "per farm");
    put("milk_hourly", "protein", "per tank");
    assertThat(find("milk fat")).containsExactly("milk_daily");
    assertThat(find("fat protein")).containsExactlyInAnyOrder("milk_daily", "milk_hourly");
    assertThat(find("cheese")).isEmpty();
  }

  @Test
  void parts_of_words_and_slips_are_found_and_whole_words_come_first() {
    put("quality", "a", "");
    put("equality_test", "b", "");
    assertThat(find("quality")).containsExactly("quality", "equality_test");
    assertThat(find("ualit")).containsExactlyInAnyOrder("quality", "equality_test");
    assertThat(find("qualtiy")).containsExactly("quality");
    assertThat(find("qality")).contains("quality");
    assertThat(find("xyz")).isEmpty();
    assertThat(find("qua")).isNotEmpty();
  }

  @Test
  void words_with_signs_are_found_as_they_are_written() {
    put("core.lab_reading", "fat_pct", "");
    put("core.lab", "reading", "");
    assertThat(find("lab_reading")).containsExactly("core.lab_reading");
    assertThat(find("core.lab")).containsExactlyInAnyOrder("core.lab", "core.lab_reading");
    assertThat(find("ab_read")).containsExactly("core.lab_reading");
    assertThat(find("lab_raeding")).contains("core.lab_reading"); // both words stand in the other
    assertThat(find("%_!")).isEmpty();
  }

  @Test
  void what_is_put_again_or_removed_is_found_by_its_new_words_only() {
    put("first", "alpha", "");
    put("second", "alpha", "");
    put("first", "beta", "");
    assertThat(find("alpha")).containsExactly("second");
    assertThat(find("beta")).containsExactly("first");
    index.remove("first");
    assertThat(find("beta")).isEmpty();
    assertThat(index.all()).containsExactly("second");
  }

  @Test
  void other_scripts_are_words_too() {
    put("молоко_дневное", "жир", "牛奶质量");
    assertThat(find("молоко")).hasSize(1);
    assertThat(find("奶质")).hasSize(1);
  }

  @RepeatedTest(20)
  void finds_what_a_plain_search_of_all_texts_finds(RepetitionInfo round) {
    var random = new Random(round.getCurrentRepetition());
    for (int step = 0; step < 120; step++) {
      String name = "t" + random.nextInt(30);
      if (random.nextInt(5) == 0) {
        index.remove(name);
        texts.remove(name);
      } else {
        put(name, word(random) + " " + word(random), word(random) + " " + word(random));
      }
    }
    for (int i = 0; i < 40; i++) {
      String asked = word(random);
      int from = random.nextInt(asked.length());
      String part = asked.substring(from, from + 1 + random.nextInt(asked.length() - from));
      var plain = new TreeSet<String>();
      texts.forEach(
          (name, all) -> {
            if (all.stream().anyMatch(text -> text.text().contains(part))) {
              plain.add(name);
            }
          });
      if (!plain.isEmpty() && part.chars().allMatch(Character::isLetterOrDigit)) {
        assertThat(new TreeSet<>(find(part))).as(part).isEqualTo(plain);
      }
    }
  }

  private static String word(Random random) {
    var word = new StringBuilder();
    for (int i = 0; i < 3 + random.nextInt(4); i++) {
      word.append("abcd_".charAt(random.nextInt(5)));
    }
    return word.toString();
  }

  @RepeatedTest(10)
  void slips_are_counted_as_by_the_whole_table(RepetitionInfo round) {
    var random = new Random(round.getCurrentRepetition());
    for (int i = 0; i < 400; i++) {
      String a = letters(random);
      String b = letters(random);
      int distance = whole(a, b);
      for (int most = 0; most < 4; most++) {
        assertThat(Slips.within(a, b, most))
            .as(a + " " + b + " " + most)
            .isEqualTo(distance <= most);
      }
    }
  }

  private static String letters(Random random) {
    var word = new StringBuilder();
    for (int i = 0; i < random.nextInt(9); i++) {
      word.append("abc".charAt(random.nextInt(3)));
    }
    return word.toString();
  }

  private static int whole(String a, String b) {
    int[][] d = new int[a.length() + 1][b.length() + 1];
    for (int i = 0; i <= a.length(); i++) {
      for (int j = 0; j <= b.length(); j++) {
        if (i == 0 || j == 0) {
          d[i][j] = i + j;
          continue;
        }
        int change = a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1;
        d[i][j] = Math.min(d[i - 1][j - 1] + change, Math.min(d[i - 1][j], d[i][j - 1]) + 1);
        if (i > 1
            && j > 1
            && a.charAt(i - 1) == b.charAt(j - 2)
            && a.charAt(i - 2) == b.charAt(j - 1)) {
          d[i][j] = Math.min(d[i][j], d[i - 2][j - 2] + 1);
        }
      }
    }
    return d[a.length()][b.length()];
  }
}
