package longthread.core.sql;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Function;
import longthread.core.asset.BadNameException;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.history.Fingerprint;
import longthread.core.lineage.ColumnConstant;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.ReportedLineage;
import longthread.core.sql.SqlStatement.Output;
import longthread.core.sql.SqlStatement.Source;
import org.jspecify.annotations.Nullable;

/**
 * The lineage of a run worked out of the SQL it ran.
 *
 * <p>Tables in the text are the datasets that the run itself named, by the ending of their names;
 * others are taken to lie beside them, in the same database. A query that writes nothing feeds the
 * one output that nothing else writes, and {@code stdin} is the one input that nothing else reads:
 * that is how unloading and loading tasks report themselves.
 */
public final class Derivation {
  /**
   * What was worked out.
   *
   * @param lineage inputs, outputs and the column map, as if the run had reported it
   * @param constants what columns are set to on branches that come from no table
   * @param complete whether the text accounts for every column of every output
   * @param problems why it does not, in words
   * @param statements what each statement says, by the names of the text
   * @param tables which dataset each of those names is
   */
  public record Derived(
      ReportedLineage lineage,
      SortedSet<ColumnConstant> constants,
      boolean complete,
      List<String> problems,
      List<SqlStatement> statements,
      Map<String, DatasetName> tables) {
    /** Whether the time ran out for a statement, so that another try may say more. */
    public boolean pending() {
      return statements.stream()
          .anyMatch(s -> s.problems().stream().anyMatch(SqlProblem::retryable));
    }
  }

  private static final Set<String> CLIENT = Set.of("stdin", "stdout", "program");

  private final ReportedLineage reported;
  private final Map<String, DatasetName> byName = new LinkedHashMap<>();
  private final Map<String, List<KnownColumn>> known = new LinkedHashMap<>();
  private final SortedSet<DatasetName> inputs = new TreeSet<>();
  private final SortedSet<DatasetName> outputs = new TreeSet<>();
  private final SortedSet<ColumnLink> links = new TreeSet<>();
  private final SortedSet<ColumnName> described = new TreeSet<>();
  private final SortedSet<DatasetName> detailed = new TreeSet<>();
  private final SortedSet<ColumnConstant> constants = new TreeSet<>();
  private final List<String> problems = new ArrayList<>();
  private boolean complete = true;

  private Derivation(ReportedLineage reported) {
    this.reported = reported;
  }

  /**
   * Derives the lineage of a run.
   *
   * @param sql what it ran
   * @param word the dialect as the emitter names it; null if it does not
   * @param reported what it read and wrote, by its own account
   * @param schema the columns of a dataset; empty if they are not known
   */
  public static Derived of(
      SqlReader reader,
      String sql,
      @Nullable String word,
      ReportedLineage reported,
      Function<DatasetName, List<KnownColumn>> schema) {
    return of(reader, sql, word, reported, schema, List.of());
  }

  /**
   * Derives the lineage of a run, where more is known than what the run itself named.
   *
   * @param others datasets that the text may name too
   */
  public static Derived of(
      SqlReader reader,
      String sql,
      @Nullable String word,
      ReportedLineage reported,
      Function<DatasetName, List<KnownColumn>> schema,
      Collection<DatasetName> others) {
    var derivation = new Derivation(reported);
    derivation.know(schema, others);
    Dialect dialect = derivation.dialect(word);
    var tables = new KnownTables(derivation.known, derivation.path());
    List<SqlStatement> statements = reader.read(sql, dialect, tables);
    derivation.add(statements);
    derivation.addNamed(statements);
    return new Derived(
        new ReportedLineage(
            derivation.inputs,
            derivation.outputs,
            derivation.links,
            derivation.described,
            derivation.detailed,
            !derivation.complete),
        derivation.constants,
        derivation.complete,
        List.copyOf(derivation.problems),
        statements,
        derivation.tablesOf(statements));
  }

  private Map<String, DatasetName> tablesOf(List<SqlStatement> statements) {
    var tables = new TreeMap<String, DatasetName>();
    for (SqlStatement statement : statements) {
      var names = new ArrayList<>(statement.reads());
      if (statement.target() != null && !statement.temporary()) {
        names.add(statement.target());
      }
      for (String name : names) {
        DatasetName dataset = target(name);
        if (dataset != null) {
          tables.put(name, dataset);
        }
      }
    }
    return tables;
  }

  /** The dialect of a run's text: the one it names, else that of the database it works in. */
  public static Dialect dialect(@Nullable String word, ReportedLineage reported) {
    return new Derivation(reported).dialect(word);
  }

