package longthread.service.storage;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import longthread.service.storage.log.RecentEventQueries;
import longthread.service.testing.RunningService;
import org.hibernate.StatelessSession;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.UnexpectedRollbackException;
import org.springframework.transaction.support.TransactionTemplate;

@ExtendWith(RunningService.Extension.class)
class SessionTransactionsTest {
  private RecentEventQueries counters;
  private StatelessSession session;
  private TransactionTemplate writing;
  private TransactionTemplate reading;

  @BeforeEach
  void useService(RunningService service) {
    counters = service.bean(RecentEventQueries.class);
    session = service.bean(StatelessSession.class);
    var manager = service.bean(PlatformTransactionManager.class);
    writing = new TransactionTemplate(manager);
    reading = new TransactionTemplate(manager);
    reading.setReadOnly(true);
  }

  private long duplicates() {
    return counters.totals().duplicates();
  }

  private void countDuplicate(int by) {
    counters.count(0, 0, by);
  }

  @Test
  void a_change_that_throws_is_taken_back() {
    long before = duplicates();
    assertThatThrownBy(
            () ->
                writing.executeWithoutResult(
                    status -> {
                      countDuplicate(1_000_000);
                      throw new IllegalStateException("after the change");
                    }))
        .hasMessage("after the change");
    assertThat(duplicates()).isLessThan(before + 1_000_000);
  }

  @Test
  void what_a_nested_transaction_gives_up_the_outer_one_cannot_commit() {
    long before = duplicates();
    assertThatThrownBy(
            () ->
                writing.executeWithoutResult(
                    status -> {
                      countDuplicate(1_000_000);
                      writing.executeWithoutResult(inner -> inner.setRollbackOnly());
                    }))
        .isInstanceOf(UnexpectedRollbackException.class);
    assertThat(duplicates()).isLessThan(before + 1_000_000);
  }

  @Test
  void a_transaction_of_its_own_stays_when_the_outer_one_is_taken_back() {
    var own = new TransactionTemplate(writing.getTransactionManager());
    own.setPropagationBehavior(TransactionTemplate.PROPAGATION_REQUIRES_NEW);
    long before = duplicates();
    writing.executeWithoutResult(
        status -> {
          own.executeWithoutResult(inner -> countDuplicate(1_000_000));
          status.setRollbackOnly();
        });
    assertThat(duplicates()).isGreaterThanOrEqualTo(before + 1_000_000);
    countDuplicate(-1_000_000);
  }

  @Test
  void a_method_that_only_reads_cannot_change_anything() {
    long before = duplicates();
    assertThatThrownBy(() -> reading.executeWithoutResult(status -> countDuplicate(1_000_000)))
        .hasMessageContaining("only reads");
    assertThat(duplicates()).isLessThan(before + 1_000_000);
  }

  @Test
  void a_query_outside_any_transaction_is_refused() {
    assertThatThrownBy(() -> session.createNativeQuery("select 1", Integer.class))
        .hasMessageContaining("outside a transaction");
  }
}
