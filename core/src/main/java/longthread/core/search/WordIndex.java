package longthread.core.search;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.IntConsumer;
import java.util.function.Predicate;
import java.util.function.ToDoubleBiFunction;
import java.util.function.ToDoubleFunction;
import java.util.function.ToIntFunction;
import org.jspecify.annotations.Nullable;

/**
 * Which things have which words, held in memory: runs of letters and digits in small letters, with
 * the place they stand in. One thread may change it, any number may search meanwhile.
 *
 * <p>A search looks at the list of all different words once, which finds parts of words and typing
 * slips too, and then only at the things that have them: O(v + m) for v different words and m
 * mentions of those that match. A mention takes four bytes for each different word of a thing,
 * twice.
 *
 * @param <T> what is found
 */
public final class WordIndex<T> {
  /** What a word counts that was found by likeness only, at most. */
  private static final int BY_LIKENESS = 20;

  private static final Place[] PLACES = Place.values();
  private static final int CLASS_BITS = 4;
  private static final int CLASSES = 1 << CLASS_BITS;
  private static final int MOST_CHECKED = 10_000; // things that are looked at one by one
  private static final int MOST_WORD = 200; // characters of a word that count

  /** A text and where it stands. */
  public record Text(Place place, String text) {}

  /** The things that have a word; what lies behind the size is not in use. */
  private static final class Mentions {
    private volatile int[] items = new int[2]; // thing << CLASS_BITS | class
    private volatile int size;

    void add(int item) {
      int[] now = items;
      if (size == now.length) {
        now = Arrays.copyOf(now, size * 2);
        now[size] = item;
        items = now;
      } else {
        now[size] = item;
      }
      size = size + 1;
    }

    /** Hands over the items as they stand; another thread may add or remove some meanwhile. */
    void forEach(IntConsumer visit) {
      int count = size;
      int[] now = items;
      for (int i = 0; i < Math.min(count, now.length); i++) {
        visit.accept(now[i]);
      }
    }

    void remove(int item) {
      int at = 0;
      while (items[at] != item) {
        at++;
      }
      int[] kept = new int[Math.max(2, size - 1)];
      System.arraycopy(items, 0, kept, 0, at);
      System.arraycopy(items, at + 1, kept, at, size - at - 1);
      items = kept;
      size = size - 1;
    }
  }

  /** The arrays as they stand; those who search use one state throughout. */
  private record State(
      String[] words,
      long[] letters,
      Mentions[] mentions,
      int wordCount,
      Object[] things,
      int count) {}

  private final Map<String, Integer> numbers = new HashMap<>(); // of words
  private final Map<String, Integer> places = new HashMap<>(); // of things, by key
  private final ArrayList<int[]> mentionedBy = new ArrayList<>(); // word << CLASS_BITS | class
  private volatile State state =
      new State(new String[1024], new long[1024], new Mentions[1024], 0, new Object[1024], 0);
  private volatile int version;

  /** A number that grows with every change. */
  public int version() {
    return version;
  }

  /** How many different words there are. */
  public int wordCount() {
    return state.wordCount();
  }

  /**
   * Adds a thing or puts it in the place of what had the same key. Linear in its text, and in the
   * mentions of those words that it has no more.
   */
  public void put(String key, T thing, List<Text> texts) {
    var found = new HashMap<String, Integer>(); // word → bits of classes
    for (Text text : texts) {
      List<String> pieces = pieces(text.text());
      for (String piece : pieces) {
        int one = text.place().ordinal() * 2 + (pieces.size() == 1 ? 1 : 0);
        found.merge(piece, 1 << one, (a, b) -> a | b);
      }
    }
    State now = state;
    for (String word : found.keySet()) {
      now = withWord(now, word);
    }
    Integer known = places.get(key);
    int number = known == null ? mentionedBy.size() : known;
    if (known == null) {
      mentionedBy.add(new int[0]);
      places.put(key, number);
      now = withRoom(now, number);
    }
    now.things()[number] = thing;
    mention(now, number, sorted(found));
    publish(now);
  }

