package longthread.core.cause;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import longthread.core.cause.Causes.Incident;
import longthread.core.cause.Causes.What;
import longthread.core.trust.Usual;
import org.jspecify.annotations.Nullable;

/** What is unusual about the content, the schema and the checks of one dataset. */
final class DataDeviations {
  private static final double FAR = 8; // robust standard deviations
  private static final double MIN_SHARE = 0.15;
  private static final double MIN_NULL_SHARE = 0.05;
  private static final String NULL_SHARE = "null share";

  private final String dataset;
  private final Health health;
  private final Instant windowStart;

  DataDeviations(String dataset, Health health, Instant windowStart) {
    this.dataset = dataset;
    this.health = health;
    this.windowStart = windowStart;
  }

  /**
   * Everything unusual.
   *
   * @param takenAt until when its content can be in the symptom
   * @param now until when its schema can have stopped a load of the symptom
   */
  List<Finding> all(Instant takenAt, Instant now) {
    var findings = new ArrayList<Finding>();
    for (List<Health.CheckResult> results : health.checks(dataset)) {
      failedCheck(results).ifPresent(findings::add);
    }
    shiftedColumns(takenAt).forEach(findings::add);
    for (Health.Change change : health.schemaChanges(dataset)) {
      if (change.at().isAfter(windowStart) && !change.at().isAfter(now)) {
        findings.add(
            new Finding(
                new Incident(dataset, What.SCHEMA_CHANGED, null, change.at(), change.words(), null),
                1,
                1,
                change.harmless()));
      }
    }
    return findings;
  }

  private Optional<Finding> failedCheck(List<Health.CheckResult> results) {
    if (results.isEmpty() || results.get(0).passed()) {
      return Optional.empty();
    }
    Health.CheckResult last = results.get(0);
    Health.CheckResult first = last;
    int streak = 0;
    while (streak < results.size() && !results.get(streak).passed()) {
      first = results.get(streak++);
    }
    List<Health.CheckResult> before = results.subList(streak, results.size());
    long failed = before.stream().filter(result -> !result.passed()).count();
    String column = last.column() == null ? "" : " on " + last.column();
    return Optional.of(
        new Finding(
            new Incident(
                dataset,
                What.CHECK_FAILED,
                last.column(),
                first.at(),
                "check " + last.check() + column + " fails",
                last.detail()),
            1,
            RunDeviations.rarity(failed, before.size())));
  }

  /** One finding for each column: of its figures that shifted, the one that moved the most. */
  private List<Finding> shiftedColumns(Instant takenAt) {
    Map<String, Finding> byColumn = new LinkedHashMap<>();
    Map<String, Double> moved = new LinkedHashMap<>();
    for (Health.Series series : health.series(dataset)) {
      List<Usual.Sample> taken = upTo(series.newestFirst(), takenAt);
      Shift shift = shift(series, taken, windowStart);
      if (shift != null) {
        double distance = shift.usual().distance(taken.get(shift.newest()).value());
        if (distance > moved.getOrDefault(series.column(), 0.0)) {
          moved.put(series.column(), distance);
          byColumn.put(series.column(), finding(series, taken, shift));
        }
      }
    }
    return List.copyOf(byColumn.values());
  }

  /** Where a figure of a column leaves what is usual for it since a moment; null if it does not. */
  static @Nullable Shift shift(
      Health.Series series, List<Usual.Sample> newestFirst, Instant windowStart) {
    double least = series.figure().equals(NULL_SHARE) ? MIN_NULL_SHARE : 0;
    return Shift.of(newestFirst, windowStart, FAR, MIN_SHARE, least);
  }

  private static List<Usual.Sample> upTo(List<Usual.Sample> newestFirst, Instant takenAt) {
    int first = 0;
    while (first < newestFirst.size() && newestFirst.get(first).at().isAfter(takenAt)) {
      first++;
    }
    return newestFirst.subList(first, newestFirst.size());
  }

  private Finding finding(Health.Series series, List<Usual.Sample> taken, Shift shift) {
    String evidence = words(series, taken.get(shift.newest()).value(), shift.usual().expected());
    return new Finding(
        new Incident(
            dataset,
            What.VALUES_SHIFTED,
            series.column(),
            taken.get(shift.first()).at(),
            evidence,
            null),
        shift.newest() == 0 ? 1 : Finding.OVER,
        shift.rarity());
  }

  /** What a figure is and was, in words. */
  static String words(Health.Series series, double value, double usual) {
    String factor =
        usual == 0 || value / usual <= 0
            ? ""
            : value > usual
                ? ", " + Words.number(value / usual) + " times as much"
                : ", " + Words.number(usual / value) + " times less";
    return "the %s of %s is %s; it was %s before%s"
        .formatted(
            series.figure(), series.column(), Words.number(value), Words.number(usual), factor);
  }
}
