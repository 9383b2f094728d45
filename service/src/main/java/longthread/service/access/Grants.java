package longthread.service.access;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.stream.Stream;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.LabelScheme;
import longthread.service.live.Scope;
import longthread.service.live.Sight;
import longthread.service.live.Sights;
import longthread.service.storage.access.AccountQueries;
import longthread.service.storage.access.GrantQueries;
import longthread.service.storage.access.KeyQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Who holds which role on which part of the catalog: people, groups of people, and keys. */
@Service
class Grants {
  /** Who may hold a grant. */
  enum HolderKind {
    ACCOUNT,
    GROUP,
    KEY;

    String word() {
      return name().toLowerCase(Locale.ROOT);
    }
  }

  /**
   * A grant as it is listed.
   *
   * @param holderKind account, group or key
   * @param scope everything, system, workspace or label
   * @param value the name of the system or workspace, or the id of the label
   * @param expiresAt when it ends by itself; absent if never
   */
  record GrantRow(
      long id,
      String holderKind,
      String holder,
      String role,
      String scope,
      String value,
      String grantedBy,
      Instant grantedAt,
      @Nullable Instant expiresAt) {}

  /**
   * A group of people.
   *
   * @param members the accounts put into it here
   * @param fromProvider the accounts that the provider put into its group of this name
   */
  record ListedGroup(String name, String title, List<String> members, List<String> fromProvider) {}

  private static final List<Role> ON_PARTS = List.of(Role.READER, Role.STEWARD);
  private static final int MAX_TITLE = 200;
  private static final int MAX_NAMED = 12; // values that a message lists

  private final GrantQueries stored;
  private final AccountQueries accounts;
  private final KeyQueries keys;
  private final Sights sights;
  private final Catalog catalog;
  private final LabelScheme scheme;
  private final Clock clock;
  private final List<Runnable> onChange = new CopyOnWriteArrayList<>();

  Grants(
      GrantQueries stored,
      AccountQueries accounts,
      KeyQueries keys,
      Sights sights,
      Catalog catalog,
      LabelScheme scheme,
      Clock clock) {
    this.stored = stored;
    this.accounts = accounts;
    this.keys = keys;
    this.sights = sights;
    this.catalog = catalog;
    this.scheme = scheme;
    this.clock = clock;
  }

  /** Adds what is to be done when somebody's grants have changed. */
  void onChange(Runnable listener) {
    onChange.add(listener);
  }

  private void changed() {
    onChange.forEach(Runnable::run);
  }

  // ------------------------------------------------------------------ what somebody holds

  /** What an account with a role of its own may do, its grants and those of its groups added. */
  Held ofAccount(String name, Role own) {
    return Held.of(own, parts(stored.ofAccount(name)));
  }

  /** What a key with a role of its own may do. */
  Held ofKey(String name, Role own) {
    return Held.of(own, parts(stored.ofKey(name)));
  }

  private List<Held.Part> parts(List<GrantQueries.Held> rows) {
    Instant now = clock.instant();
    return rows.stream()
        .filter(row -> row.expiresAt() == null || row.expiresAt().isAfter(now))
        .map(
            row ->
                new Held.Part(
                    Role.of(row.role()).orElseThrow(),
                    new Scope(Scope.Kind.of(row.scopeKind()).orElseThrow(), row.scopeValue())))
        .toList();
  }

  /** What somebody may see, for one request. */
  Sight of(Held held) {
    return sights.of(held.reads(), held.edits());
  }

  // ------------------------------------------------------------------ grants

  List<GrantRow> list(@Nullable String holderKind, @Nullable String holder) {
    String kind = holderKind == null ? null : kind(holderKind).word();
    return stored.all().stream()
        .filter(row -> kind == null || row.holderKind().equals(kind))
        .filter(row -> holder == null || row.holder().equals(holder))
        .map(
            row ->
                new GrantRow(
                    row.id(),
                    row.holderKind(),
                    row.holder(),
                    row.role(),
                    row.scopeKind(),
                    row.scopeValue(),
                    row.grantedBy(),
                    row.grantedAt(),
                    row.expiresAt()))
        .toList();
  }

