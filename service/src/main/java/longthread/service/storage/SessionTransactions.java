package longthread.service.storage;

import jakarta.persistence.EntityManagerFactory;
import jakarta.persistence.PersistenceException;
import org.hibernate.SessionFactory;
import org.hibernate.StatelessSession;
import org.springframework.dao.DataAccessException;
import org.springframework.orm.jpa.JpaSystemException;
import org.springframework.orm.jpa.hibernate.HibernateExceptionTranslator;
import org.springframework.transaction.CannotCreateTransactionException;
import org.springframework.transaction.TransactionDefinition;
import org.springframework.transaction.support.AbstractPlatformTransactionManager;
import org.springframework.transaction.support.DefaultTransactionStatus;
import org.springframework.transaction.support.SmartTransactionObject;
import org.springframework.transaction.support.TransactionSynchronizationManager;

/**
 * Gives each transaction one stateless session, and each service method that only reads one session
 * without a transaction.
 *
 * <p>At the isolation that is used, read committed, every statement has a view of its own, so a
 * transaction around several reads gives no more than its statements do. Each read then commits
 * itself, which saves a round trip a request: about a fifth of a small answer. A cursor needs a
 * transaction: what streams is {@code @Transactional} without {@code readOnly}.
 */
final class SessionTransactions extends AbstractPlatformTransactionManager {
  private final transient SessionFactory factory;
  private final transient HibernateExceptionTranslator translator =
      new HibernateExceptionTranslator();

  SessionTransactions(EntityManagerFactory factory) {
    this.factory = factory.unwrap(SessionFactory.class);
  }

  /**
   * Returns the session of the current transaction or reading method.
   *
   * @throws IllegalStateException if there is none
   */
  Current current() {
    var current = (Current) TransactionSynchronizationManager.getResource(factory);
    if (current == null) {
      throw new IllegalStateException(
          "a query was called outside a transaction; annotate its interface or caller");
    }
    return current;
  }

  /** The session of a thread, and whether it may only read. */
  static final class Current {
    private final StatelessSession session;
    private final boolean readOnly;
    private boolean rollbackOnly;

    private Current(StatelessSession session, boolean readOnly) {
      this.session = session;
      this.readOnly = readOnly;
    }

    StatelessSession session() {
      return session;
    }

    boolean isReadOnly() {
      return readOnly;
    }
  }

  /** What Spring hands back to this manager: the thread's session, if it has one. */
  private static final class Handle implements SmartTransactionObject {
    private Current current;

    @Override
    public boolean isRollbackOnly() {
      return current != null && current.rollbackOnly;
    }
  }

  @Override
  protected Object doGetTransaction() {
    var handle = new Handle();
    handle.current = (Current) TransactionSynchronizationManager.getResource(factory);
    return handle;
  }

  @Override
  protected boolean isExistingTransaction(Object transaction) {
    return ((Handle) transaction).current != null;
  }

  @Override
  protected void doBegin(Object transaction, TransactionDefinition definition) {
    if (definition.getIsolationLevel() != TransactionDefinition.ISOLATION_DEFAULT
        && definition.getIsolationLevel() != TransactionDefinition.ISOLATION_READ_COMMITTED) {
      throw new IllegalArgumentException("only read committed is used here");
    }
    StatelessSession session = factory.openStatelessSession();
    try {
      if (!definition.isReadOnly()) {
        session.beginTransaction();
      }
    } catch (PersistenceException e) {
      session.close();
      throw new CannotCreateTransactionException("the database gave no transaction", e);
    }
    var current = new Current(session, definition.isReadOnly());
    ((Handle) transaction).current = current;
    TransactionSynchronizationManager.bindResource(factory, current);
  }

  @Override
  protected Object doSuspend(Object transaction) {
    ((Handle) transaction).current = null;
    return TransactionSynchronizationManager.unbindResource(factory);
  }

  @Override
  protected void doResume(Object transaction, Object suspended) {
    TransactionSynchronizationManager.bindResource(factory, suspended);
  }

  @Override
  protected void doCommit(DefaultTransactionStatus status) {
    Current current = ((Handle) status.getTransaction()).current;
    if (!current.readOnly) {
      try {
        current.session.getTransaction().commit();
      } catch (PersistenceException e) {
        throw translated(e);
      }
    }
  }

  @Override
  protected void doRollback(DefaultTransactionStatus status) {
    Current current = ((Handle) status.getTransaction()).current;
    if (!current.readOnly) {
      try {
        current.session.getTransaction().rollback();
      } catch (PersistenceException e) {
        throw translated(e);
      }
    }
  }

  @Override
  protected void doSetRollbackOnly(DefaultTransactionStatus status) {
    ((Handle) status.getTransaction()).current.rollbackOnly = true;
  }

  @Override
  protected void doCleanupAfterCompletion(Object transaction) {
    var handle = (Handle) transaction;
    TransactionSynchronizationManager.unbindResource(factory);
    handle.current.session.close();
    handle.current = null;
  }

  private DataAccessException translated(PersistenceException e) {
    DataAccessException translated = translator.translateExceptionIfPossible(e);
    return translated == null ? new JpaSystemException(e) : translated;
  }
}
