package longthread.service.storage;

import org.hibernate.boot.registry.StandardServiceRegistryBuilder;
import org.hibernate.bytecode.spi.BytecodeProvider;
import org.hibernate.service.spi.ServiceContributor;

/**
 * No entity is ever loaded lazily, so no classes are generated for them at start. Named in {@code
 * META-INF/services}; it relies on an internal class, which a new version of Hibernate may move.
 */
public final class NoBytecode implements ServiceContributor {
  @Override
  public void contribute(StandardServiceRegistryBuilder builder) {
    builder.addService(
        BytecodeProvider.class, new org.hibernate.bytecode.internal.none.BytecodeProviderImpl());
  }
}
