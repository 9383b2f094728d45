/**
 * Who did what, and who was refused what. Start with {@link AuditLog}: what changes something, what
 * takes data out, and what is refused is noted there, and nothing of it is ever changed.
 */
@NullMarked
package longthread.service.audit;

import org.jspecify.annotations.NullMarked;
