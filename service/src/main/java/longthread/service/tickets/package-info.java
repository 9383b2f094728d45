/**
 * Who follows it up? Tickets opened in another system from a suspect or a notice, with everything
 * that is known attached, and their closing reported back.
 *
 * <p>Start with {@link longthread.service.tickets.Tickets}. The other system takes a CloudEvent by
 * POST and answers with {@code id} and {@code url}; see docs/notify.md.
 */
@NullMarked
package longthread.service.tickets;

import org.jspecify.annotations.NullMarked;
