package longthread.service.notices;

import java.time.Instant;
import org.jspecify.annotations.Nullable;

/**
 * What a person says of an asset to everybody whom it affects.
 *
 * @param ref of the asset or column that it is on
 * @param level info, warning or stop
 * @param state planned, active, ended or lifted
 * @param until when it ends by itself; absent if only lifting ends it
 * @param ticket the address of a ticket
 * @param liftedBy who lifted it
 * @param affects how many assets downstream it is shown on
 */
public record Notice(
    String id,
    String ref,
    String name,
    String level,
    String text,
    String by,
    Instant at,
    Instant from,
    @Nullable Instant until,
    @Nullable String ticket,
    String state,
    @Nullable Instant liftedAt,
    @Nullable String liftedBy,
    int affects) {
  /** Whether it is shown now. */
  public boolean isActive() {
    return state.equals("active");
  }
}
