package longthread.service.access;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;

/** A person who signs in to the console. */
@Entity
class Account {
  @Id private String name;
  private String displayName;
  private String passwordHash;
  private String role;

  @SuppressWarnings("NullAway.Init")
  protected Account() {}

  Account(String name, String displayName, String passwordHash, Role role) {
    this.name = name;
    this.displayName = displayName;
    this.passwordHash = passwordHash;
    this.role = role.word();
  }

  String name() {
    return name;
  }

  String displayName() {
    return displayName;
  }

  String passwordHash() {
    return passwordHash;
  }

  Role role() {
    return Role.of(role).orElseThrow();
  }
}
