/**
 * How far can the catalog be relied on: do those who report still do so?
 *
 * <p>Start with {@link longthread.core.trust.Cadence}: the times at which something reported in,
 * how long it usually rests out.
 */
@NullMarked
package longthread.core.trust;

import org.jspecify.annotations.NullMarked;