  private Dialect dialect(@Nullable String word) {
    if (word != null) {
      var named = Dialect.of(word);
      if (named.isPresent()) {
        return named.get();
      }
    }
    for (DatasetName dataset : all()) {
      int colon = dataset.namespace().indexOf(':');
      var named = Dialect.of(colon < 0 ? "" : dataset.namespace().substring(0, colon));
      if (named.isPresent()) {
        return named.get();
      }
    }
    return Dialect.ANSI;
  }

  private Set<DatasetName> all() {
    var all = new TreeSet<>(reported.outputs());
    all.addAll(reported.inputs());
    return all;
  }

  private void know(
      Function<DatasetName, List<KnownColumn>> schema, Collection<DatasetName> others) {
    var names = new LinkedHashSet<DatasetName>(reported.outputs());
    names.addAll(reported.inputs());
    names.addAll(others);
    for (DatasetName dataset : names) {
      if (byName.putIfAbsent(dataset.name(), dataset) == null) {
        known.put(dataset.name(), schema.apply(dataset));
      }
    }
    DatasetName input = theOneInput();
    if (input != null) {
      known.put("stdin", schema.apply(input));
    }
  }

  private static String address(DatasetName dataset) {
    return dataset.namespace() + "/" + dataset.name();
  }

  private @Nullable DatasetName theOneInput() {
    return reported.inputs().size() == 1 ? reported.inputs().first() : null;
  }

  /** Unqualified names lie where most likely the run works: beside its outputs, then its inputs. */
  private List<String> path() {
    var schemas = new ArrayList<String>();
    for (DatasetName dataset : byName.values()) {
      String[] parts = dataset.name().split("\\.");
      if (parts.length > 1 && !schemas.contains(parts[parts.length - 2])) {
        schemas.add(parts[parts.length - 2]);
      }
    }
    return schemas.size() == 1 ? schemas : List.of();
  }

  // ------------------------------------------------------------- statements

  /**
   * Columns that the text names and that land nowhere: the job needs them all the same, and fails
   * as a whole when one is gone.
   */
  private void addNamed(List<SqlStatement> statements) {
    Set<ColumnName> landing = new HashSet<>();
    links.forEach(link -> landing.add(link.from()));
    for (SqlStatement statement : statements) {
      for (SqlStatement.Named one : statement.named()) {
        DatasetName from = dataset(one.table());
        ColumnName column = from == null ? null : column(from, one.column());
        if (column != null && landing.add(column)) {
          for (DatasetName output : outputs) {
            if (!output.equals(from)) {
              links.add(new ColumnLink(column, ColumnName.rowsOf(output), Flow.READS, false));
            }
          }
        }
      }
    }
  }

  private void add(List<SqlStatement> statements) {
    Set<DatasetName> written = new HashSet<>();
    Set<DatasetName> read = new HashSet<>();
    SqlStatement lastQuery = null;
    for (SqlStatement statement : statements) {
      if (statement.temporary()) {
        note(statement);
        continue;
      }
      if (statement.target() == null) {
        lastQuery = statement;
        continue;
      }
      DatasetName target = target(statement.target());
      if (target == null) {
        note(statement);
        unknown(statement.target());
        continue;
      }
      written.add(target);
      statement.reads().forEach(table -> read.add(dataset(table)));
      add(statement, target);
    }
    List<DatasetName> unwritten =
        reported.outputs().stream().filter(output -> !written.contains(output)).toList();
    if (lastQuery != null && unwritten.size() == 1) {
      add(lastQuery, unwritten.get(0));
    } else if (!unwritten.isEmpty() && !statements.isEmpty()) {
      complete = false;
      problems.add(
          "The text does not show what feeds "
              + String.join(", ", unwritten.stream().map(DatasetName::name).toList())
              + ".");
    }
    if (statements.isEmpty()) {
      complete = false;
      problems.add("The text holds no statement that reads or writes data.");
    }
  }

  private void note(SqlStatement statement) {
    complete &= statement.complete();
    statement.problems().stream()
        .map(SqlProblem::what)
        .filter(problem -> !problems.contains(problem))
        .forEach(problems::add);
  }

  private void unknown(String table) {
    complete = false;
    String problem = "It is not known which dataset " + table + " is.";
    if (!problems.contains(problem)) {
      problems.add(problem);
    }
  }