  private int[] sorted(Map<String, Integer> found) {
    int[] mentioned = new int[found.values().stream().mapToInt(Integer::bitCount).sum()];
    int at = 0;
    for (Map.Entry<String, Integer> word : found.entrySet()) {
      for (int one = 0; one < CLASSES; one++) {
        if ((word.getValue() & 1 << one) != 0) {
          mentioned[at++] = numbers.get(word.getKey()) << CLASS_BITS | one;
        }
      }
    }
    Arrays.sort(mentioned);
    return mentioned;
  }

  /** Writes only what differs: most words of a thing stay, and some are mentioned everywhere. */
  private void mention(State now, int thing, int[] wanted) {
    int[] before = mentionedBy.get(thing);
    int i = 0;
    int j = 0;
    while (i < before.length || j < wanted.length) {
      if (j == wanted.length || (i < before.length && before[i] < wanted[j])) {
        now.mentions()[before[i] >>> CLASS_BITS].remove(item(thing, before[i++]));
      } else if (i == before.length || wanted[j] < before[i]) {
        now.mentions()[wanted[j] >>> CLASS_BITS].add(item(thing, wanted[j++]));
      } else {
        i++;
        j++;
      }
    }
    mentionedBy.set(thing, wanted);
  }

  private static int item(int thing, int mentioned) {
    return thing << CLASS_BITS | (mentioned & CLASSES - 1);
  }

  private void publish(State now) {
    state =
        new State(
            now.words(),
            now.letters(),
            now.mentions(),
            numbers.size(),
            now.things(),
            mentionedBy.size());
    version++;
  }

  /** Takes a thing away; its words stay known. */
  public void remove(String key) {
    Integer number = places.remove(key);
    if (number != null) {
      state.things()[number] = null;
      mention(state, number, new int[0]);
      publish(state);
    }
  }

  private State withWord(State now, String word) {
    if (numbers.containsKey(word)) {
      return now;
    }
    int number = numbers.size();
    State roomy = now;
    if (number == now.words().length) {
      roomy =
          new State(
              Arrays.copyOf(now.words(), number * 2),
              Arrays.copyOf(now.letters(), number * 2),
              Arrays.copyOf(now.mentions(), number * 2),
              now.wordCount(),
              now.things(),
              now.count());
    }
    numbers.put(word, number);
    roomy.words()[number] = word;
    roomy.letters()[number] = Slips.letters(word);
    roomy.mentions()[number] = new Mentions();
    return roomy;
  }

  private static State withRoom(State now, int number) {
    return number < now.things().length
        ? now
        : new State(
            now.words(),
            now.letters(),
            now.mentions(),
            now.wordCount(),
            Arrays.copyOf(now.things(), number * 2),
            now.count());
  }

  /** The runs of letters and digits of a text, in small letters. */
  public static List<String> pieces(String text) {
    var pieces = new ArrayList<String>();
    String lower = text.toLowerCase(Locale.ROOT);
    int start = -1;
    for (int i = 0; i <= lower.length(); ) {
      int c = i < lower.length() ? lower.codePointAt(i) : -1;
      boolean inside = c >= 0 && (Character.isLetterOrDigit(c) || isMark(c));
      if (inside && start < 0) {
        start = i;
      } else if (!inside && start >= 0) {
        pieces.add(lower.substring(start, Math.min(i, start + MOST_WORD)));
        start = -1;
      }
      i += c < 0 ? 1 : Character.charCount(c);
    }
    return pieces;
  }

  /** Accents and vowel signs that stand by themselves belong to the word they stand in. */
  private static boolean isMark(int c) {
    int type = Character.getType(c);
    return type == Character.NON_SPACING_MARK || type == Character.COMBINING_SPACING_MARK;
  }

  /** The things that were found, each with its score. */
  private static final class Scores {
    private final byte[] of;
    private int[] things = new int[64];
    private int count;

