package longthread.service.storage;

import jakarta.persistence.PersistenceException;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.function.Supplier;
import org.hibernate.HibernateException;
import org.hibernate.StatelessSession;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.orm.jpa.JpaSystemException;
import org.springframework.orm.jpa.hibernate.HibernateExceptionTranslator;

/**
 * A session on a connection of its own. What the connection holds, such as an advisory lock, is
 * lost together with it. For one thread.
 */
public final class DedicatedSession implements AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(DedicatedSession.class);
  private static final int ALIVE_SECONDS = 2;

  private final Connection connection;
  private final StatelessSession session;
  private final Stores stores;
  private final HibernateExceptionTranslator translator = new HibernateExceptionTranslator();

  DedicatedSession(Connection connection, StatelessSession session) {
    this.connection = connection;
    this.session = session;
    this.stores = Stores.over(session);
  }

  /** The queries, which run on this connection. */
  public Stores stores() {
    return stores;
  }

  /**
   * Does work in a transaction, committed when it returns and rolled back when it throws.
   *
   * @throws DataAccessException if the database refuses a statement or does not answer
   */
  public <T> T inTransaction(Supplier<T> work) {
    try {
      return session.fromTransaction(transaction -> work.get());
    } catch (HibernateException e) {
      throw translated(e);
    }
  }

  /** Does work in a transaction, as the other method does. */
  public void inTransaction(Runnable work) {
    inTransaction(
        () -> {
          work.run();
          return true;
        });
  }

  /**
   * Does one query outside a transaction: it commits itself.
   *
   * @throws DataAccessException if the database refuses it or does not answer
   */
  public <T> T call(Supplier<T> query) {
    try {
      return query.get();
    } catch (HibernateException e) {
      throw translated(e);
    }
  }

  private DataAccessException translated(PersistenceException e) {
    DataAccessException translated = translator.translateExceptionIfPossible(e);
    return translated == null ? new JpaSystemException(e) : translated;
  }

  /** Whether the database still answers on this connection. */
  public boolean isAlive() {
    try {
      return connection.isValid(ALIVE_SECONDS);
    } catch (SQLException e) {
      return false;
    }
  }

  /** Ends the connection at once, whatever its thread waits for. Safe to call from any thread. */
  public void cut() {
    try {
      connection.abort(Runnable::run);
    } catch (SQLException e) {
      LOG.debug("a connection could not be cut: {}", e.getMessage());
    }
  }

  void set(String statement) {
    try (var set = connection.createStatement()) {
      set.execute(statement);
    } catch (SQLException e) {
      throw new IllegalStateException("the setting was refused: " + statement, e);
    }
  }

  @Override
  public void close() {
    try {
      session.close();
      connection.close();
    } catch (SQLException | HibernateException e) {
      LOG.debug("a connection did not close: {}", e.getMessage());
    }
  }
}
