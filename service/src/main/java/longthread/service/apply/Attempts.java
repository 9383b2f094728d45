package longthread.service.apply;

import java.util.UUID;
import longthread.service.log.LoggedEvent;
import longthread.service.storage.graph.HeadQueries;
import org.jspecify.annotations.Nullable;

/**
 * At which batch and event appliers ended, one after the other. An event that takes all the memory
 * ends the process, so that nothing can be caught and the next process ends as well: it is
 * recognised by the mark that each leaves in the database before it begins.
 *
 * <p>Only the first batch of an applier is marked, since a later one is the first of whoever
 * follows. A lost connection is no end: the mark is then the process's own. For one thread, except
 * {@link #cut}.
 */
final class Attempts {
  /** A batch at which so many ended is applied event by event, such an event is set aside. */
  static final int MAX_ENDS = 3;

  private final UUID self;
  private volatile boolean isCut;
  private HeadQueries.@Nullable Attempt found;

  Attempts(UUID self) {
    this.self = self;
  }

  /** Notes that this process was cut off at what it is at: it would have gone on endlessly. */
  void cut() {
    isCut = true;
  }

  /**
   * Notes that a batch is begun.
   *
   * @return whether so many ended at it that it must be applied event by event
   */
  boolean isSuspect(ApplierSession locked, long block) {
    HeadQueries head = locked.stores().head();
    HeadQueries.Attempt before = locked.call(head::attempt);
    boolean isSame = Long.valueOf(block).equals(before.block());
    boolean isEnd = isCut || !self.equals(before.by());
    int ends = isSame ? before.ends() + (isEnd ? 1 : 0) : 0;
    isCut = false;
    if (isSame && (before.position() != null || ends >= MAX_ENDS)) {
      found = new HeadQueries.Attempt(block, before.position(), self, ends);
      return true;
    }
    locked.inTransaction(() -> head.noteAttempt(block, null, self, ends));
    return false;
  }

  /** Notes that an event of a suspect block is begun; returns how many ended at it before. */
  int begin(ApplierSession locked, LoggedEvent event) {
    boolean isSame = found != null && Integer.valueOf(event.position()).equals(found.position());
    int ends = isSame ? found.ends() : 0;
    locked.inTransaction(
        () -> locked.stores().head().noteAttempt(event.block(), event.position(), self, ends));
    return ends;
  }

  /** Takes the mark away, in the transaction that applied what it stands for. */
  void done(ApplierSession locked) {
    locked.stores().head().clearAttempt();
    found = null;
  }
}
