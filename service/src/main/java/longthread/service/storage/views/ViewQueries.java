package longthread.service.storage.views;

import java.time.Instant;
import java.util.List;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Saved views. */
@Repository
@Transactional
public interface ViewQueries {
  /** A view as it is listed; its settings as JSON. */
  record View(
      String owner,
      String name,
      boolean shared,
      String settings,
      String[] defaultFor,
      Instant changedAt) {}

  StatelessSession session();

  /** The views that somebody may use: their own and those that are shared. */
  @SQL(
      "select owner, name, shared, settings, default_for, changed_at from saved_view"
          + " where owner = :owner or shared order by name, owner")
  List<View> visibleTo(String owner);

  /** Saves a view, in the place of the owner's one of that name. */
  @SQL(
      "insert into saved_view (owner, name, shared, settings, default_for, changed_at)"
          + " values (:owner, :name, :shared, :settings, :defaultFor, :at)"
          + " on conflict (owner, name) do update set shared = excluded.shared,"
          + " settings = excluded.settings, default_for = excluded.default_for,"
          + " changed_at = excluded.changed_at")
  int save(
      String owner, String name, boolean shared, String settings, String[] defaultFor, Instant at);

  @HQL("delete from SavedView v where v.owner = :owner and v.name = :name")
  int delete(String owner, String name);

  @SQL("select count(*) from saved_view where owner = :owner")
  long count(String owner);
}
