package longthread.reader;

import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * The labels in a comment: {@code Account of the farm [labels: personal, bank]}. A security label
 * of the provider {@code longthread} is the list alone.
 *
 * @param text the comment without its labels; null if nothing is left
 */
record Labels(@Nullable String text, List<String> labels) {
  private static final Pattern IN_COMMENT =
      Pattern.compile("\\s*\\[labels?:([^\\]]*)]\\s*", Pattern.CASE_INSENSITIVE);

  static Labels of(@Nullable String comment) {
    if (comment == null) {
      return new Labels(null, List.of());
    }
    var labels = new ArrayList<String>();
    Matcher found = IN_COMMENT.matcher(comment);
    while (found.find()) {
      labels.addAll(list(found.group(1)));
    }
    String text = found.replaceAll(" ").strip();
    return new Labels(text.isEmpty() ? null : text, labels);
  }

  /** The labels of a list that commas part. */
  static List<String> list(String text) {
    var labels = new ArrayList<String>();
    for (String label : text.split(",")) {
      if (!label.isBlank()) {
        labels.add(label.strip());
      }
    }
    return labels;
  }
}
