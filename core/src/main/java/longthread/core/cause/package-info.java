/**
 * Why an asset is wrong or late: what went wrong upstream of it, and what of that is only an
 * effect.
 *
 * <p>Start with {@link longthread.core.cause.CauseSearch}.
 */
@NullMarked
package longthread.core.cause;

import org.jspecify.annotations.NullMarked;
