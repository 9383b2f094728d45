/**
 * Who is calling, and what may they do? Keys for programs, accounts and sessions for people.
 *
 * <p>Start with {@link longthread.service.access.SecurityConfig}: which request needs which role. A
 * key is checked by its hash and cached for five seconds; the token itself is shown once and never
 * stored.
 *
 * <p>Roles count for the whole catalog, {@link longthread.service.access.Grants} for parts of it.
 * What that lets a caller see is decided in {@code live}'s Sight; {@link
 * longthread.service.access.LimitedCalls} says which calls stand it, and {@link
 * longthread.service.access.Redaction} takes the rest out of answers and files.
 */
@NullMarked
package longthread.service.access;

import org.jspecify.annotations.NullMarked;
