package longthread.core.cause;

import longthread.core.cause.Causes.Incident;

/** What to look at, to be sure of a suspect or to be rid of it. */
final class Advice {
  private Advice() {}

  static String toConfirm(Incident incident) {
    String column = incident.column() == null ? "it" : incident.column();
    return switch (incident.what()) {
      case FAILED -> "The error of the failed run names what it could not do.";
      case MISSING -> "The scheduler shows no run at that time, or one that waits.";
      case LATE -> "The run is still open in its own tool and makes no progress.";
      case SLOW -> "The step that took long shows in the log of the run.";
      case EMPTY -> "Its source holds no rows of that time, or its filter lets none through.";
      case FEWER_ROWS -> "Counting by day or key in its source shows which rows are missing.";
      case MORE_ROWS -> "Counting by key shows rows that are there twice.";
      case VALUES_SHIFTED ->
          "The values of "
              + column
              + " before and after that time differ by about the same factor.";
      case SCHEMA_CHANGED -> "What reads it uses a column that was changed.";
      case CODE_CHANGED -> "Running the former version on the same input gives the former result.";
      case CHECK_FAILED -> "The rows that the check finds are in the data that is shown.";
    };
  }

  static String toRuleOut(Incident incident) {
    String column = incident.column() == null ? "its values" : incident.column();
    return switch (incident.what()) {
      case FAILED -> "A later run of the same job wrote the same data.";
      case MISSING -> "The job is no longer meant to run, or ran under another name.";
      case LATE -> "It is a stream, which never ends.";
      case SLOW -> "It was done before the next job needed it.";
      case EMPTY -> "There was nothing to load that day.";
      case FEWER_ROWS, MORE_ROWS -> "The source really holds as many for that time.";
      case VALUES_SHIFTED -> "The source of " + column + " confirms that the new values are right.";
      case SCHEMA_CHANGED -> "Nothing on the thread reads the changed column.";
      case CODE_CHANGED -> "The figures moved before the first run of the new version.";
      case CHECK_FAILED -> "The check itself was changed, or expects what no longer holds.";
    };
  }
}
