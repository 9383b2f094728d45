package longthread.service.storage.preview;

import java.time.Instant;
import java.util.List;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** What values of assets look like. */
@Repository
@Transactional
public interface SampleQueries {
  /** What was found of an asset; {@code looks} is JSON. */
  record Sample(String asset, String source, Instant at, String looks, @Nullable String fault) {}

  StatelessSession session();

  @HQL("select s.asset, s.source, s.at, s.looks, s.fault from ValueSample s order by s.asset")
  List<Sample> all();

  /** Keeps what was found, in the place of what was found before. */
  @SQL(
      "insert into value_sample (asset, source, at, looks, fault)"
          + " values (:asset, :source, :at, :looks, :fault) on conflict (asset) do update"
          + " set source = excluded.source, at = excluded.at, looks = excluded.looks,"
          + " fault = excluded.fault")
  int put(String asset, String source, Instant at, String looks, @Nullable String fault);

  /** Forgets what was read from sources that are not these. */
  @HQL("delete from ValueSample s where s.source not in :sources")
  int deleteOthers(List<String> sources);
}
