package longthread.service.log;

import java.util.ArrayList;
import java.util.List;
import longthread.service.storage.log.BlockQueries;

/**
 * The blocks that are read at once: the oldest that wait, as many as hold a bounded number of
 * events and bytes, and at least one.
 *
 * @param ids of the blocks, oldest first
 * @param entries how many entries they hold, refused ones counted
 * @param isFull whether more blocks may be waiting
 */
public record BlockBatch(List<Long> ids, int entries, boolean isFull) {
  /** How many blocks are read at once at the most. */
  public static final int MAX_BLOCKS = 256;

  private static final int MAX_EVENTS = 2_000;

  // Of bodies as they are stored. What a workspace holds is read into as many facets as a hundred
  // events have, so a count alone would not bound the memory of a batch.
  private static final int MAX_BYTES = 1 << 20;

  public BlockBatch {
    ids = List.copyOf(ids);
  }

  /**
   * Chooses from the oldest blocks that wait.
   *
   * @param most how many of them were asked for
   */
  public static BlockBatch of(List<BlockQueries.Size> oldest, int most) {
    var ids = new ArrayList<Long>();
    int entries = 0;
    long bytes = 0;
    for (BlockQueries.Size block : oldest) {
      if (!ids.isEmpty()
          && (entries + block.events() > MAX_EVENTS || bytes + block.bytes() > MAX_BYTES)) {
        break;
      }
      ids.add(block.id());
      entries += block.events();
      bytes += block.bytes();
    }
    return new BlockBatch(ids, entries, oldest.size() == most || ids.size() < oldest.size());
  }

  public boolean isEmpty() {
    return ids.isEmpty();
  }

  /** The ids as a statement takes them. */
  public Long[] idArray() {
    return ids.toArray(Long[]::new);
  }

  /** The accepted events of the blocks, in the order of the log. */
  public List<LoggedEvent> events(BlockQueries blocks) {
    var events = new ArrayList<LoggedEvent>();
    for (BlockQueries.Body block : blocks.bodies(idArray())) {
      events.addAll(BlockCodec.events(block.id(), block.receivedAt(), block.body()));
    }
    return events;
  }
}
