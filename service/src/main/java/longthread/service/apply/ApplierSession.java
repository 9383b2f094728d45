package longthread.service.apply;

import io.micrometer.core.instrument.MeterRegistry;
import java.util.function.Supplier;
import longthread.core.sql.SqlReader;
import longthread.service.storage.DedicatedSession;
import longthread.service.storage.DedicatedSessions;
import longthread.service.storage.Stores;
import org.springframework.stereotype.Component;

/**
 * All that applies events to a catalog, over one connection of its own. What that holds, such as
 * the advisory lock, is lost together with it.
 */
public final class ApplierSession implements AutoCloseable {
  private final DedicatedSession session;
  private final CatalogWriter catalog;
  private final EmitterWriter emitters;
  private final StageTimer stages;

  private ApplierSession(DedicatedSession session, SqlReader reader, MeterRegistry meters) {
    this.session = session;
    stages = new StageTimer(meters);
    catalog = new CatalogWriter(session.stores(), reader, stages);
    emitters = new EmitterWriter(session.stores().emitters());
  }

  /** Opens sessions on the catalog of a schema. */
  @Component
  public static final class Factory {
    private final DedicatedSessions sessions;
    private final SqlReader reader;
    private final MeterRegistry meters;

    Factory(DedicatedSessions sessions, SqlReader reader, MeterRegistry meters) {
      this.sessions = sessions;
      this.reader = reader;
      this.meters = meters;
    }

    /**
     * Connects.
     *
     * @param schema whose catalog it works on
     * @throws org.springframework.dao.DataAccessException if the database cannot be reached
     */
    public ApplierSession open(String schema) {
      return new ApplierSession(sessions.forCatalog(schema), reader, meters);
    }
  }

  public Stores stores() {
    return session.stores();
  }

  public CatalogWriter catalog() {
    return catalog;
  }

  EmitterWriter emitters() {
    return emitters;
  }

  StageTimer stages() {
    return stages;
  }

  /** Does work in a transaction; see {@link DedicatedSession#inTransaction(Supplier)}. */
  public <T> T inTransaction(Supplier<T> work) {
    return session.inTransaction(work);
  }

  /** Does work in a transaction. */
  public void inTransaction(Runnable work) {
    session.inTransaction(work);
  }

  /** Does queries outside a transaction. */
  public <T> T call(Supplier<T> query) {
    return session.call(query);
  }

  boolean isAlive() {
    return session.isAlive();
  }

  /** Ends the connection from another thread; what is done with it fails. */
  void cut() {
    session.cut();
  }

  @Override
  public void close() {
    session.close();
  }
}
