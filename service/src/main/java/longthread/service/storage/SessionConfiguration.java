package longthread.service.storage;

import jakarta.persistence.EntityManagerFactory;
import org.hibernate.SessionFactory;
import org.hibernate.StatelessSession;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.orm.jpa.hibernate.SharedSessionCreator;

/** The session that the query interfaces use: always that of the current transaction. */
@Configuration
class SessionConfiguration {
  @Bean
  StatelessSession statelessSession(EntityManagerFactory factory) {
    return SharedSessionCreator.createSharedStatelessSession(factory.unwrap(SessionFactory.class));
  }
}
