package longthread.service.storage.access;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.io.Serializable;

/** One row: an account in a group. */
@Entity
@Table(schema = "public", name = "group_member")
@IdClass(GroupMember.Key.class)
class GroupMember {
  @Id String groupName;
  @Id String account;
  @Id boolean byProvider;

  /** What makes a row one. */
  record Key(String groupName, String account, boolean byProvider) implements Serializable {}
}
