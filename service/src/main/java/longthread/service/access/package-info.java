/**
 * Who is calling, and what may they do? Keys for programs, accounts and sessions for people.
 *
 * <p>Start with {@link longthread.service.access.SecurityConfig}: which request needs which role. A
 * key is checked by its hash and cached for five seconds; the token itself is shown once and never
 * stored.
 */
@NullMarked
package longthread.service.access;

import org.jspecify.annotations.NullMarked;
