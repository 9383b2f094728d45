/**
 * Who is notified of what? Watches on assets, owners, labels and workspaces, and the messages that
 * they send: one for each cause, never one for each effect.
 *
 * <p>Start with {@link longthread.service.watches.WatchRunner}, which compares the present causes
 * and notices with what each watch knows. {@link longthread.service.watches.Deliverer} sends what
 * is due, again and again for a day, and then gives it up to the list of dead messages.
 */
@NullMarked
package longthread.service.watches;

import org.jspecify.annotations.NullMarked;
