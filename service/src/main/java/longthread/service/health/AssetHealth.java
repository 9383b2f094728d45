package longthread.service.health;

import java.time.Instant;
import java.util.List;
import longthread.core.trust.HealthState;
import longthread.service.notices.ShownNotice;
import org.jspecify.annotations.Nullable;

/**
 * How an asset does, in one word and one line.
 *
 * @param state by itself: healthy, unusual, late, overdue, check-failed, failed or unknown
 * @param reason one line
 * @param since since when it is so; absent where nothing is wrong
 * @param ref the job or asset that is meant, if it is not the asset itself
 * @param inherited the worst that is wrong upstream; absent if nothing is
 * @param writtenAt when it was last written with success; absent where no run is known
 * @param expectedAt when it should next be fresh; absent where it has no rhythm
 * @param notices what people say of it or of something upstream that affects it
 */
public record AssetHealth(
    String state,
    String reason,
    @Nullable Instant since,
    @Nullable String ref,
    @Nullable InheritedHealth inherited,
    @Nullable Instant writtenAt,
    @Nullable Instant expectedAt,
    List<ShownNotice> notices) {
  /** Of what the caller may not see. */
  static final AssetHealth HIDDEN =
      new AssetHealth(
          HealthState.UNKNOWN.word(),
          "you may not see this",
          null,
          null,
          null,
          null,
          null,
          List.of());

  /** What is wrong upstream of an asset. */
  public record InheritedHealth(
      String state, String reason, Instant since, String ref, String name) {}

  public AssetHealth {
    notices = List.copyOf(notices);
  }
}
