package longthread.service.access;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/** At which OpenID Connect provider people may sign in, and what its groups may do here. */
@Component
class ProviderSettings {
  /** The roles from the strongest to the weakest; of several that a person has the first counts. */
  private static final List<Role> STRONGEST_FIRST =
      List.of(Role.ADMIN, Role.STEWARD, Role.AUDITOR, Role.READER, Role.LIMITED);

  private static final String EVERYBODY = "*";

  private record GroupRole(String group, Role role) {}

  private final String issuer;
  private final String client;
  private final String secret;
  private final List<String> scopes;
  private final String title;
  private final String nameClaim;
  private final String groupsClaim;
  private final List<GroupRole> roles;

  ProviderSettings(
      @Value("${longthread.provider.issuer:}") String issuer,
      @Value("${longthread.provider.client:}") String client,
      @Value("${longthread.provider.secret:}") String secret,
      @Value("${longthread.provider.scopes:openid profile email}") String scopes,
      @Value("${longthread.provider.title:single sign-on}") String title,
      @Value("${longthread.provider.name-claim:preferred_username}") String nameClaim,
      @Value("${longthread.provider.groups-claim:groups}") String groupsClaim,
      @Value("${longthread.provider.roles:}") String roles) {
    this.issuer = issuer.strip();
    this.client = client.strip();
    this.secret = secret.strip();
    this.scopes = Arrays.stream(scopes.strip().split("[\\s,]+")).toList();
    this.title = title.strip();
    this.nameClaim = nameClaim.strip();
    this.groupsClaim = groupsClaim.strip();
    this.roles = roles(roles);
    if (isSet() && (this.client.isEmpty() || this.roles.isEmpty())) {
      throw new IllegalArgumentException(
          "LONGTHREAD_OIDC_ISSUER is set; set LONGTHREAD_OIDC_CLIENT too, and with"
              + " LONGTHREAD_OIDC_ROLES what groups may do, such as data-stewards=steward;*=reader");
    }
  }

  private static List<GroupRole> roles(String text) {
    var roles = new ArrayList<GroupRole>();
    for (String pair : text.split(";")) {
      if (!pair.isBlank()) {
        int equals = pair.lastIndexOf('=');
        Role role =
            Role.of(equals < 0 ? "" : pair.substring(equals + 1).strip())
                .filter(STRONGEST_FIRST::contains)
                .orElseThrow(
                    () ->
                        new IllegalArgumentException(
                            "LONGTHREAD_OIDC_ROLES has '"
                                + pair.strip()
                                + "'; write group=role with reader, auditor, steward, admin or limited"));
        roles.add(new GroupRole(pair.substring(0, equals).strip(), role));
      }
    }
    return roles;
  }

  /** Whether people may sign in at a provider. */
  boolean isSet() {
    return !issuer.isEmpty();
  }

  String issuer() {
    return issuer;
  }

  String client() {
    return client;
  }

  /** Empty for a client without a secret, which PKCE alone protects. */
  String secret() {
    return secret;
  }

  List<String> scopes() {
    return scopes;
  }

  String title() {
    return title;
  }

  String nameClaim() {
    return nameClaim;
  }

  String groupsClaim() {
    return groupsClaim;
  }

  /** What members of some groups may do; empty if the mapping has nothing for them. */
  Optional<Role> roleOf(Collection<String> groups) {
    List<Role> theirs =
        roles.stream()
            .filter(one -> one.group().equals(EVERYBODY) || groups.contains(one.group()))
            .map(GroupRole::role)
            .toList();
    return STRONGEST_FIRST.stream().filter(theirs::contains).findFirst();
  }
}
