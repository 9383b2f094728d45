package longthread.service.notices;

import java.time.Instant;
import org.jspecify.annotations.Nullable;

/**
 * A notice as it is shown on what it affects.
 *
 * @param of the asset or column that it was put on
 * @param name of that
 */
public record ShownNotice(
    String id,
    String level,
    String text,
    String by,
    String of,
    String name,
    @Nullable Instant until,
    @Nullable String ticket) {
  static ShownNotice of(Notice notice) {
    return new ShownNotice(
        notice.id(),
        notice.level(),
        notice.text(),
        notice.by(),
        notice.ref(),
        notice.name(),
        notice.until(),
        notice.ticket());
  }
}
