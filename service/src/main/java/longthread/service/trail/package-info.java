/**
 * What did I look at, what do I mean to look at, and what did somebody follow and find right?
 *
 * <p>{@link longthread.service.trail.FollowedThreads} has the notes on threads, which lapse when a
 * link or the code on them changes; {@link longthread.service.trail.TrailController} the trail of
 * each person.
 */
@NullMarked
package longthread.service.trail;

import org.jspecify.annotations.NullMarked;
