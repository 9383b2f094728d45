package longthread.core.gate;

import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import longthread.core.history.Fingerprint;
import longthread.core.sql.Span;
import longthread.core.sql.SqlStatement;

/** What two versions of a statement that writes a table do differently. */
final class StatementComparison {
  private static final int SHOWN_WORDS = 8;

  private final List<FoundChange> changes;
  private final Set<String> notes;

  /**
   * @param changes where what is found is added
   * @param notes where is said what could not be read closely
   */
  StatementComparison(List<FoundChange> changes, Set<String> notes) {
    this.changes = changes;
    this.notes = notes;
  }

  /** A statement that is there no more. */
  void gone(Written old, boolean nothingLeft) {
    if (nothingLeft && old.creates()) {
      changes.add(
          new FoundChange(
              "drop",
              old.targetName(),
              null,
              null,
              old.file(),
              old.line(),
              old.targetName() + " is gone"));
    } else {
      changes.add(
          new FoundChange(
              nothingLeft ? "delay" : "rows",
              old.targetName(),
              null,
              null,
              old.file(),
              old.line(),
              nothingLeft
                  ? "nothing writes " + old.targetName() + " any more"
                  : "one statement fewer writes " + old.targetName()));
    }
  }

  /** Two versions of one statement. */
  void compare(Written old, Written now) {
    if (Fingerprint.of(old.own()).equals(Fingerprint.of(now.own()))) {
      return;
    }
    boolean understood = old.statement().complete() && now.statement().complete();
    Map<String, String> before = expressions(old);
    Map<String, String> after = expressions(now);
    if (!understood && (before.isEmpty() || after.isEmpty())) {
      String why = now.targetName() + " is written by text that changed and was not understood";
      notes.add(now.file() + ":" + now.line() + ": " + why + ", so all of it counts as changed");
      for (String change : List.of("values", "rows")) {
        changes.add(
            new FoundChange(change, now.targetName(), null, null, now.file(), now.line(), why));
      }
      return;
    }
    if (!understood) {
      notes.add(
          now.file()
              + ":"
              + now.line()
              + ": not all of the statement that writes "
              + now.targetName()
              + " was understood");
    }
    compareItems(old, now, before, after);
    if (!rest(old, before, after).equals(rest(now, before, after))) {
      changes.add(
          new FoundChange(
              "rows",
              now.targetName(),
              null,
              null,
              now.file(),
              now.line(),
              "which rows "
                  + now.targetName()
                  + " gets is decided otherwise: "
                  + difference(old, now)));
    }
  }

  private void compareItems(
      Written old, Written now, Map<String, String> before, Map<String, String> after) {
    List<String> then = List.copyOf(before.keySet());
    List<String> fresh = List.copyOf(after.keySet());
    var renamed = new HashSet<String>();
    for (int i = 0; i < fresh.size(); i++) {
      String name = fresh.get(i);
      String expression = Objects.requireNonNull(after.get(name));
      if (before.containsKey(name)) {
        if (!expression.equals(before.get(name))) {
          changes.add(
              new FoundChange(
                  "values",
                  now.targetName(),
                  name,
                  null,
                  now.file(),
                  lineOf(now, name),
                  name + " of " + now.targetName() + " is computed otherwise"));
        }
        continue;
      }
      String place = i < then.size() ? then.get(i) : null;
      boolean sameItem =
          place != null && !after.containsKey(place) && expression.equals(before.get(place));
      if (sameItem && old.creates()) {
        renamed.add(place);
        changes.add(
            new FoundChange(
                "rename",
                now.targetName(),
                place,
                name,
                now.file(),
                lineOf(now, name),
                "column " + place + " of " + now.targetName() + " becomes " + name));
      }
    }
    for (String name : then) {
      if (!after.containsKey(name) && !renamed.contains(name)) {
        String why =
            old.creates()
                ? "column " + name + " of " + now.targetName() + " is gone"
                : name + " of " + now.targetName() + " is no longer filled";
        changes.add(
            new FoundChange(
                old.creates() ? "drop" : "values",
                now.targetName(),
                name,
                null,
                now.file(),
                now.line(),
                why));
      }
    }
  }

  private static int lineOf(Written written, String column) {
    return written.statement().outputs().stream()
        .filter(output -> output.name().equalsIgnoreCase(column))
        .flatMap(output -> output.spans().stream())
        .map(span -> Written.lineAt(written.text(), span.span().start()))
        .max(Integer::compare)
        .orElse(written.line());
  }

  /** The text that computes each column, over all steps, without comments and spacing. */
  private static Map<String, String> expressions(Written written) {
    var expressions = new LinkedHashMap<String, String>();
    for (SqlStatement.Output output : written.statement().outputs()) {
      String text =
          output.spans().stream()
              .map(span -> place(span, output) + "=" + span.span().of(written.text()))
              .sorted()
              .map(Fingerprint::of)
              .collect(Collectors.joining(" "));
      String constants =
          output.constants().stream()
              .map(constant -> Fingerprint.withoutVolatile(constant.text()))
              .sorted()
              .collect(Collectors.joining(" "));
      expressions.put(Written.key(output.name()), text + " " + constants);
    }
    return expressions;
  }

  /** The step and column that a stretch of text is of; the column itself has no name here. */
  private static String place(SqlStatement.StepSpan span, SqlStatement.Output output) {
    boolean own = span.column().equalsIgnoreCase(output.name());
    return span.step() + "." + (own ? "" : span.column());
  }

  /** A statement without the expressions of its columns and without the list of its target's. */
  private static String rest(
      Written written, Map<String, String> before, Map<String, String> after) {
    var covered = new TreeSet<Span>();
    written.statement().outputs().forEach(o -> o.spans().forEach(s -> covered.add(s.span())));
    var left = new StringBuilder();
    int at = written.statement().span().start();
    for (Span span : covered) {
      if (span.start() >= at) {
        left.append(written.text(), at, span.start()).append(' ');
        at = span.end();
      } else {
        at = Math.max(at, span.end());
      }
    }
    int end = Math.min(written.statement().span().end(), written.text().length());
    left.append(written.text(), Math.min(at, end), end);
    String plain = Fingerprint.plain(left.toString());
    if (!written.creates()) {
      plain = plain.replaceFirst("^(insert\\s+into\\s+\\S+)\\s*\\([^()]*\\)", "$1 ");
    } else {
      plain = plain.replaceFirst("^create\\s+or\\s+replace\\s+", "create ");
    }
    var names = new HashSet<>(before.keySet());
    names.addAll(after.keySet());
    for (String name : names) {
      plain = plain.replaceAll("\\bas\\s+\"?" + Pattern.quote(name) + "\"?", " ");
    }
    return plain.replace(",", " ").replaceAll("\\s+", " ").strip();
  }

  /** The first words in which two statements differ outside of their columns. */
  private static String difference(Written old, Written now) {
    var columns = new HashMap<String, String>();
    String[] before = rest(old, columns, columns).split(" ");
    String[] after = rest(now, columns, columns).split(" ");
    int same = 0;
    while (same < before.length && same < after.length && before[same].equals(after[same])) {
      same++;
    }
    return "«" + words(before, same) + "» became «" + words(after, same) + "»";
  }

  private static String words(String[] words, int from) {
    int end = Math.min(words.length, from + SHOWN_WORDS);
    String shown = String.join(" ", Arrays.copyOfRange(words, Math.min(from, end), end));
    return shown.isEmpty() ? "the end" : shown + (end < words.length ? " …" : "");
  }
}
