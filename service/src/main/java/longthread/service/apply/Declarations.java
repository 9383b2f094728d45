package longthread.service.apply;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeSet;
import longthread.core.history.JobHistory;
import longthread.core.lineage.LineageText;
import longthread.core.lineage.ResolvedLineage;
import longthread.service.storage.Columns;
import longthread.service.storage.StoredText;
import longthread.service.storage.Stores;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.facts.Subject;
import longthread.service.storage.facts.SubjectKind;
import org.jspecify.annotations.Nullable;

/** What jobs and datasets declare of their lineage without a run, over time. */
final class Declarations {
  private final Stores stores;

  Declarations(Stores stores) {
    this.stores = stores;
  }

  /** The declarations of owners, the newest with those before it; without owners that have none. */
  Map<Subject, JobHistory.Declared> of(Collection<Subject> owners) {
    var declared = new HashMap<Subject, JobHistory.Declared>();
    for (SubjectKind kind : SubjectKind.values()) {
      Long[] ids =
          owners.stream().filter(o -> o.kind() == kind).map(Subject::id).toArray(Long[]::new);
      if (ids.length == 0) {
        continue;
      }
      List<RunFactQueries.Declared> rows = stores.runFacts().declared(kind.code(), ids);
      Map<String, ResolvedLineage> lineages = lineages(rows);
      for (RunFactQueries.Declared row : rows) {
        ResolvedLineage lineage = Objects.requireNonNull(lineages.get(row.digest()));
        declared.compute(
            new Subject(kind, row.owner()), (owner, before) -> next(before, row, lineage));
      }
    }
    return declared;
  }

  private Map<String, ResolvedLineage> lineages(List<RunFactQueries.Declared> rows) {
    var digests = new TreeSet<String>();
    rows.forEach(row -> digests.add(row.digest()));
    var lineages = new HashMap<String, ResolvedLineage>();
    if (!digests.isEmpty()) {
      for (RunFactQueries.Body row : stores.runFacts().lineageBodies(Columns.digests(digests))) {
        lineages.put(
            row.digest(), ResolvedLineage.of(LineageText.read(StoredText.text(row.body()))));
      }
    }
    return lineages;
  }

  /** The newest declaration with those before it, one row after the other. */
  private static JobHistory.Declared next(
      JobHistory.@Nullable Declared before, RunFactQueries.Declared row, ResolvedLineage lineage) {
    Instant at = Instant.ofEpochSecond(row.atS(), row.atN());
    Instant last = Instant.ofEpochSecond(row.lastS(), row.lastN());
    var earlier = new ArrayList<JobHistory.Earlier>();
    if (before != null) {
      earlier.addAll(before.earlier());
      earlier.add(new JobHistory.Earlier(before.at(), before.resolved()));
    }
    return new JobHistory.Declared(at, last, lineage, null, earlier);
  }

  /** Since when the queries of owners are as they stand. */
  Map<Subject, Instant> queriesSince(Collection<Subject> owners) {
    var since = new HashMap<Subject, Instant>();
    for (SubjectKind kind : SubjectKind.values()) {
      Long[] ids =
          owners.stream().filter(o -> o.kind() == kind).map(Subject::id).toArray(Long[]::new);
      if (ids.length > 0) {
        for (FacetQueries.Moment row : stores.facets().changes(kind.code(), RunSql.VIEW, ids)) {
          since.put(new Subject(kind, row.subject()), Instant.ofEpochSecond(row.atS(), row.atN()));
        }
      }
    }
    return since;
  }
}
