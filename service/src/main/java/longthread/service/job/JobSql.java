package longthread.service.job;

import java.util.ArrayList;
import java.util.List;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.lineage.LineageText;
import longthread.core.lineage.ReportedLineage;
import longthread.core.sql.Derivation;
import longthread.core.sql.Derivation.Derived;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.SqlReader;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.RunFactQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/** The SQL that a job ran last, read step by step with the schemas as they are now. */
@Component
public class JobSql {
  private final RunFactQueries runFacts;
  private final Catalog catalog;
  private final SqlReader reader;

  JobSql(RunFactQueries runFacts, Catalog catalog, SqlReader reader) {
    this.runFacts = runFacts;
    this.catalog = catalog;
    this.reader = reader;
  }

  /** What the job's SQL says; null if it reported none. */
  public @Nullable Derived of(Asset job) {
    Card.Code code = job.card().code();
    if (code == null || !code.language().equals("sql")) {
      return null;
    }
    // The text that ran last goes with what that run named; others may have named other parts.
    List<ReportedLineage> last =
        runFacts.lineageOfLastRun(job.parts().toArray(String[]::new)).stream()
            .map(body -> LineageText.read(StoredText.text(body)))
            .toList();
    return Derivation.of(
        reader, code.text(), code.dialect(), ReportedLineage.union(last), this::columns);
  }

  private List<KnownColumn> columns(DatasetName dataset) {
    var columns = new ArrayList<KnownColumn>();
    catalog
        .card(dataset.reference())
        .ifPresent(
            card ->
                card.columns().stream()
                    .filter(c -> c.path().indexOf('.') < 0)
                    .forEach(c -> columns.add(new KnownColumn(c.path(), c.type()))));
    return columns;
  }
}