    Scores(int size) {
      of = new byte[size];
    }

    void note(int thing, int score) {
      if (thing >= of.length || score <= of[thing]) {
        return;
      }
      if (of[thing] == 0) {
        if (count == things.length) {
          things = Arrays.copyOf(things, count * 2);
        }
        things[count++] = thing;
      }
      of[thing] = (byte) score;
    }
  }

  /** A thing that was found; {@code score} is from 0 to 1. */
  public record Hit<T>(T thing, double score) {}

  /**
   * All things, in the order they came.
   *
   * @return a new list
   */
  @SuppressWarnings("unchecked") // things are only put in as T
  public List<T> all() {
    State now = state;
    var all = new ArrayList<T>(now.count());
    for (int i = 0; i < now.count(); i++) {
      Object thing = now.things()[i];
      if (thing != null) {
        all.add((T) thing);
      }
    }
    return all;
  }

  /**
   * The things that have all of the words, or if none has, any of them; the best first, of equal
   * ones those with the greater weight.
   *
   * @param words in small letters, without blanks; they may have signs in them, such as a dot
   * @param check how well a word with signs stands in a thing, from 0 to 1; 0 if it does not
   * @param factor what a thing's score is multiplied by, from 0 to 1
   * @param weight of what is equally good otherwise
   */
  public List<Hit<T>> find(
      List<String> words,
      ToDoubleBiFunction<T, String> check,
      ToDoubleFunction<T> factor,
      ToIntFunction<T> weight) {
    State now = state;
    var each = new ArrayList<Scores>();
    for (String word : words) {
      each.add(word(now, word, check));
    }
    if (each.isEmpty()) {
      return List.of();
    }
    List<Hit<T>> found = together(now, each, true, factor, weight);
    return found.isEmpty() && words.size() > 1 ? together(now, each, false, factor, weight) : found;
  }

  @SuppressWarnings("unchecked") // things are only put in as T
  private List<Hit<T>> together(
      State now,
      List<Scores> each,
      boolean all,
      ToDoubleFunction<T> factor,
      ToIntFunction<T> weight) {
    var candidates = new Scores(now.count());
    if (all) {
      Scores fewest = each.stream().min((a, b) -> Integer.compare(a.count, b.count)).orElseThrow();
      for (int i = 0; i < fewest.count; i++) {
        int thing = fewest.things[i];
        if (each.stream().allMatch(s -> s.of[thing] > 0)) {
          candidates.note(thing, 1);
        }
      }
    } else {
      each.forEach(
          scores -> {
            for (int i = 0; i < scores.count; i++) {
              candidates.note(scores.things[i], 1);
            }
          });
    }
    long[] order = new long[candidates.count];
    int count = 0;
    for (int i = 0; i < candidates.count; i++) {
      int number = candidates.things[i];
      T thing = (T) now.things()[number];
      if (thing == null) {
        continue;
      }
      int total = 0;
      for (Scores scores : each) {
        total += scores.of[number];
      }
      long score = Math.round(total * 1000.0 / each.size() * factor.applyAsDouble(thing));
      // Descending: the greater score first, then the greater weight, then the older thing.
      order[count++] =
          (~score & 0x3FFFFL) << 45
              | (~(long) Math.min(weight.applyAsInt(thing), (1 << 18) - 1) & 0x3FFFFL) << 27
              | number;
    }
    Arrays.sort(order, 0, count);
    var hits = new ArrayList<Hit<T>>(count);
    for (int i = 0; i < count; i++) {
      T thing = (T) now.things()[(int) (order[i] & (1 << 27) - 1)];
      if (thing != null) {
        hits.add(new Hit<>(thing, (~(order[i] >>> 45) & 0x3FFFFL) / 100_000.0));
      }
    }
    return hits;
  }

