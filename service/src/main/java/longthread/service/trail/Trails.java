package longthread.service.trail;

import java.time.Clock;
import java.time.Instant;
import java.util.List;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.References;
import longthread.service.storage.sharing.SharingQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;

/** What each person looked at and means to look at. */
@Service
class Trails {
  /**
   * Something that was looked at, or is to be.
   *
   * @param later true to mark it as to be looked at later
   */
  record NewStep(String ref, @Nullable Boolean later, @Nullable String note) {}

  record TrailStep(
      String ref, String name, String kind, Instant at, boolean later, @Nullable String note) {}

  /** A trail as somebody may see it. */
  record Seen(String person, boolean shared, List<String> others, List<TrailStep> steps) {}

  private static final int KEPT = 200;
  private static final int MAX_NOTE = 500;

  private final SharingQueries stored;
  private final References references;
  private final Catalog catalog;
  private final Clock clock;

  Trails(SharingQueries stored, References references, Catalog catalog, Clock clock) {
    this.stored = stored;
    this.references = references;
    this.catalog = catalog;
    this.clock = clock;
  }

  /**
   * A person's trail.
   *
   * @param person whose; the caller's for null
   * @param later only what is to be looked at later, or only what was looked at; both for null
   */
  Seen of(String caller, @Nullable String person, @Nullable Boolean later) {
    String of = person == null || person.isBlank() ? caller : person.strip();
    List<String> sharing = stored.sharing();
    if (!of.equals(caller) && !sharing.contains(of)) {
      throw new ProblemException(
          HttpStatus.FORBIDDEN,
          "forbidden",
          "This trail is not shared",
          "'" + of + "' does not share a trail; ask them to share it");
    }
    List<TrailStep> steps =
        stored.trail(of, 2 * KEPT).stream()
            .filter(step -> later == null || step.later() == later)
            .map(this::step)
            .toList();
    List<String> others = sharing.stream().filter(one -> !one.equals(caller)).toList();
    return new Seen(of, sharing.contains(of), others, steps);
  }

  private TrailStep step(SharingQueries.Step row) {
    String lead = catalog.leadOf(row.ref());
    Asset asset = catalog.asset(lead).orElse(null);
    return new TrailStep(
        lead,
        asset == null ? lead : asset.shown(),
        asset == null ? "dataset" : asset.kind().word(),
        row.at(),
        row.later(),
        row.note());
  }

  void add(String person, NewStep step) {
    Asset asset = references.resolve(step.ref() == null ? "" : step.ref()).asset();
    String note = step.note() == null ? "" : step.note().strip();
    if (note.length() > MAX_NOTE) {
      throw ProblemException.badRequest(
          "bad-note", "the note has over " + MAX_NOTE + " characters; shorten it");
    }
    boolean later = Boolean.TRUE.equals(step.later());
    stored.step(person, asset.ref(), clock.instant(), later, note);
    stored.keepNewest(person, KEPT);
  }

  void noLongerLater(String person, String ref) {
    stored.noLongerLater(person, references.resolve(ref).asset().ref());
  }

  void share(String person, boolean shared) {
    if (shared) {
      stored.share(person);
    } else {
      stored.unshare(person);
    }
  }
}