  private void add(SqlStatement statement, DatasetName target) {
    note(statement);
    outputs.add(target);
    ColumnName rows = ColumnName.rowsOf(target);
    for (Output output : statement.outputs()) {
      if (output.name().equals("*")) {
        output.direct().forEach(source -> coarse(source.table(), rows));
        continue;
      }
      ColumnName to = column(target, output.name());
      if (to == null) {
        continue;
      }
      described.add(to);
      for (Constant constant : output.constants()) {
        constants.add(new ColumnConstant(to, Fingerprint.withoutVolatile(constant.text())));
      }
      output.direct().forEach(source -> link(source, to, source.flow(), source.masked()));
      for (Source source : output.indirect()) {
        // What chooses a value in a subquery decides the value, not which rows the output has.
        boolean value = source.flow().group() == Flow.Group.DECIDES_VALUE;
        link(source, to, value ? source.flow() : Flow.CONDITIONAL, false);
      }
      if (output.countsRows()) {
        for (String table : output.fromRows()) {
          DatasetName counted = dataset(table);
          if (counted != null && !counted.equals(target)) {
            links.add(new ColumnLink(ColumnName.rowsOf(counted), to, Flow.ROWS_TO_VALUE, false));
          }
        }
      }
    }
    for (Source source : statement.rows()) {
      DatasetName from = dataset(source.table());
      if (statement.kind().equals("update")) {
        // Which rows are updated decides the values of what is set, not which rows there are.
        for (Output output : statement.outputs()) {
          ColumnName to = column(target, output.name());
          if (to != null) {
            link(source, to, Flow.CONDITIONAL, false);
          }
        }
        continue;
      }
      // Rows that go come from no other rows of the table; those that are added do.
      if (from != null && (!from.equals(target) || statement.kind().startsWith("insert"))) {
        link(source, rows, source.flow(), false);
      }
    }
    Set<DatasetName> feeding = new HashSet<>();
    links.forEach(
        link -> {
          if (link.to().dataset().equals(target)) {
            feeding.add(link.from().dataset());
          }
        });
    for (String table : statement.reads()) {
      DatasetName from = dataset(table);
      if (from == null) {
        unknown(table);
      } else if (!from.equals(target)) {
        inputs.add(from);
        boolean partial = statement.outputs().isEmpty() && !statement.complete();
        if (partial) {
          links.add(new ColumnLink(ColumnName.rowsOf(from), rows, Flow.COARSE, false));
        } else if (!feeding.contains(from)) {
          // Nothing of it is named, as in a cross join: its rows run on all the same.
          links.add(new ColumnLink(ColumnName.rowsOf(from), rows, Flow.ROWS, false));
        }
      }
    }
    if (!statement.outputs().isEmpty()) {
      detailed.add(target);
    }
  }

  private void coarse(String table, ColumnName rows) {
    DatasetName from = dataset(table);
    if (from != null && !from.equals(rows.dataset())) {
      links.add(new ColumnLink(ColumnName.rowsOf(from), rows, Flow.COARSE, false));
    }
  }

  private void link(Source source, ColumnName to, Flow flow, boolean masked) {
    DatasetName from = dataset(source.table());
    ColumnName column = from == null ? null : column(from, source.column());
    if (column == null) {
      unknown(source.table());
      return;
    }
    if (column.equals(to)) {
      return; // a column set from itself says nothing of where it comes from
    }
    if (!from.equals(to.dataset())) {
      inputs.add(from);
    }
    links.add(new ColumnLink(column, to, flow, masked));
  }

  // ------------------------------------------------------------------- names

  private @Nullable DatasetName target(String name) {
    if (CLIENT.contains(name) && !name.equals("stdin")) {
      return reported.outputs().size() == 1 ? reported.outputs().first() : null;
    }
    return dataset(name);
  }

  /** The dataset that a table of the text is; null if nothing identifies it. */
  private @Nullable DatasetName dataset(String table) {
    if (table.equals("stdin")) {
      return theOneInput();
    }
    DatasetName exact = byName.get(table);
    if (exact != null) {
      return exact;
    }
    DatasetName address = file(table);
    if (address != null) {
      return address;
    }
    for (DatasetName sibling : byName.values()) {
      String[] own = sibling.name().split("\\.");
      String[] parts = table.split("\\.");
      if (own.length > 1 && own.length >= parts.length && sibling.name().indexOf('/') < 0) {
        var name = new StringBuilder();
        for (int i = 0; i < own.length - parts.length; i++) {
          name.append(own[i]).append('.');
        }
        return named(sibling.namespace(), name + table);
      }
    }
    return null;
  }

  /** A file by its address, {@code s3://bucket/path}, if a dataset of the run has it. */
  private @Nullable DatasetName file(String address) {
    String plain = address.toLowerCase(Locale.ROOT);
    for (DatasetName dataset : byName.values()) {
      String own = address(dataset).toLowerCase(Locale.ROOT);
      if (plain.contains("/") && (own.endsWith(plain) || plain.startsWith(own))) {
        return dataset;
      }
    }
    return null;
  }

  private static @Nullable DatasetName named(String namespace, String name) {
    try {
      return new DatasetName(namespace, name);
    } catch (BadNameException e) {
      return null;
    }
  }

  private static @Nullable ColumnName column(DatasetName dataset, String name) {
    try {
      if (name.equals("*")) {
        return null;
      }
      return ColumnName.ofPath(dataset, name);
    } catch (BadNameException e) {
      return null;
    }
  }
}