  /**
   * Gives a role on a part of the catalog; of a grant that is there, the end is set anew.
   *
   * @throws ProblemException if there is no such holder, role, scope or value
   */
  @Transactional
  GrantRow give(
      @Nullable String holderKind,
      @Nullable String holder,
      @Nullable String role,
      @Nullable String scope,
      @Nullable String value,
      @Nullable Instant until,
      String by) {
    HolderKind kind = kind(holderKind);
    String name = existing(kind, holder);
    Scope where = scope(scope, value);
    Role what = role(role, where);
    if (until != null && !until.isAfter(clock.instant())) {
      throw ProblemException.badRequest(
          "bad-expiry", "the grant would have ended " + until + "; give a time to come");
    }
    stored.add(
        kind.word(),
        name,
        what.word(),
        where.kind().word(),
        where.value(),
        by,
        clock.instant(),
        until);
    changed();
    return list(kind.word(), name).stream()
        .filter(row -> row.role().equals(what.word()))
        .filter(row -> row.scope().equals(where.kind().word()))
        .filter(row -> row.value().equals(where.value()))
        .findFirst()
        .orElseThrow();
  }

  /** Ends a grant; returns what it was. */
  GrantRow end(long id) {
    GrantRow ended =
        list(null, null).stream()
            .filter(row -> row.id() == id)
            .findFirst()
            .orElseThrow(
                () ->
                    new ProblemException(
                        HttpStatus.NOT_FOUND,
                        "unknown-grant",
                        "There is no such grant",
                        "no grant has the id " + id + "; GET /api/v1/grants lists them"));
    stored.delete(id);
    changed();
    return ended;
  }

  /** Ends what a holder holds who is no more. */
  void endAllOf(HolderKind kind, String holder) {
    stored.deleteAllOf(kind.word(), holder);
    changed();
  }

  private static HolderKind kind(@Nullable String word) {
    return Stream.of(HolderKind.values())
        .filter(kind -> kind.word().equals(word))
        .findFirst()
        .orElseThrow(
            () ->
                ProblemException.badRequest(
                    "unknown-word",
                    "'" + word + "' cannot hold a grant; use account, group or key"));
  }

