package longthread.service.testing;

import java.util.ArrayList;
import java.util.List;
import org.hibernate.resource.jdbc.spi.StatementInspector;

/**
 * Notes the statements that the applier prepares; Hibernate makes it by its name in the settings.
 */
public final class StatementCount implements StatementInspector {
  private static final long serialVersionUID = 1;
  private static final List<String> APPLIER = new ArrayList<>();

  @Override
  public String inspect(String sql) {
    if (Thread.currentThread().getName().equals("log-applier")) {
      synchronized (APPLIER) {
        APPLIER.add(sql);
      }
    }
    return sql;
  }

  /** What the applier prepared since the last call. */
  public static List<String> take() {
    synchronized (APPLIER) {
      List<String> taken = List.copyOf(APPLIER);
      APPLIER.clear();
      return taken;
    }
  }
}
