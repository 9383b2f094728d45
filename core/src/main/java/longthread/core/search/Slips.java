package longthread.core.search;

/**
 * How many typing slips lie between two words: letters left out, added, changed, or two neighbours
 * exchanged (optimal string alignment).
 *
 * @see "Navarro, A guided tour to approximate string matching, ACM Computing Surveys 2001"
 */
final class Slips {
  private static final int SHORT = 4; // letters from which on one slip is granted
  private static final int LONG = 8; // letters from which on two are

  private Slips() {}

  /** How many slips a word of so many letters may have to be taken for another one. */
  static int granted(int length) {
    return length < SHORT ? 0 : length < LONG ? 1 : 2;
  }

  /** The letters of a word as bits: each slip changes at most two of them. */
  static long letters(String word) {
    long bits = 0;
    for (int i = 0; i < word.length(); i++) {
      bits |= 1L << (word.charAt(i) & 63);
    }
    return bits;
  }

  /** Whether at most so many slips lie between the words. Takes O(most · length). */
  static boolean within(String a, String b, int most) {
    int n = a.length();
    int m = b.length();
    if (Math.abs(n - m) > most) {
      return false;
    }
    int[] beforeLast = new int[m + 1];
    int[] last = new int[m + 1];
    int[] now = new int[m + 1];
    for (int j = 0; j <= m; j++) {
      last[j] = j;
    }
    for (int i = 1; i <= n; i++) {
      java.util.Arrays.fill(now, most + 1);
      int from = Math.max(1, i - most);
      int to = Math.min(m, i + most);
      if (from == 1) {
        now[0] = i;
      }
      int least = now[0];
      for (int j = from; j <= to; j++) {
        boolean same = a.charAt(i - 1) == b.charAt(j - 1);
        int cost = Math.min(last[j - 1] + (same ? 0 : 1), Math.min(now[j - 1], last[j]) + 1);
        if (i > 1
            && j > 1
            && a.charAt(i - 1) == b.charAt(j - 2)
            && a.charAt(i - 2) == b.charAt(j - 1)) {
          cost = Math.min(cost, beforeLast[j - 2] + 1);
        }
        now[j] = Math.min(cost, most + 1);
        least = Math.min(least, now[j]);
      }
      if (least > most) {
        return false;
      }
      int[] free = beforeLast;
      beforeLast = last;
      last = now;
      now = free;
    }
    return last[m] <= most;
  }
}
