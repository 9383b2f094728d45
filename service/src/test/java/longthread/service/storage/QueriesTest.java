package longthread.service.storage;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assertions.assertAll;

import java.lang.reflect.Array;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.locks.LockSupport;
import java.util.function.Consumer;
import java.util.stream.Stream;
import longthread.service.storage.graph.HeadQueries;
import longthread.service.storage.rebuild.CatalogQuery;
import longthread.service.storage.rebuild.CatalogSchemas;
import longthread.service.storage.runs.RunSearch;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.function.Executable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Asks every query once, with empty arrays and zeros: what PostgreSQL or the record of the answer
 * does not accept fails here. The mappings are validated against the migrated schema whenever the
 * service of the tests starts.
 */
@ExtendWith(RunningService.Extension.class)
class QueriesTest {
  /** They need more than zeros, and have tests of their own. */
  private static final List<String> NOT_CALLED =
      List.of(
          "session", "createNext", "switchToNext", "notRebuilt", "markRebuilt", "tryLock", "open");

  private RunningService service;

  @BeforeEach
  void useService(RunningService running) {
    service = running;
  }

  private Collection<Object> queries() {
    return service.beans(Repository.class).values();
  }

  private static List<Method> methods(Object queries) {
    Class<?> type = queries.getClass();
    while (type.getName().contains("$$")) {
      type = type.getSuperclass();
    }
    Class<?> declared = type.getInterfaces().length > 0 ? type.getInterfaces()[0] : type;
    return Arrays.stream(declared.getDeclaredMethods())
        .filter(method -> Modifier.isPublic(method.getModifiers()))
        .filter(method -> !Modifier.isStatic(method.getModifiers()))
        .filter(method -> !NOT_CALLED.contains(method.getName()))
        .toList();
  }

  @Test
  void every_query_is_accepted_by_the_database() {
    var calls = new ArrayList<Executable>();
    for (Object queries : queries()) {
      for (Method method : methods(queries)) {
        calls.add(() -> call(queries, method));
      }
    }
    assertThat(calls).hasSizeGreaterThan(120);
    assertAll("queries", calls);
  }

  private void call(Object queries, Method method) throws Exception {
    var transactions = service.bean(TransactionTemplate.class);
    Object[] arguments =
        Arrays.stream(method.getGenericParameterTypes()).map(QueriesTest::sample).toArray();
    Exception failure =
        transactions.execute(
            status -> {
              status.setRollbackOnly();
              try {
                method.invoke(queries, arguments);
                return null;
              } catch (InvocationTargetException e) {
                return expected(e.getCause())
                    ? null
                    : new IllegalStateException(method.toString(), e.getCause());
              } catch (IllegalAccessException e) {
                return e;
              }
            });
    if (failure != null) {
      throw failure;
    }
  }

  /**
   * A query for one row that must be there finds none for a zero; and a row of samples may refer to
   * others that are not there, which the database finds out only after it took the query.
   */
  private static boolean expected(Throwable failure) {
    return failure.getClass().getSimpleName().startsWith("EmptyResult")
        || failure instanceof org.springframework.dao.DataIntegrityViolationException;
  }

  private static Object sample(java.lang.reflect.Type generic) {
    Class<?> type =
        generic instanceof Class<?> plain
            ? plain
            : (Class<?>) ((java.lang.reflect.ParameterizedType) generic).getRawType();
    if (type.isArray()) {
      return Array.newInstance(type.getComponentType(), 0);
    }
    if (type == RunSearch.Filter.class) {
      return new RunSearch.Filter(
          "@n/j", "@n/p", "failed", "n", UUID.randomUUID(), Instant.EPOCH, true);
    }
    return switch (type.getSimpleName()) {
      case "long" -> 0L;
      case "int", "Integer" -> 0;
      case "short" -> (short) 1;
      case "boolean" -> false;
      case "String" -> "catalog";
      case "Instant" -> Instant.EPOCH;
      case "LocalDate" -> java.time.LocalDate.EPOCH;
      case "UUID" -> new UUID(0, 0);
      case "Collection" -> List.of();
      case "List" -> List.of("a", "b");
      case "Map" -> Map.of();
      case "Consumer" -> (Consumer<Object>) row -> {};
      case "CatalogQuery" -> CatalogQuery.LINKS;
      default -> throw new IllegalArgumentException("no sample of " + type);
    };
  }

  @Test
  void every_comparison_of_catalogs_can_be_asked_of_a_schema() {
    var schemas = service.bean(CatalogSchemas.class);
    var transactions = service.bean(TransactionTemplate.class);
    List<String> sums =
        transactions.execute(
            status ->
                Stream.of(CatalogQuery.values())
                    .map(query -> schemas.sum(CatalogSchemas.LIVE, query))
                    .toList());
    assertThat(sums).hasSameSizeAs(CatalogQuery.values()).allMatch(sum -> sum.contains(" "));
  }

  @Test
  void a_lock_belongs_to_one_connection_and_is_lost_with_it() {
    var sessions = service.bean(DedicatedSessions.class);
    long key = System.nanoTime();
    DedicatedSession first = sessions.forCatalog(CatalogSchemas.LIVE);
    try (DedicatedSession second = sessions.forCatalog(CatalogSchemas.LIVE)) {
      HeadQueries head = second.stores().head();
      assertThat(first.call(() -> first.stores().head().tryLock(key))).isTrue();
      assertThat(second.call(() -> head.tryLock(key))).isFalse();
      first.close();
      assertThat(first.isAlive()).isFalse();
      // The server lets go of it when it notices that the connection is gone.
      boolean locked = false;
      for (int tries = 0; !locked && tries < 200; tries++) {
        LockSupport.parkNanos(50_000_000);
        locked = second.call(() -> head.tryLock(key));
      }
      assertThat(locked).isTrue();
    }
  }
}
