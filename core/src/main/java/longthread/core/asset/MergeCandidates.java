package longthread.core.asset;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.BiPredicate;
import java.util.function.ToIntFunction;
import java.util.regex.Pattern;

/**
 * Proposes names that are probably one asset. Only a person joins them: a proposal is evidence in
 * sentences and a score made of it.
 *
 * <p>Candidates share the last part of their names. What speaks for them, each with its weight:
 * further parts in common (up to 0.30), columns in common (up to 0.40), one that is only written
 * and one that is only read (0.20), and a job that writes both or jobs of one name (0.10); the
 * shared last part itself counts 0.30. Two of which one feeds the other are two things, and two
 * whose known columns differ are, too.
 */
public final class MergeCandidates {
  /** What is proposed has at least this score. */
  public static final double THRESHOLD = 0.6;

  private static final int MAX_GROUP = 60; // of one last part; more is a common word, not a name
  private static final double LEAST_COLUMNS = 0.3;
  private static final Pattern SEPARATOR = Pattern.compile("[./\\\\:]+");

  /**
   * An asset as far as it counts here.
   *
   * @param columns as spelled; empty if nobody lists them
   * @param writers the last parts of the names of the jobs that write it
   */
  public record Candidate(
      DatasetName name, Collection<String> columns, boolean isRead, Collection<String> writers) {
    boolean isWritten() {
      return !writers.isEmpty();
    }
  }

  /** Two names that are probably one; the first is of the namespace of which more is known. */
  public record Proposal(DatasetName one, DatasetName other, double score, List<String> evidence) {}

  private MergeCandidates() {}

  /**
   * Returns proposals, the best first. Takes time linear in all names, and quadratic in those that
   * share their last part, of which groups of more than {@value #MAX_GROUP} are left out.
   *
   * @param feeds whether data flows from the first name to the second, over any number of hops;
   *     asked only of pairs that look like one
   */
  public static List<Proposal> among(
      Collection<Candidate> all, BiPredicate<DatasetName, DatasetName> feeds) {
    var byLast = new TreeMap<String, List<Candidate>>();
    var byNamespace = new HashMap<String, Integer>();
    all.forEach(candidate -> byNamespace.merge(candidate.name().namespace(), 1, Integer::sum));
    for (Candidate candidate : all) {
      List<String> parts = parts(candidate.name());
      byLast.computeIfAbsent(parts.get(parts.size() - 1), k -> new ArrayList<>()).add(candidate);
    }
    var proposals = new ArrayList<Proposal>();
    for (List<Candidate> group : byLast.values()) {
      if (group.size() > 1 && group.size() <= MAX_GROUP) {
        for (int i = 0; i < group.size(); i++) {
          for (int k = i + 1; k < group.size(); k++) {
            Proposal proposal =
                judge(group.get(i), group.get(k), c -> byNamespace.get(c.name().namespace()));
            if (proposal.score() >= THRESHOLD
                && !feeds.test(proposal.one(), proposal.other())
                && !feeds.test(proposal.other(), proposal.one())) {
              proposals.add(proposal);
            }
          }
        }
      }
    }
    proposals.sort(
        Comparator.comparing(Proposal::score)
            .reversed()
            .thenComparing(Proposal::one)
            .thenComparing(Proposal::other));
    return proposals;
  }

  /** The parts of a name in lower case, the database and folders first. */
  static List<String> parts(DatasetName name) {
    var parts = new ArrayList<String>();
    for (String part : SEPARATOR.split(name.name().toLowerCase(Locale.ROOT))) {
      if (!part.isBlank()) {
        parts.add(part.strip());
      }
    }
    return parts.isEmpty() ? List.of(name.name()) : parts;
  }

