package longthread.service.storage;

import org.hibernate.StatelessSession;
import org.postgresql.PGConnection;

/** Has the driver ask for results in binary form from the first time a statement is made. */
public final class BinaryResults {
  private static final int ALWAYS = -1;

  private BinaryResults() {}

  /** Returns after how many times the connection did so until now. */
  public static int always(StatelessSession session) {
    return session.doReturningWork(
        connection -> {
          PGConnection driver = connection.unwrap(PGConnection.class);
          int usual = driver.getPrepareThreshold();
          driver.setPrepareThreshold(ALWAYS);
          return usual;
        });
  }

  public static void after(StatelessSession session, int times) {
    session.doWork(connection -> connection.unwrap(PGConnection.class).setPrepareThreshold(times));
  }
}
