package longthread.core.cause;

import longthread.core.cause.Causes.Incident;

/**
 * An incident with what can be said of it alone.
 *
 * @param time 1 if it holds for what the symptom rests on now, less if it is over
 * @param rarity 1 if it never happened there before, less for what happens often
 * @param harmless whether it cannot bring about anything
 */
record Finding(Incident incident, double time, double rarity, boolean harmless) {
  Finding(Incident incident, double time, double rarity) {
    this(incident, time, rarity, false);
  }

  static final double OVER = 0.5; // it was so in the window, and is not so any more
}
