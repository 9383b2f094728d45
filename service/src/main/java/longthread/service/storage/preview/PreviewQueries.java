package longthread.service.storage.preview;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Where rows can be read live, and the secret that hashes of values are made with. */
@Repository
@Transactional
public interface PreviewQueries {
  /** A source; its settings are JSON. */
  record Source(String name, String settings, String changedBy, Instant changedAt) {}

  StatelessSession session();

  @HQL("select s.name, s.settings, s.changedBy, s.changedAt from PreviewSource s order by s.name")
  List<Source> sources();

  @SQL(
      "insert into preview_source (name, settings, changed_by, changed_at)"
          + " values (:name, :settings, :by, :at) on conflict (name) do update set"
          + " settings = excluded.settings, changed_by = excluded.changed_by,"
          + " changed_at = excluded.changed_at")
  int put(String name, String settings, String by, Instant at);

  @HQL("delete from PreviewSource s where s.name = :name")
  int delete(String name);

  /** Keeps a secret, unless there is one of that name. */
  @SQL(
      "insert into installation_secret (name, value) values (:name, :value) on conflict do nothing")
  int addSecret(String name, byte[] value);

  @HQL("select s.value from InstallationSecret s where s.name = :name")
  Optional<byte[]> secret(String name);
}
