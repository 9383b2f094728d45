package longthread.service.apply;

import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.service.storage.facts.NameQueries;
import longthread.service.storage.facts.Subject;

/** The ids of datasets and jobs. An id never changes once it is given, so it is remembered. */
final class NameIds {
  private static final int MAX_NAMES = 2_000_000;

  private final NameQueries names;
  private final Map<DatasetName, Long> datasets = new HashMap<>();
  private final Map<JobName, Long> jobs = new HashMap<>();
  private final Map<Long, JobName> jobsById = new HashMap<>();

  NameIds(NameQueries names) {
    this.names = names;
  }

  /** Drops all, since ids given in a transaction that was rolled back were never given. */
  void forget() {
    datasets.clear();
    jobs.clear();
    jobsById.clear();
  }

  /** Drops what is more than it should hold; not while a batch is written, which relies on it. */
  void trim() {
    if (datasets.size() + jobs.size() > MAX_NAMES) {
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
  Set<String> internDatasets(Collection<DatasetName> all) {
    return intern(all, DatasetName::reference, datasets, names::datasets, names::addDatasets);
  }

  /** Gives ids to all names that have none yet; returns the references that are new. */
  Set<String> internJobs(Collection<JobName> all) {
    return intern(all, JobName::reference, jobs, names::jobs, names::addJobs);
  }

  /** The names of jobs by their ids. */
  Map<Long, JobName> jobNames(Collection<Long> wanted) {
    Long[] unknown =
        wanted.stream().filter(id -> !jobsById.containsKey(id)).distinct().toArray(Long[]::new);
    if (unknown.length > 0) {
      for (NameQueries.Named found : names.jobsById(unknown)) {
        jobsById.put(found.id(), JobName.parse(found.ref()));
      }
    }
    return jobsById;
  }

  private static <N> Set<String> intern(
      Collection<N> names,
      Function<N, String> reference,
      Map<N, Long> ids,
      Function<String[], List<NameQueries.Named>> find,
      Function<String[], List<NameQueries.Named>> add) {
    var unknown = new TreeMap<String, N>();
    for (N name : names) {
      if (!ids.containsKey(name)) {
        unknown.put(reference.apply(name), name);
      }
    }
    if (unknown.isEmpty()) {
      return new HashSet<>();
    }
    for (NameQueries.Named found : find.apply(unknown.keySet().toArray(String[]::new))) {
      ids.put(unknown.remove(found.ref()), found.id());
    }
    if (!unknown.isEmpty()) {
      for (NameQueries.Named added : add.apply(unknown.keySet().toArray(String[]::new))) {
        ids.put(unknown.get(added.ref()), added.id());
      }
    }
    return new HashSet<>(unknown.keySet());
  }
}
