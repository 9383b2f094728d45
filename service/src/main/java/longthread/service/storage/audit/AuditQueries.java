package longthread.service.storage.audit;

import java.time.Instant;
import java.util.List;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Entries of the audit log: added, listed, and dropped when they are older than is kept. */
@Repository
@Transactional
public interface AuditQueries {
  /** An entry; {@code times} counts equal refusals within a minute. */
  record Entry(
      long id,
      Instant at,
      String who,
      String role,
      boolean byKey,
      String address,
      String action,
      String about,
      String outcome,
      String detail,
      int times) {}

  StatelessSession session();

  @SQL(
      "insert into audit_entry (at, who, role, by_key, address, action, about, outcome, detail,"
          + " times) values (:at, :who, :role, :byKey, :address, :action, :about, :outcome, :detail,"
          + " :times)")
  int add(
      Instant at,
      String who,
      String role,
      boolean byKey,
      String address,
      String action,
      String about,
      String outcome,
      String detail,
      int times);

  /**
   * Entries before one, the newest first. An empty text leaves a condition out; {@code about} is a
   * pattern of LIKE.
   */
  @SQL(
      "select id, at, who, role, by_key, address, action, about, outcome, detail, times"
          + " from audit_entry where id < :before and at >= :since and at < :until"
          + " and (:who = '' or who = :who) and (:action = '' or action = :action)"
          + " and (:outcome = '' or outcome = :outcome) and (:about = '' or about ilike :about)"
          + " order by id desc limit :most")
  List<Entry> before(
      long before,
      Instant since,
      Instant until,
      String who,
      String action,
      String outcome,
      String about,
      int most);

  /** The actions there are entries of. */
  @SQL("select distinct action from audit_entry order by action")
  List<String> actions();

  /** Lets the sweep drop rows until the transaction ends. */
  @SQL("select set_config('longthread.audit_sweep', 'on', true)")
  List<String> allowSweep();

  @SQL("delete from audit_entry where at < :before")
  int deleteBefore(Instant before);
}
