package longthread.core.cause;

import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import longthread.core.cause.Causes.What;

/** What somebody sees; it decides which deviations can be behind it. */
public enum Symptom {
  /** Nothing is said: any deviation counts that is not only a change. */
  ANY,
  LATE,
  WRONG_VALUES,
  MISSING_ROWS,
  FAILED_CHECK;

  public String word() {
    return name().toLowerCase(Locale.ROOT).replace('_', '-');
  }

  /** The words there are. */
  public static List<String> words() {
    return Arrays.stream(values()).map(Symptom::word).toList();
  }

  public static Optional<Symptom> of(String word) {
    return Arrays.stream(values()).filter(symptom -> symptom.word().equals(word)).findFirst();
  }

  /**
   * How well a deviation of a sort explains this symptom, from 0 (it cannot) to 1. A value that
   * changed cannot hold up a load; a load that did not come leaves old values, not wrong ones.
   */
  double fit(What what) {
    return switch (this) {
      case ANY ->
          switch (what) {
            case FAILED, MISSING, EMPTY, VALUES_SHIFTED -> 1;
            case FEWER_ROWS, MORE_ROWS, CODE_CHANGED, SCHEMA_CHANGED -> 0.9;
            case LATE -> 0.8;
            case SLOW -> 0.6;
            case CHECK_FAILED -> 0.5;
          };
      case LATE ->
          switch (what) {
            case FAILED, MISSING, LATE -> 1;
            case SLOW -> 0.9;
            case SCHEMA_CHANGED, CODE_CHANGED, CHECK_FAILED, EMPTY -> 0.3;
            case FEWER_ROWS, MORE_ROWS, VALUES_SHIFTED -> 0;
          };
      case WRONG_VALUES ->
          switch (what) {
            case VALUES_SHIFTED -> 1;
            case MORE_ROWS -> 0.9;
            case CODE_CHANGED -> 0.8;
            case FEWER_ROWS, SCHEMA_CHANGED -> 0.7;
            case EMPTY, CHECK_FAILED -> 0.5;
            case FAILED, MISSING -> 0.3;
            case LATE -> 0.1;
            case SLOW -> 0;
          };
      case MISSING_ROWS ->
          switch (what) {
            case EMPTY, FEWER_ROWS -> 1;
            case FAILED, MISSING -> 0.9;
            case CODE_CHANGED -> 0.8;
            case LATE -> 0.6;
            case SCHEMA_CHANGED, CHECK_FAILED -> 0.4;
            case VALUES_SHIFTED -> 0.2; // it may pass a filter no more
            case MORE_ROWS, SLOW -> 0;
          };
      case FAILED_CHECK ->
          switch (what) {
            case VALUES_SHIFTED, EMPTY, FEWER_ROWS, MORE_ROWS -> 0.9;
            case CODE_CHANGED, SCHEMA_CHANGED -> 0.8;
            case FAILED, MISSING -> 0.7;
            case CHECK_FAILED -> 0.5;
            case LATE -> 0.3;
            case SLOW -> 0.1;
          };
    };
  }
}
