package longthread.service.storage.facts;

import java.util.Collection;
import java.util.List;
import longthread.service.storage.Columns;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Whose SQL waits to be read again, because the time ran out for it. */
@Repository
@Transactional
public interface PendingSqlQueries {
  /** A job or view. */
  record Owner(short kind, long id) {
    public Subject subject() {
      return new Subject(SubjectKind.of(kind), id);
    }
  }

  StatelessSession session();

  @HQL("select p.ownerKind, p.ownerId from PendingSql p order by p.ownerKind, p.ownerId")
  List<Owner> all();

  default void add(Collection<Subject> owners) {
    if (!owners.isEmpty()) {
      insert(
          Columns.of(owners, Subject::kindCode, Short[]::new), Columns.longs(owners, Subject::id));
    }
  }

  @SQL("insert into pending_sql select * from unnest(:kinds, :owners) on conflict do nothing")
  int insert(Short[] kinds, Long[] owners);

  default void remove(Collection<Subject> owners) {
    if (!owners.isEmpty()) {
      delete(
          Columns.of(owners, Subject::kindCode, Short[]::new), Columns.longs(owners, Subject::id));
    }
  }

  @SQL(
      "delete from pending_sql where (owner_kind, owner_id)"
          + " in (select * from unnest(:kinds, :owners))")
  int delete(Short[] kinds, Long[] owners);
}
