/**
 * How far what the catalog says can be relied on: whether those who report still do.
 *
 * <p>Start with {@link longthread.core.trust.Cadence}: the times at which something reported in,
 * how long it usually rests out.
 */
@NullMarked
package longthread.core.trust;

import org.jspecify.annotations.NullMarked;
