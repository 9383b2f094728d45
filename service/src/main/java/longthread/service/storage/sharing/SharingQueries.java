package longthread.service.storage.sharing;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Links to the state of one report, tickets, and what people looked at. */
@Repository
@Transactional
public interface SharingQueries {
  /** A link; what opens it is kept as a hash only. */
  record Link(
      String id,
      String ref,
      String madeBy,
      Instant madeAt,
      Instant until,
      @Nullable Instant revokedAt) {}

  /** A ticket that was opened from here. */
  record Ticket(
      String id,
      String address,
      String title,
      String ref,
      @Nullable String notice,
      String openedBy,
      Instant openedAt,
      @Nullable Instant closedAt,
      @Nullable String outcome) {}

  /** Something that a person looked at, or means to look at later. */
  record Step(String person, String ref, Instant at, boolean later, @Nullable String note) {}

  StatelessSession session();

  // ------------------------------------------------------------------ links

  @SQL(
      "insert into share_link (id, hash, ref, made_by, made_at, until) values (:id, :hash, :ref,"
          + " :by, :at, :until)")
  int addLink(String id, byte[] hash, String ref, String by, Instant at, Instant until);

  /** The links that were made, the newest first. */
  @SQL(
      "select id, ref, made_by, made_at, until, revoked_at from share_link"
          + " order by made_at desc, id")
  List<Link> links();

  /** The link that a secret opens, if it has not ended and its maker is not disabled. */
  @SQL(
      "select id, ref, made_by, made_at, until, revoked_at from share_link where hash = :hash"
          + " and until > :now and revoked_at is null and not exists (select 1 from account a"
          + " where a.name = made_by and a.disabled_at is not null)")
  Optional<Link> open(byte[] hash, Instant now);

  @SQL("update share_link set revoked_at = :at where id = :id and revoked_at is null")
  int revoke(String id, Instant at);

  // ------------------------------------------------------------------ tickets

  @SQL(
      "insert into ticket (id, address, title, ref, notice, opened_by, opened_at) values (:id,"
          + " :address, :title, :ref, nullif(:notice, ''), :by, :at) on conflict do nothing")
  int addTicket(
      String id, String address, String title, String ref, String notice, String by, Instant at);

  /** Tickets, the newest first. */
  @SQL(
      "select id, address, title, ref, notice, opened_by, opened_at, closed_at, outcome"
          + " from ticket order by opened_at desc, id")
  List<Ticket> tickets();

  @SQL(
      "update ticket set closed_at = :at, outcome = nullif(:outcome, '') where id = :id"
          + " and closed_at is null")
  int closeTicket(String id, String outcome, Instant at);

  // ------------------------------------------------------------------ what people looked at

  @SQL(
      "insert into trail_step (person, ref, at, later, note) values (:person, :ref, :at, :later,"
          + " nullif(:note, '')) on conflict (person, ref, later) do update"
          + " set at = excluded.at, note = excluded.note")
  int step(String person, String ref, Instant at, boolean later, String note);

  @SQL("delete from trail_step where person = :person and ref = :ref and later")
  int noLongerLater(String person, String ref);

  /** What somebody looked at, the newest first. */
  @SQL(
      "select person, ref, at, later, note from trail_step where person = :person"
          + " order by at desc, ref limit :most")
  List<Step> trail(String person, int most);

  @SQL(
      "delete from trail_step where person = :person and not later and ref in (select ref"
          + " from trail_step where person = :person and not later order by at desc"
          + " offset :most)")
  int keepNewest(String person, int most);

  @SQL("insert into trail_sharing (person) values (:person) on conflict do nothing")
  int share(String person);

  @SQL("delete from trail_sharing where person = :person")
  int unshare(String person);

  /** Who lets others see their trail. */
  @SQL("select person from trail_sharing order by person")
  List<String> sharing();
}
