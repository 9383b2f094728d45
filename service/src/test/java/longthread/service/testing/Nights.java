package longthread.service.testing;

import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.UUID;

/** Nightly runs of jobs up to now, written as one word: {@code c} completed, {@code f} failed. */
public final class Nights {
  private final Api api;
  private final String namespace;

  /** When the newest night was. */
  private final Instant last =
      Instant.now().minus(Duration.ofHours(2)).truncatedTo(ChronoUnit.SECONDS);

  public Nights(Api api, String namespace) {
    this.api = api;
    this.namespace = namespace;
  }

  /**
   * Plays nights, the oldest first; a dot is a night without a run.
   *
   * @param minute after the begin of the night
   */
  public void play(String job, int minute, String from, String to, String nights) {
    for (int i = 0; i < nights.length(); i++) {
      char night = nights.charAt(i);
      Instant start =
          last.minus(Duration.ofDays(nights.length() - 1L - i)).plus(Duration.ofMinutes(minute));
      if (night != '.') {
        String rest = Events.copies(namespace, from, to, "x", "y");
        UUID run = UUID.randomUUID();
        api.event(Events.run("START", "" + start, run, namespace, job, rest));
        String type = night == 'f' ? "FAIL" : "COMPLETE";
        api.event(Events.run(type, "" + start.plusSeconds(40), run, namespace, job, rest));
      }
    }
  }
}
