package longthread.service.storage;

import jakarta.persistence.EntityManagerFactory;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.util.regex.Pattern;
import org.hibernate.StatelessSession;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** The session that the query interfaces use: always that of the current transaction. */
@Configuration
class SessionConfiguration {
  private static final Pattern CHANGES =
      Pattern.compile("create(Native)?MutationQuery|(insert|update|upsert|delete).*");

  @Bean
  SessionTransactions transactionManager(EntityManagerFactory factory) {
    return new SessionTransactions(factory);
  }

  /** A change in a method that only reads would commit itself, so it is refused. */
  @Bean(destroyMethod = "")
  StatelessSession statelessSession(SessionTransactions transactions) {
    return (StatelessSession)
        Proxy.newProxyInstance(
            StatelessSession.class.getClassLoader(),
            new Class<?>[] {StatelessSession.class},
            (proxy, method, arguments) -> invoke(transactions, proxy, method, arguments));
  }

  private static Object invoke(
      SessionTransactions transactions, Object proxy, Method method, Object[] arguments)
      throws Throwable {
    switch (method.getName()) {
      case "equals" -> {
        return proxy == arguments[0];
      }
      case "hashCode" -> {
        return System.identityHashCode(proxy);
      }
      case "toString" -> {
        return "the session of the current transaction";
      }
      default -> {
        SessionTransactions.Current current = transactions.current();
        if (current.isReadOnly() && CHANGES.matcher(method.getName()).matches()) {
          throw new IllegalStateException("a change was asked for in a method that only reads");
        }
        try {
          return method.invoke(current.session(), arguments);
        } catch (InvocationTargetException e) {
          throw e.getCause();
        }
      }
    }
  }
}
