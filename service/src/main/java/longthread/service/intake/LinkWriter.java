package longthread.service.intake;

import java.time.Instant;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.event.ColumnLink;
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.core.history.JobHistory;
import longthread.core.history.JobLineage;
import longthread.core.history.JobRun;
import longthread.core.history.RunState;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/** Computes job versions and links with their validity from runs and declarations. */
@Component
class LinkWriter {
  private final JdbcTemplate jdbc;
  private final FactStore facts;
  private final CurrentFacets current;

  LinkWriter(JdbcTemplate jdbc, FactStore facts, CurrentFacets current) {
    this.jdbc = jdbc;
    this.facts = facts;
    this.current = current;
  }

  /** Writes the versions, links and column map of a job. */
  void writeJob(JobName name) {
    long job = facts.id(name);
    var digestsOf = new HashMap<UUID, SortedSet<String>>();
    jdbc.query(
        "select run_id, encode(digest, 'hex') from run_shape where job_id = ?",
        row -> {
          digestsOf
              .computeIfAbsent(row.getObject(1, UUID.class), k -> new TreeSet<>())
              .add(row.getString(2));
        },
        job);
    Map<SortedSet<String>, Shape> shapes = shapes(new HashSet<>(digestsOf.values()));
    boolean streaming = isStreaming(job);
    List<JobRun> runs =
        jdbc.query(
            "select r.run_id, m.at_s, m.at_n, r.code, r.state, exists (select from run_moment x"
                + " where x.run_id = r.run_id and x.job_id = r.job_id and x.kind = 5)"
                + " from run r join run_moment m on m.run_id = r.run_id and m.job_id = r.job_id"
                + " and m.kind = 0 where r.job_id = ?",
            (row, n) -> {
              UUID run = row.getObject(1, UUID.class);
              boolean settled =
                  row.getString(5).equals(RunState.COMPLETED.word())
                      || (streaming && row.getBoolean(6));
              return new JobRun(
                  run,
                  Instant.ofEpochSecond(row.getLong(2), row.getInt(3)),
                  row.getString(4),
                  settled,
                  shapes.getOrDefault(
                      digestsOf.getOrDefault(run, Collections.emptySortedSet()), Shape.EMPTY));
            },
            job);
    JobLineage lineage = JobHistory.of(runs, declared(FactStore.JOB, job));
    writeLinks(FactStore.JOB, job, lineage);
    jdbc.update("delete from job_version where job_id = ?", job);
    facts.batch(
        "insert into job_version values (?, ?, ?, ?, ?)",
        lineage.versions().stream()
            .map(
                v ->
                    new Object[] {
                      job,
                      v.number(),
                      v.hash(),
                      StoredTime.of(v.firstRun()),
                      StoredTime.of(v.lastRun())
                    })
            .toList());
    jdbc.update(
        "insert into job_map (owner_kind, owner_id, described, gap) values (?, ?, ?, ?)"
            + " on conflict (owner_kind, owner_id) do update"
            + " set described = excluded.described, gap = excluded.gap",
        FactStore.JOB,
        job,
        lineage.described().stream().map(c -> c.reference()).toArray(String[]::new),
        lineage.gap());
  }

  /** The union of each set of shapes, once: nearly all runs of a job share one. */
  private Map<SortedSet<String>, Shape> shapes(Set<SortedSet<String>> sets) {
    var digests = new TreeSet<String>();
    sets.forEach(digests::addAll);
    byte[][] raw = digests.stream().map(FactStore::hex).toArray(byte[][]::new);
    var single = new HashMap<String, Shape>();
    jdbc.query(
        "select encode(digest, 'hex'), body from shape where digest = any(?)",
        row -> {
          single.put(row.getString(1), ShapeText.read(StoredText.text(row.getBytes(2))));
        },
        (Object) raw);
    var unions = new HashMap<SortedSet<String>, Shape>();
    for (SortedSet<String> set : sets) {
      unions.put(set, Shape.union(set.stream().map(single::get).toList()));
    }
    return unions;
  }

  private boolean isStreaming(long job) {
    JsonNode type =
        current.of(FactStore.JOB, List.of(job)).getOrDefault(job, Map.of()).get("jobType");
    return type != null
        && "STREAMING".equalsIgnoreCase(type.path("processingType").stringValue(""));
  }

  /** Writes the links that a dataset declares of itself. */
  void writeDataset(DatasetName name) {
    long dataset = facts.id(name);
    JobLineage lineage = JobHistory.of(List.of(), declared(FactStore.DATASET, dataset));
    writeLinks(FactStore.DATASET, dataset, lineage);
    jdbc.update(
        "insert into job_map (owner_kind, owner_id, described, gap) values (?, ?, ?, false)"
            + " on conflict (owner_kind, owner_id) do update set described = excluded.described",
        FactStore.DATASET,
        dataset,
        lineage.described().stream().map(c -> c.reference()).toArray(String[]::new));
  }

  private JobHistory.@Nullable Declared declared(int kind, long owner) {
    List<JobHistory.Declared> newest =
        jdbc.query(
            "select d.at_s, d.at_n, s.body from declared d join shape s using (digest)"
                + " where d.owner_kind = ? and d.owner_id = ? and not d.far"
                + " order by d.at_s desc, d.at_n desc, d.digest desc limit 1",
            (row, n) ->
                new JobHistory.Declared(
                    Instant.ofEpochSecond(row.getLong(1), row.getInt(2)),
                    ShapeText.read(StoredText.text(row.getBytes(3)))),
            kind,
            owner);
    return newest.isEmpty() ? null : newest.get(0);
  }

  private void writeLinks(int kind, long owner, JobLineage lineage) {
    var names = new TreeSet<String>();
    for (JobLineage.HeldLink held : lineage.links()) {
      names.add(held.link().from().dataset().reference());
      names.add(held.link().to().dataset().reference());
    }
    facts.internDatasets(names);
    jdbc.update("delete from link where owner_kind = ? and owner_id = ?", kind, owner);
    facts.batch(
        "insert into link values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        lineage.links().stream()
            .map(
                held -> {
                  ColumnLink link = held.link();
                  return new Object[] {
                    kind,
                    owner,
                    facts.id(link.from().dataset()),
                    link.from().path(),
                    facts.id(link.to().dataset()),
                    link.to().path(),
                    link.flow().name(),
                    link.masking(),
                    held.declared(),
                    held.version(),
                    StoredTime.of(held.firstSeen()),
                    StoredTime.of(held.lastSeen()),
                    StoredTime.of(held.until())
                  };
                })
            .toList());
  }
}
