package longthread.demo;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import longthread.core.asset.DatasetName;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.ReportedLineage;
import longthread.core.sql.Derivation;
import longthread.core.sql.Derivation.Derived;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.SqlReader;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.TestFactory;

/** What is read out of each task's SQL, against the map that was written by hand beside it. */
class DerivedMapsTest {
  private static final LocalDate DAY = LocalDate.of(2026, 10, 31);
  private static final SqlReader READER = new SqlReader();
  private static final Pattern TABLE =
      Pattern.compile("create table (\\w+\\.\\w+) \\((.*?)\\);", Pattern.DOTALL);

  @AfterAll
  static void close() {
    READER.close();
  }

  private static Map<String, List<KnownColumn>> schemas() {
    Map<String, List<KnownColumn>> schemas = new LinkedHashMap<>();
    for (String file : List.of("sources.sql", "tables.sql")) {
      var matcher = TABLE.matcher(Task.resource(file));
      while (matcher.find()) {
        var columns = new ArrayList<KnownColumn>();
        for (String column : matcher.group(2).split(",(?![^(]*\\))")) {
          String[] words = column.strip().split("\\s+");
          if (!words[0].equals("primary")) {
            columns.add(new KnownColumn(words[0], words[1]));
          }
        }
        schemas.put(matcher.group(1), columns);
      }
    }
    return schemas;
  }

  private static DatasetName name(String dataset) {
    Names.Dataset whole = Names.dataset(dataset, DAY);
    return new DatasetName(whole.namespace(), whole.name());
  }

  private static Derived derive(Task task) {
    Map<DatasetName, List<KnownColumn>> known = new LinkedHashMap<>();
    schemas().forEach((table, columns) -> known.put(name(table), columns));
    var inputs = new TreeSet<DatasetName>();
    task.reads().forEach(dataset -> inputs.add(name(dataset)));
    var outputs = new TreeSet<DatasetName>();
    task.writes().forEach(dataset -> outputs.add(name(dataset)));
    var reported =
        new ReportedLineage(
            inputs, outputs, new TreeSet<>(), new TreeSet<>(), new TreeSet<>(), false);
    return Derivation.of(
        READER,
        Nightshift.fill(task.text(), DAY),
        "postgres",
        reported,
        dataset -> known.getOrDefault(dataset, List.of()));
  }

  private static String text(ColumnLink link) {
    return link.from().reference() + " " + link.flow() + (link.masking() ? " masked" : "");
  }

  @TestFactory
  Stream<DynamicTest> what_is_read_out_of_a_task_is_what_was_written_down() {
    return Stream.concat(Task.all().stream(), Task.before().stream())
        .filter(task -> task.isSql() && !task.writes().isEmpty())
        .map(task -> DynamicTest.dynamicTest(task.name(), () -> check(task)));
  }

  private static void check(Task task) {
    Derived derived = derive(task);
    assertThat(derived.problems()).isEmpty();
    var expected = new TreeSet<String>();
    task.map()
        .forEach(
            (column, sources) ->
                sources.forEach(
                    source ->
                        expected.add(
                            column
                                + " = "
                                + name(source.dataset()).reference()
                                + "#"
                                + source.column()
                                + " "
                                + source.flow()
                                + (source.masked() ? " masked" : ""))));
    task.rows()
        .forEach(
            source ->
                expected.add(
                    "* = "
                        + name(source.dataset()).reference()
                        + "#"
                        + source.column()
                        + " "
                        + source.flow()));
    var read = new TreeSet<String>();
    for (ColumnLink link : derived.lineage().columns()) {
      boolean rowsOn = link.flow() == Flow.ROWS || link.flow() == Flow.ROWS_TO_VALUE;
      if (!rowsOn) {
        read.add(link.to().path() + " = " + text(link));
      }
    }
    assertThat(read).containsExactlyElementsOf(expected);
    var described = new TreeSet<String>();
    derived.lineage().described().forEach(column -> described.add(column.path()));
    assertThat(described).containsExactlyElementsOf(new TreeSet<>(task.map().keySet()));
  }
}
