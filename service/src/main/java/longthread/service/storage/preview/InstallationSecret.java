package longthread.service.storage.preview;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;

/** One row: random bytes that all replicas share. */
@Entity
@Table(schema = "public", name = "installation_secret")
class InstallationSecret {
  @Id String name;
  byte[] value;
}
