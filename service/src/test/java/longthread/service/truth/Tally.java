package longthread.service.truth;

import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import longthread.core.impact.Verdict;

/** How often verdicts came true, and what they missed. */
final class Tally {
  private static final class Count {
    int certain;
    int certainSeen;
    int possible;
    int possibleSeen;
    int seen;
    int foretold;
  }

  private final Map<Verdict, Count> counts = new EnumMap<>(Verdict.class);
  final List<String> missed = new ArrayList<>();
  final List<String> wrong = new ArrayList<>();
  int untouchedCertain;
  int untouchedPossible;
  int changes;

  Tally() {
    for (Verdict verdict : Verdict.values()) {
      counts.put(verdict, new Count());
    }
  }

  void claimed(Verdict verdict, boolean certain, boolean seen) {
    Count count = counts.get(verdict);
    if (certain) {
      count.certain++;
      count.certainSeen += seen ? 1 : 0;
    } else {
      count.possible++;
      count.possibleSeen += seen ? 1 : 0;
    }
  }

  void seen(Verdict verdict, boolean foretold) {
    Count count = counts.get(verdict);
    count.seen++;
    count.foretold += foretold ? 1 : 0;
  }

  @Override
  public String toString() {
    var text = new StringBuilder();
    text.append(
        "%d changes; untouched and so it was: %d certain, %d possible%n"
            .formatted(changes, untouchedCertain, untouchedPossible));
    text.append(
        "%-14s %10s %10s %10s %10s %10s%n"
            .formatted("verdict", "observed", "recall", "certain", "precision", "possible"));
    counts.forEach(
        (verdict, count) -> {
          if (verdict != Verdict.UNTOUCHED) {
            text.append(
                "%-14s %10d %10s %10d %10s %10d (%s seen)%n"
                    .formatted(
                        verdict.word(),
                        count.seen,
                        share(count.foretold, count.seen),
                        count.certain,
                        share(count.certainSeen, count.certain),
                        count.possible,
                        share(count.possibleSeen, count.possible)));
          }
        });
    return text.toString();
  }

  private static String share(int part, int all) {
    return all == 0 ? "-" : String.format(Locale.ROOT, "%.3f", part / (double) all);
  }
}
