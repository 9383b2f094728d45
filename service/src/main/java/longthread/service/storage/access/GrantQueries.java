package longthread.service.storage.access;

import java.time.Instant;
import java.util.List;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Who may do what where, and which people are in which groups. */
@Repository
@Transactional
public interface GrantQueries {
  /** A role on a scope. */
  record Held(String role, String scopeKind, String scopeValue, @Nullable Instant expiresAt) {}

  /** A grant as it is listed. */
  record Row(
      long id,
      String holderKind,
      String holder,
      String role,
      String scopeKind,
      String scopeValue,
      String grantedBy,
      Instant grantedAt,
      @Nullable Instant expiresAt) {}

  /** A group. */
  record Group(String name, String title, Instant madeAt) {}

  /** An account in a group. */
  record Member(String groupName, String account, boolean byProvider) {}

  StatelessSession session();

  /** What a key holds. */
  @HQL(
      "select g.role, g.scopeKind, g.scopeValue, g.expiresAt from AccessGrant g"
          + " where g.holderKind = 'key' and g.holder = :name")
  List<Held> ofKey(String name);

  /** What an account holds, itself and by its groups. */
  @HQL(
      "select g.role, g.scopeKind, g.scopeValue, g.expiresAt from AccessGrant g"
          + " where (g.holderKind = 'account' and g.holder = :name) or (g.holderKind = 'group'"
          + " and g.holder in (select m.groupName from GroupMember m where m.account = :name))")
  List<Held> ofAccount(String name);

  @HQL(
      "select g.id, g.holderKind, g.holder, g.role, g.scopeKind, g.scopeValue, g.grantedBy,"
          + " g.grantedAt, g.expiresAt from AccessGrant g"
          + " order by g.holderKind, g.holder, g.scopeKind, g.scopeValue, g.role")
  List<Row> all();

  /** Adds a grant, or gives one that is there another end. */
  @SQL(
      "insert into access_grant as g (holder_kind, holder, role, scope_kind, scope_value,"
          + " granted_by, granted_at, expires_at) values (:holderKind, :holder, :role, :scopeKind,"
          + " :scopeValue, :by, :at, cast(:expiresAt as timestamptz))"
          + " on conflict (holder_kind, holder, role, scope_kind, scope_value)"
          + " do update set expires_at = excluded.expires_at, granted_by = excluded.granted_by,"
          + " granted_at = excluded.granted_at")
  int add(
      String holderKind,
      String holder,
      String role,
      String scopeKind,
      String scopeValue,
      String by,
      Instant at,
      @Nullable Instant expiresAt);

  @HQL("delete from AccessGrant g where g.id = :id")
  int delete(long id);

  @HQL("delete from AccessGrant g where g.holderKind = :holderKind and g.holder = :holder")
  int deleteAllOf(String holderKind, String holder);

  @HQL("select g.name, g.title, g.madeAt from AccessGroup g order by g.name")
  List<Group> groups();

  @HQL(
      "select m.groupName, m.account, m.byProvider from GroupMember m"
          + " order by m.groupName, m.account, m.byProvider")
  List<Member> members();

  /** Adds a group, or gives one that is there another title. */
  @SQL(
      "insert into access_group (name, title, made_at) values (:name, :title, :at)"
          + " on conflict (name) do update set title = excluded.title")
  int putGroup(String name, String title, Instant at);

  @HQL("delete from AccessGroup g where g.name = :name")
  int deleteGroup(String name);

  /** Puts an account into a group; returns 0 if it is in it. */
  @SQL(
      "insert into group_member (group_name, account, by_provider)"
          + " values (:groupName, :account, false) on conflict do nothing")
  int addMember(String groupName, String account);

  @HQL(
      "delete from GroupMember m where m.groupName = :groupName and m.account = :account"
          + " and m.byProvider = false")
  int removeMember(String groupName, String account);

  @HQL("delete from GroupMember m where m.account = :account and m.byProvider = true")
  int forgetProviderGroups(String account);

  /** Puts an account into those of a provider's groups that are listed here. */
  @SQL(
      "insert into group_member (group_name, account, by_provider)"
          + " select g.name, :account, true from access_group g where g.name = any(:groups)"
          + " on conflict do nothing")
  int addProviderGroups(String account, String[] groups);

  /** How many grants that have not ended the groups of these names hold. */
  @SQL(
      "select count(*) from access_grant g where g.holder_kind = 'group'"
          + " and g.holder = any(:groups) and (g.expires_at is null or g.expires_at > :now)")
  long heldBy(String[] groups, Instant now);
}
