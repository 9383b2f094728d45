/**
 * Why is an asset wrong or late? What went wrong upstream of it, and what of that is only an
 * effect.
 *
 * <p>Start with {@link longthread.core.cause.CauseSearch}.
 */
@NullMarked
package longthread.core.cause;

import org.jspecify.annotations.NullMarked;
