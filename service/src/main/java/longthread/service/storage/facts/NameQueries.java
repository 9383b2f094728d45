package longthread.service.storage.facts;

import java.util.List;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** The internal ids of datasets and jobs, by reference. An id never changes once it is given. */
@Repository
@Transactional
public interface NameQueries {
  /** A reference with its id. */
  record Named(long id, String ref) {}

  StatelessSession session();

  @SQL("select id, ref from dataset where ref = any(:refs)")
  List<Named> datasets(String[] refs);

  @SQL("select id, ref from job where ref = any(:refs)")
  List<Named> jobs(String[] refs);

  @SQL(
      "with added as (insert into dataset (ref) select unnest(:refs) returning id, ref)"
          + " select id, ref from added")
  List<Named> addDatasets(String[] refs);

  @SQL(
      "with added as (insert into job (ref) select unnest(:refs) returning id, ref)"
          + " select id, ref from added")
  List<Named> addJobs(String[] refs);

  /** The datasets whose references begin with a text, which holds no wildcard of its own. */
  @SQL("select id, ref from dataset where ref like :like escape '!'")
  List<Named> datasetsLike(String like);

  @SQL("select id, ref from job where ref like :like escape '!'")
  List<Named> jobsLike(String like);

  @SQL("select id, ref from dataset where id = any(:ids)")
  List<Named> datasetsById(Long[] ids);

  @SQL("select id, ref from job where id = any(:ids)")
  List<Named> jobsById(Long[] ids);
}