  private String existing(HolderKind kind, @Nullable String holder) {
    String name = holder == null ? "" : holder;
    boolean isThere =
        switch (kind) {
          case ACCOUNT -> accounts.named(name).isPresent();
          case GROUP -> stored.groups().stream().anyMatch(group -> group.name().equals(name));
          case KEY ->
              keys.keys().stream()
                  .anyMatch(key -> key.name().equals(name) && key.revokedAt() == null);
        };
    if (!isThere) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-" + kind.word(),
          "There is no such " + kind.word(),
          "no " + kind.word() + " is named '" + name + "'; make it first");
    }
    return name;
  }

  private static Role role(@Nullable String word, Scope scope) {
    Role role = Role.checked(word);
    boolean isWhole = scope.kind() == Scope.Kind.EVERYTHING;
    if (role == Role.LIMITED || (!isWhole && !ON_PARTS.contains(role))) {
      throw ProblemException.badRequest(
          "bad-grant",
          "'"
              + role.word()
              + "' cannot be granted on "
              + (isWhole ? "everything" : "a part of the catalog")
              + "; "
              + (isWhole
                  ? "use reader, auditor, steward, emitter or admin"
                  : "use reader or steward, or grant it on everything"));
    }
    return role;
  }

  /** A scope as given; names that the catalog does not have are most often slips. */
  private Scope scope(@Nullable String word, @Nullable String value) {
    Scope.Kind kind =
        Scope.Kind.of(word == null ? "" : word)
            .orElseThrow(
                () ->
                    ProblemException.badRequest(
                        "unknown-word",
                        "'" + word + "' is no scope; use everything, system, workspace or label"));
    String given = value == null ? "" : value.strip();
    return switch (kind) {
      case EVERYTHING -> Scope.EVERYTHING;
      case SYSTEM -> known(kind, given, catalog.all().stream().map(Asset::system));
      case WORKSPACE ->
          known(
              kind,
              given,
              catalog.all().stream().map(Sights::workspaceOf).flatMap(Stream::ofNullable));
      case LABEL -> new Scope(kind, scheme.named(given).id());
    };
  }

  private static Scope known(Scope.Kind kind, String value, Stream<String> values) {
    var names = new TreeSet<String>();
    values.forEach(names::add);
    if (!names.contains(value)) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-" + kind.word(),
          "There is no such " + kind.word(),
          "nothing in the catalog is in the "
              + kind.word()
              + " '"
              + value
              + "'; it has "
              + String.join(", ", names.stream().limit(MAX_NAMED).toList())
              + (names.size() > MAX_NAMED ? " and " + (names.size() - MAX_NAMED) + " more" : ""));
    }
    return new Scope(kind, value);
  }

  // ------------------------------------------------------------------ groups

  List<ListedGroup> groups() {
    var here = new TreeMap<String, List<String>>();
    var provided = new TreeMap<String, List<String>>();
    for (GrantQueries.Member member : stored.members()) {
      (member.byProvider() ? provided : here)
          .computeIfAbsent(member.groupName(), k -> new ArrayList<>())
          .add(member.account());
    }
    return stored.groups().stream()
        .map(
            group ->
                new ListedGroup(
                    group.name(),
                    group.title(),
                    here.getOrDefault(group.name(), List.of()),
                    provided.getOrDefault(group.name(), List.of())))
        .toList();
  }

  /** Makes a group, or gives one another title. */
  ListedGroup putGroup(@Nullable String given, @Nullable String title) {
    String name = HolderNames.checked(given);
    String shown = title == null || title.isBlank() ? name : title.strip();
    if (shown.length() > MAX_TITLE || shown.chars().anyMatch(c -> c < ' ' || c == 0x7F)) {
      throw ProblemException.badRequest(
          "bad-name",
          "a title has at most "
              + MAX_TITLE
              + " characters and no control characters; give such a title");
    }
    stored.putGroup(name, shown, clock.instant());
    return group(name);
  }

  /** Removes a group with what it holds. */
  @Transactional
  void deleteGroup(String name) {
    group(name);
    stored.deleteAllOf(HolderKind.GROUP.word(), name);
    stored.deleteGroup(name);
    changed();
  }

  ListedGroup addMember(@Nullable String group, @Nullable String account) {
    String name = group(group == null ? "" : group).name();
    stored.addMember(name, existing(HolderKind.ACCOUNT, account));
    changed();
    return group(name);
  }

  ListedGroup removeMember(String group, String account) {
    String name = group(group).name();
    if (stored.removeMember(name, account) == 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-member",
          "There is no such member",
          "'"
              + account
              + "' was not put into the group '"
              + name
              + "' here; members that the provider says are changed there");
    }
    changed();
    return group(name);
  }

  private ListedGroup group(String name) {
    return groups().stream()
        .filter(group -> group.name().equals(name))
        .findFirst()
        .orElseThrow(
            () ->
                new ProblemException(
                    HttpStatus.NOT_FOUND,
                    "unknown-group",
                    "There is no such group",
                    "no group is named '" + name + "'; GET /api/v1/groups lists them"));
  }

  // ------------------------------------------------------------------ groups of a provider

  /** Whether some groups hold a grant, so that their members may sign in without a role. */
  boolean areHeldBy(Collection<String> groups) {
    return stored.heldBy(groups.toArray(String[]::new), clock.instant()) > 0;
  }

  /** Sets in which of a provider's groups an account is, as far as they are listed here. */
  @Transactional
  void setProviderGroups(String account, Collection<String> groups) {
    stored.forgetProviderGroups(account);
    stored.addProviderGroups(account, groups.toArray(String[]::new));
    changed();
  }

  /** What an account or a key holds now, for itself to see. */
  List<GrantRow> heldBy(String name, boolean isKey) {
    Instant now = clock.instant();
    return (isKey ? list(HolderKind.KEY.word(), name) : heldBy(name))
        .stream().filter(row -> row.expiresAt() == null || row.expiresAt().isAfter(now)).toList();
  }

  private List<GrantRow> heldBy(String account) {
    List<String> groups =
        groups().stream()
            .filter(g -> g.members().contains(account) || g.fromProvider().contains(account))
            .map(ListedGroup::name)
            .toList();
    return list(null, null).stream()
        .filter(
            row ->
                (row.holderKind().equals(HolderKind.ACCOUNT.word()) && row.holder().equals(account))
                    || (row.holderKind().equals(HolderKind.GROUP.word())
                        && groups.contains(row.holder())))
        .toList();
  }
}
