/**
 * Whom may the service call, and how long may it wait? Every call to an address that somebody
 * entered goes through here.
 *
 * <p>Start with {@link longthread.service.outgoing.OutgoingCalls}. An address is checked when its
 * name is resolved for the connection ({@link longthread.service.outgoing.Destinations}), so a name
 * that changes its meaning gains nothing. Redirects are not followed; an answer has a limit of size
 * and the whole exchange one of time.
 */
@NullMarked
package longthread.service.outgoing;

import org.jspecify.annotations.NullMarked;
