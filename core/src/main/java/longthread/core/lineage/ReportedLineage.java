package longthread.core.lineage;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;

/**
 * The lineage that one event states: what was read, what was written, and the column map. Shapes of
 * the events of one run add up by union.
 *
 * @param described the output columns that have an entry in the map, empty entries counted
 * @param detailed the outputs whose sources were reported one by one: no other input feeds them
 * @param gap whether the emitter said that it could not read parts of the job
 */
public record ReportedLineage(
    SortedSet<DatasetName> inputs,
    SortedSet<DatasetName> outputs,
    SortedSet<ColumnLink> columns,
    SortedSet<ColumnName> described,
    SortedSet<DatasetName> detailed,
    boolean gap) {
  public static final ReportedLineage EMPTY =
      new ReportedLineage(
          new TreeSet<>(),
          new TreeSet<>(),
          new TreeSet<>(),
          new TreeSet<>(),
          new TreeSet<>(),
          false);

  /**
   * How many pairs of inputs and outputs are links of their own; of more, nobody can say which
   * input feeds which output, and as pairs they would take the product of both numbers to store.
   */
  public static final int MOST_PAIRS = 1_000;

  /**
   * Whether the inputs and outputs are too many to be paired: then each input leads to the job, and
   * the job to each output whose sources were not reported.
   */
  public boolean throughJob() {
    long open = outputs.stream().filter(output -> !detailed.contains(output)).count();
    return inputs.size() > 1 && open > 1 && inputs.size() * open > MOST_PAIRS;
  }

  public boolean isEmpty() {
    return inputs.isEmpty() && outputs.isEmpty() && columns.isEmpty() && !gap;
  }

  /** This lineage with one more output. */
  public ReportedLineage writing(DatasetName output) {
    var more = new TreeSet<>(outputs);
    more.add(output);
    return new ReportedLineage(inputs, more, columns, described, detailed, gap);
  }

  /** All that any of the lineages states. */
  public static ReportedLineage union(Collection<ReportedLineage> lineages) {
    var inputs = new TreeSet<DatasetName>();
    var outputs = new TreeSet<DatasetName>();
    var columns = new TreeSet<ColumnLink>();
    var described = new TreeSet<ColumnName>();
    var detailed = new TreeSet<DatasetName>();
    boolean gap = false;
    for (ReportedLineage lineage : lineages) {
      inputs.addAll(lineage.inputs);
      outputs.addAll(lineage.outputs);
      columns.addAll(lineage.columns);
      described.addAll(lineage.described);
      detailed.addAll(lineage.detailed);
      gap |= lineage.gap;
    }
    return new ReportedLineage(inputs, outputs, columns, described, detailed, gap);
  }

  /**
   * Every pair of an input and an output that this lineage holds to feed each other; none if it is
   * {@link #throughJob}.
   */
  public List<DatasetPair> pairs() {
    var pairs = new ArrayList<DatasetPair>();
    if (throughJob()) {
      return pairs;
    }
    for (DatasetName output : outputs) {
      if (detailed.contains(output)) {
        continue; // its sources stand in the column map
      }
      for (DatasetName input : inputs) {
        pairs.add(new DatasetPair(input, output));
      }
    }
    return pairs;
  }

  /** An input and an output. */
  public record DatasetPair(DatasetName from, DatasetName to) {}

  /**
   * The links of the graph that this lineage amounts to: the column map itself; for each input that
   * the map shows feeding an output, its rows running on into the output's rows, and into every
   * column there that is made from many rows. An input that feeds no column of an output gives a
   * coarse link if nothing is known of that output's columns, else a {@link Flow#READS} link. So
   * every pair has a link from rows to rows, and whole assets can be followed along those alone;
   * where the pairs are too many ({@link #throughJob}), along those to the job and on from it.
   */
  public SortedSet<ColumnLink> links() {
    var links = new TreeSet<>(columns);
    Set<DatasetName> fine = new HashSet<>();
    described.forEach(column -> fine.add(column.dataset()));
    for (ColumnLink link : columns) {
      DatasetName from = link.from().dataset();
      ColumnName to = link.to();
      if (link.flow() == Flow.HOLDS) {
        continue;
      }
      if (link.flow() == Flow.READS) {
        fine.add(to.dataset());
        continue;
      }
      ColumnName rows = ColumnName.rowsOf(from);
      if (link.flow() == Flow.COARSE) {
        links.add(new ColumnLink(rows, ColumnName.rowsOf(to.dataset()), Flow.COARSE, false));
        continue;
      }
      links.add(new ColumnLink(rows, ColumnName.rowsOf(to.dataset()), Flow.ROWS, false));
      if (link.flow().dependsOnRows() && !to.isRows()) {
        links.add(new ColumnLink(rows, to, Flow.ROWS_TO_VALUE, false));
      }
    }
    Set<DatasetPair> fed = new HashSet<>();
    for (ColumnLink link : links) {
      if (link.flow() != Flow.READS) {
        fed.add(new DatasetPair(link.from().dataset(), link.to().dataset()));
      }
    }
    for (ColumnLink link : columns) {
      // A column is named and nothing of its table lands.
      if (link.flow() == Flow.READS
          && fed.add(new DatasetPair(link.from().dataset(), link.to().dataset()))) {
        links.add(
            new ColumnLink(ColumnName.rowsOf(link.from().dataset()), link.to(), Flow.READS, false));
      }
    }
    for (DatasetPair pair : pairs()) {
      if (!fed.contains(pair)) {
        Flow flow = fine.contains(pair.to()) ? Flow.READS : Flow.COARSE;
        links.add(
            new ColumnLink(
                ColumnName.rowsOf(pair.from()), ColumnName.rowsOf(pair.to()), flow, false));
      }
    }
    return links;
  }
}
