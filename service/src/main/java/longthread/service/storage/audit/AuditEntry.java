package longthread.service.storage.audit;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: something that was done or refused; never changed. */
@Entity
@Table(schema = "public", name = "audit_entry")
class AuditEntry {
  @Id
  @GeneratedValue(strategy = GenerationType.IDENTITY)
  Long id;

  Instant at;
  String who;
  String role;
  boolean byKey;
  String address;
  String action;
  String about;
  String outcome;
  String detail;
  int times;
}
