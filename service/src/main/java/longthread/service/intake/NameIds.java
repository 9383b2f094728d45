package longthread.service.intake;

import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import org.springframework.jdbc.core.JdbcTemplate;

/** The ids of datasets and jobs. An id never changes once it is given, so it is remembered. */
final class NameIds {
  private static final int MOST = 2_000_000;

  private final JdbcTemplate jdbc;
  private final Map<DatasetName, Long> datasets = new HashMap<>();
  private final Map<JobName, Long> jobs = new HashMap<>();

  NameIds(JdbcTemplate jdbc) {
    this.jdbc = jdbc;
  }

  /** Drops all, since ids given in a transaction that was rolled back were never given. */
  void forget() {
    datasets.clear();
    jobs.clear();
  }

  /** Drops what is more than it should hold; not while a batch is written, which relies on it. */
  void trim() {
    if (datasets.size() + jobs.size() > MOST) {
      forget();
    }
  }

  long id(DatasetName name) {
    return datasets.get(name);
  }

  long id(JobName name) {
    return jobs.get(name);
  }

  Subject subject(DatasetName name) {
    return Subject.dataset(id(name));
  }

  Subject subject(JobName name) {
    return Subject.job(id(name));
  }

  /** Gives ids to all names that have none yet; returns the references that are new. */
  Set<String> internDatasets(Collection<DatasetName> names) {
    return intern("dataset", names, DatasetName::reference, datasets);
  }

  Set<String> internJobs(Collection<JobName> names) {
    return intern("job", names, JobName::reference, jobs);
  }

  private <N> Set<String> intern(
      String table, Collection<N> names, Function<N, String> reference, Map<N, Long> ids) {
    var unknown = new TreeMap<String, N>();
    for (N name : names) {
      if (!ids.containsKey(name)) {
        unknown.put(reference.apply(name), name);
      }
    }
    if (unknown.isEmpty()) {
      return new HashSet<>();
    }
    jdbc.query(
        "select id, ref from " + table + " where ref = any(?)",
        row -> {
          ids.put(unknown.remove(row.getString(2)), row.getLong(1));
        },
        (Object) unknown.keySet().toArray(String[]::new));
    jdbc.query(
        "insert into " + table + " (ref) select unnest(?) returning id, ref",
        row -> {
          ids.put(unknown.get(row.getString(2)), row.getLong(1));
        },
        (Object) unknown.keySet().toArray(String[]::new));
    return new HashSet<>(unknown.keySet());
  }
}