  /**
   * What speaks for two names that share the last part; a score of 0 if they cannot be one.
   *
   * @param known how many names the namespace of each has
   */
  static Proposal judge(Candidate a, Candidate b, ToIntFunction<Candidate> known) {
    Candidate one =
        Comparator.comparingInt(known)
                    .thenComparing(c -> c.columns().size())
                    .thenComparing(Candidate::isWritten)
                    .compare(a, b)
                >= 0
            ? a
            : b;
    Candidate other = one == a ? b : a;
    Candidate written = a.isWritten() ? a : b;
    Candidate read = written == a ? b : a;
    var evidence = new ArrayList<String>();
    double score = 0.3;
    List<String> first = parts(one.name());
    List<String> second = parts(other.name());
    int common = 0;
    while (common < first.size()
        && common < second.size()
        && first.get(first.size() - 1 - common).equals(second.get(second.size() - 1 - common))) {
      common++;
    }
    List<String> shared = first.subList(first.size() - common, first.size());
    score += Math.min(0.3, 0.15 * (common - 1));
    evidence.add("Both names end in " + String.join(".", shared) + ".");
    double overlap = overlap(one.columns(), other.columns(), evidence);
    if (overlap < LEAST_COLUMNS && !one.columns().isEmpty() && !other.columns().isEmpty()) {
      return new Proposal(one.name(), other.name(), 0, List.of("their columns differ"));
    }
    score += 0.4 * overlap;
    if (written.isWritten() && !written.isRead() && read.isRead() && !read.isWritten()) {
      score += 0.2;
      evidence.add(
          written.name().reference()
              + " is written and never read, "
              + read.name().reference()
              + " is read and never written.");
    }
    var writers = new TreeSet<>(one.writers());
    writers.retainAll(other.writers());
    if (!writers.isEmpty()) {
      score += 0.1;
      evidence.add("Both are written by a job named " + writers.first() + ".");
    }
    return new Proposal(
        one.name(), other.name(), Math.min(1, Math.round(score * 100) / 100.0), evidence);
  }

  private static double overlap(
      Collection<String> one, Collection<String> other, List<String> evidence) {
    Set<String> first = lower(one);
    Set<String> second = lower(other);
    if (first.isEmpty() || second.isEmpty()) {
      return 0;
    }
    var both = new HashSet<>(first);
    both.retainAll(second);
    // A reader often lists only what it asks for, so the smaller of the two is what counts.
    int smaller = Math.min(first.size(), second.size());
    evidence.add(both.size() + " of " + smaller + " columns have the same names.");
    double share = (double) both.size() / smaller;
    return smaller == 1 ? share / 2 : share;
  }

  private static Set<String> lower(Collection<String> texts) {
    var lower = new HashSet<String>();
    texts.forEach(text -> lower.add(text.toLowerCase(Locale.ROOT)));
    return lower;
  }

  /**
   * The rule by which the second name of a proposal becomes the first, for all names that differ in
   * the same way; empty text if the names do not share a whole ending.
   */
  public static String rule(DatasetName one, DatasetName other) {
    String target = one.reference();
    String source = other.reference();
    int common = 0;
    while (common < target.length()
        && common < source.length()
        && target.charAt(target.length() - 1 - common)
            == source.charAt(source.length() - 1 - common)) {
      common++;
    }
    // The ending begins behind a separator, so that no name is cut in its middle.
    String ending = target.substring(target.length() - common);
    int cut = -1;
    for (int i = 0; i < ending.length(); i++) {
      boolean starts =
          (common == source.length() || isSeparator(source.charAt(source.length() - common - 1)))
              && i == 0;
      if (starts || (i > 0 && isSeparator(ending.charAt(i - 1)))) {
        cut = i;
        break;
      }
    }
    if (cut < 0 || cut >= ending.length()) {
      return "";
    }
    // Of a name with several parts the schema stays fixed, and what stands behind it may be any.
    String kept = ending.substring(cut);
    int schema = kept.indexOf('.');
    String fixed = schema > 0 ? kept.substring(0, schema + 1) : "";
    String before = source.substring(0, source.length() - kept.length());
    String after = target.substring(0, target.length() - kept.length());
    return "^" + quoted(before + fixed) + "(.+)$ => " + after + fixed + "$1";
  }

  private static boolean isSeparator(char c) {
    return c == '.' || c == '/';
  }

  private static String quoted(String text) {
    var quoted = new StringBuilder();
    for (char c : text.toCharArray()) {
      if ("\\.[]{}()*+-?^$|".indexOf(c) >= 0) {
        quoted.append('\\');
      }
      quoted.append(c);
    }
    return quoted.toString();
  }

  /** How often each rule would have made one of some proposals. */
  public static Map<String, Integer> rules(Collection<Proposal> proposals) {
    var rules = new HashMap<String, Integer>();
    for (Proposal proposal : proposals) {
      String rule = rule(proposal.one(), proposal.other());
      if (!rule.isEmpty()) {
        rules.merge(rule, 1, Integer::sum);
      }
    }
    return rules;
  }
}
