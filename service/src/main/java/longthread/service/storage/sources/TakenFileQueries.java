package longthread.service.storage.sources;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** The files that were picked up. */
@Repository
@Transactional
public interface TakenFileQueries {
  /** How far a file was read, in events. */
  record Progress(long taken, long accepted, long duplicates, long refused) {}

  /** A file as it is stored; {@code doneAt} is null while it is being read. */
  record Stored(
      String path,
      long bytes,
      Instant firstAt,
      @Nullable Instant doneAt,
      long accepted,
      long duplicates,
      long refused,
      @Nullable String problem) {}

  StatelessSession session();

  /** Notes that a file is being read, unless that is known. */
  @SQL(
      "insert into taken_file (path, digest, bytes, first_at, taken, accepted, duplicates, refused)"
          + " values (:path, :digest, :bytes, :at, 0, 0, 0, 0) on conflict do nothing")
  int start(String path, byte[] digest, long bytes, Instant at);

  /** How far a file was read; empty when it was read to its end before. */
  @HQL(
      "select f.taken, f.accepted, f.duplicates, f.refused from TakenFile f where f.path = :path"
          + " and f.digest = :digest and f.doneAt is null")
  Optional<Progress> progress(String path, byte[] digest);

  @HQL(
      "update TakenFile f set f.taken = :taken, f.accepted = :accepted, f.duplicates = :duplicates,"
          + " f.refused = :refused where f.path = :path and f.digest = :digest")
  int advance(String path, byte[] digest, long taken, long accepted, long duplicates, long refused);

  @SQL(
      "update taken_file set done_at = :at, problem = cast(:problem as text) where path = :path"
          + " and digest = :digest")
  int finish(String path, byte[] digest, Instant at, @Nullable String problem);

  @HQL(
      "select f.path, f.bytes, f.firstAt, f.doneAt, f.accepted, f.duplicates, f.refused, f.problem"
          + " from TakenFile f order by f.firstAt desc, f.path limit :most")
  List<Stored> newest(int most);
}