  private Scores word(State now, String word, ToDoubleBiFunction<T, String> check) {
    var scores = new Scores(now.count());
    List<String> pieces = pieces(word);
    if (pieces.size() == 1 && pieces.get(0).equals(word)) {
      for (int i = 0; i < now.wordCount(); i++) {
        String known = now.words()[i];
        int at = known.indexOf(word);
        if (at >= 0) {
          note(
              now.mentions()[i], scores, known.length() == word.length() ? 100 : at == 0 ? 90 : 75);
        }
      }
    } else if (!pieces.isEmpty()) {
      compound(now, word, pieces, scores, check);
    }
    if (scores.count == 0 && !pieces.isEmpty()) {
      alike(now, pieces, scores);
    }
    return scores;
  }

  /** Notes the things of a word; {@code quality} is how much of the word was asked for. */
  private static void note(Mentions mentions, Scores scores, int quality) {
    mentions.forEach(
        item -> {
          boolean whole = (item & 1) == 1 && quality == 100;
          int worth = whole ? place(item).whole() : place(item).part() * quality / 100;
          scores.note(item >>> CLASS_BITS, worth);
        });
  }

  private static Place place(int item) {
    return PLACES[(item & CLASSES - 1) / 2];
  }

  /** Things that have the pieces of a word with signs in it are looked at one by one. */
  @SuppressWarnings("unchecked") // things are only put in as T
  private void compound(
      State now,
      String word,
      List<String> pieces,
      Scores scores,
      ToDoubleBiFunction<T, String> check) {
    BitSet candidates = null;
    for (int p = 0; p < pieces.size(); p++) {
      String piece = pieces.get(p);
      boolean opens = p > 0 || !word.startsWith(piece); // a sign stands before it
      boolean closes = p < pieces.size() - 1 || !word.endsWith(piece);
      candidates =
          and(
              candidates,
              having(
                  now,
                  known ->
                      opens && closes
                          ? known.equals(piece)
                          : opens
                              ? known.startsWith(piece)
                              : closes ? known.endsWith(piece) : known.contains(piece)));
    }
    int checked = 0;
    for (int thing = candidates == null ? -1 : candidates.nextSetBit(0);
        thing >= 0 && checked < MOST_CHECKED;
        thing = candidates.nextSetBit(thing + 1)) {
      T one = (T) now.things()[thing];
      if (one != null) {
        scores.note(thing, (int) Math.round(100 * check.applyAsDouble(one, word)));
        checked++;
      }
    }
  }

  private static BitSet and(@Nullable BitSet all, BitSet more) {
    if (all != null) {
      more.and(all);
    }
    return more;
  }

  private static BitSet having(State now, Predicate<String> wanted) {
    var things = new BitSet(now.count());
    for (int i = 0; i < now.wordCount(); i++) {
      if (wanted.test(now.words()[i])) {
        now.mentions()[i].forEach(item -> things.set(item >>> CLASS_BITS));
      }
    }
    return things;
  }

  /** Things with words that differ from what was typed by a slip or two. */
  private static void alike(State now, List<String> pieces, Scores scores) {
    BitSet things = null;
    Scores best = new Scores(now.count());
    for (String piece : pieces) {
      int slips = Slips.granted(piece.length());
      long letters = Slips.letters(piece);
      var some = new BitSet(now.count());
      for (int i = 0; i < now.wordCount(); i++) {
        String known = now.words()[i];
        boolean near =
            known.contains(piece)
                || (slips > 0
                    && Math.abs(known.length() - piece.length()) <= slips
                    && Long.bitCount(letters ^ now.letters()[i]) <= 2 * slips
                    && Slips.within(piece, known, slips));
        if (near) {
          now.mentions()[i].forEach(
              item -> {
                some.set(item >>> CLASS_BITS);
                best.note(item >>> CLASS_BITS, place(item).whole() * BY_LIKENESS / 100);
              });
        }
      }
      things = and(things, some);
    }
    for (int thing = things == null ? -1 : things.nextSetBit(0);
        thing >= 0;
        thing = things.nextSetBit(thing + 1)) {
      scores.note(thing, best.of[thing]);
    }
  }
}
