package longthread.core.event;

/**
 * Something about an accepted event that its emitter should know.
 *
 * @param problem a stable word
 * @param detail a sentence that says what is done with it
 */
public record EventWarning(String problem, String detail) {
  static EventWarning repeatedMember(String member) {
    return new EventWarning(
        "repeated-member",
        "an object has the member '" + member + "' more than once; the last value counts");
  }

  static EventWarning farFuture(String eventTime) {
    return new EventWarning(
        "far-future",
        "eventTime "
            + eventTime
            + " is more than 24 hours after the event was received: it is kept, but never"
            + " counts as the newest; correct the sender's clock and send again");
  }
}
