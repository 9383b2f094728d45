/**
 * How does this report do, for people without an account? A badge and a plain page, reached by a
 * link that was made for that report, ends by itself and can be revoked.
 *
 * <p>Start with {@link longthread.service.sharing.StatusPage}.
 */
@NullMarked
package longthread.service.sharing;

import org.jspecify.annotations.NullMarked;
